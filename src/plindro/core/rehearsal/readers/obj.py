"""OBJ with its material library as an engine reads it."""

from collections.abc import Iterator, Mapping
from pathlib import PurePosixPath

import numpy as np

from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.found import F64, Found, FoundImage, FoundMap, FoundMaterial, FoundNode, Primitive
from plindro.core.rehearsal.images import look_at
from plindro.core.rehearsal.readers.beside import find_beside
from plindro.core.rehearsal.readers.corners import primitive_of

_SLOTS = {
    "map_Kd": "base_color", "norm": "normal", "map_Bump": "normal", "bump": "normal", "map_Pr": "metallic_roughness",
    "map_Pm": "metallic_roughness", "map_ao": "occlusion", "map_Ke": "emissive",
}  # fmt: skip
Corner = tuple[int, int, int]


class _Faces:
    """Triangles of one object and material, as corners that name a place, a UV and a normal."""

    def __init__(self) -> None:
        self.corners: list[Corner] = []


def read_obj(path: str, files: Mapping[str, bytes], axes: Axes) -> Found:
    """The objects of an OBJ; faces become triangles by a fan, as engines cut them."""
    columns: dict[str, list[list[float]]] = {"v": [], "vt": [], "vn": []}
    objects: dict[str, dict[str, _Faces]] = {}
    libraries: list[str] = []
    name, material = PurePosixPath(path).stem, ""
    for key, rest in _lines(files[path].decode("utf-8", "replace")):
        if key in columns:
            columns[key].append([float(number) for number in rest.split()])
        elif key == "f":
            counts = (len(columns["v"]), len(columns["vt"]), len(columns["vn"]))
            corners = [_corner(word, counts) for word in rest.split()]
            into = objects.setdefault(name, {}).setdefault(material, _Faces()).corners
            for k in range(1, len(corners) - 1):
                into += (corners[0], corners[k], corners[k + 1])
        elif key == "o":
            name = rest
            objects.setdefault(name, {})
        elif key == "usemtl":
            material = rest
        elif key == "mtllib":
            libraries.append(rest)
    materials = [found for library in libraries for found in _materials(path, library, files)]
    number = {found.name: index for index, found in enumerate(materials)}
    tables = (_table(columns["v"], 3), _table(columns["vt"], 2), _table(columns["vn"], 3))
    roots = [
        FoundNode(title, primitives=[_primitive(f.corners, tables, number.get(m), axes) for m, f in faces.items()])
        for title, faces in objects.items()
    ]
    return Found(roots, materials, is_flat=True)


def _lines(text: str) -> Iterator[tuple[str, str]]:
    for line in text.replace("\\\n", " ").splitlines():
        key, _, rest = line.partition("#")[0].strip().partition(" ")
        if key:
            yield key, rest.strip()


def _corner(word: str, counts: tuple[int, int, int]) -> Corner:
    """Numbers from 0 of a corner's place, UV and normal; -1 where it names none."""
    parts = (word.split("/") + ["", ""])[:3]
    numbers = [int(part) if part else 0 for part in parts]
    found = [n - 1 if n > 0 else counts[k] + n if n else -1 for k, n in enumerate(numbers)]
    if not 0 <= found[0] < counts[0] or any(found[k] >= counts[k] for k in (1, 2)):
        raise ValueError(f"a face names {word}, which is not there")
    return found[0], found[1], found[2]


def _table(rows: list[list[float]], width: int) -> F64:
    return np.array([row[:width] for row in rows], np.float64).reshape(-1, width)


def _primitive(corners: list[Corner], tables: tuple[F64, F64, F64], material: int | None, axes: Axes) -> Primitive:
    index = np.array(corners, np.int64).reshape(-1, 3)
    uvs, normals = {}, None
    if len(index) and (index[:, 1] >= 0).all():
        # V counts down the picture in the other formats.
        uvs[0] = tables[1][index[:, 1]] * (1.0, -1.0) + (0.0, 1.0)
    if len(index) and (index[:, 2] >= 0).all():
        normals = axes.directions(tables[2][index[:, 2]])
    return primitive_of(axes.points(tables[0][index[:, 0]]), normals, uvs, axes, material)


def _materials(path: str, library: str, files: Mapping[str, bytes]) -> list[FoundMaterial]:
    data = find_beside(path, library, files)
    if data is None:
        image = FoundImage(library, "missing", fault="it does not lie there")
        return [FoundMaterial(library, (FoundMap("library", 0, (image,)),))]
    found: list[FoundMaterial] = []
    for key, rest in _lines(data.decode("utf-8", "replace")):
        if key == "newmtl":
            found.append(FoundMaterial(rest))
        elif key in _SLOTS and found:
            named = rest.split()[-1] if rest.startswith("-") else rest
            lies = find_beside(path, named, files)
            image = look_at(named, lies) if lies is not None else FoundImage(named, "missing", fault="no such file")
            row = FoundMap(_SLOTS[key], 0, (image,))
            if row not in found[-1].maps:
                found[-1] = FoundMaterial(found[-1].name, (*found[-1].maps, row))
    return found
