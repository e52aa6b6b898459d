"""OBJ with its material library as an engine reads it."""

from collections.abc import Iterator, Mapping
from pathlib import PurePosixPath

import numpy as np

from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.found import F64, I64, Found, FoundImage, FoundMap, FoundMaterial, FoundNode, Primitive
from plindro.core.rehearsal.images import look_at
from plindro.core.rehearsal.readers.beside import find_beside
from plindro.core.rehearsal.readers.corners import fan, primitive_of

_SLOTS = {
    "map_Kd": "base_color", "norm": "normal", "map_Bump": "normal", "bump": "normal", "map_Pr": "metallic_roughness",
    "map_Pm": "metallic_roughness", "map_ao": "occlusion", "map_Ke": "emissive",
}  # fmt: skip


class _Rows:
    """What has been read so far: the rows of places, UVs and normals as text, and faces by object and material."""

    def __init__(self, name: str) -> None:
        self.columns: dict[str, list[str]] = {"v": [], "vt": [], "vn": []}
        self.objects: dict[str, dict[str, list[str]]] = {}
        self.libraries: list[str] = []
        self._name, self._material = name, ""
        self._into: list[str] | None = None

    def take(self, key: str, rest: str) -> None:
        """Take a line that begins with ``key``."""
        if key in self.columns:
            self.columns[key].append(rest)
        elif key == "f":
            if self._into is None:
                self._into = self.objects.setdefault(self._name, {}).setdefault(self._material, [])
            self._into.append(self._from_the_end(rest) if "-" in rest else rest)
        elif key == "o":
            self._name, self._into = rest, None
            self.objects.setdefault(rest, {})
        elif key == "usemtl":
            self._material, self._into = rest, None
        elif key == "mtllib":
            self.libraries.append(rest)

    def _from_the_end(self, face: str) -> str:
        """A face whose numbers count back from the last row, with numbers from the first."""
        counts = [len(rows) for rows in self.columns.values()]
        words = []
        for word in face.split():
            numbers = [int(part) if part else 0 for part in word.split("/")]
            words.append("/".join(str(n + 1 + counts[k] if n < 0 else n) for k, n in enumerate(numbers)))
        return " ".join(words)


def read_obj(path: str, files: Mapping[str, bytes], axes: Axes) -> Found:
    """The objects of an OBJ; faces become triangles by a fan, as engines cut them."""
    read = _Rows(PurePosixPath(path).stem)
    for key, rest in _lines(files[path].decode("utf-8", "replace")):
        read.take(key, rest)
    materials = [found for library in read.libraries for found in _materials(path, library, files)]
    number = {found.name: index for index, found in enumerate(materials)}
    tables = tuple(_table(read.columns[key], width) for key, width in (("v", 3), ("vt", 2), ("vn", 3)))
    roots = [
        FoundNode(title, primitives=[_primitive(lines, tables, number.get(m), axes) for m, lines in faces.items()])
        for title, faces in read.objects.items()
    ]
    return Found(roots, materials, is_flat=True)


def _lines(text: str) -> Iterator[tuple[str, str]]:
    for line in text.replace("\\\n", " ").splitlines():
        key, _, rest = (line.partition("#")[0] if "#" in line else line).strip().partition(" ")
        if key:
            yield key, rest.strip()


def _table(rows: list[str], width: int) -> F64:
    """(n, width) the numbers of rows; what more a row has is left out."""
    if not rows:
        return np.zeros((0, width))
    numbers = np.array(" ".join(rows).split(), np.float64)
    if numbers.size == len(rows) * width:
        return numbers.reshape(-1, width)
    return np.array([row.split()[:width] for row in rows], np.float64)


def _corners(faces: list[str]) -> I64:
    """(C, 3) rows, from 0, of the place, UV and normal of each corner; -1 where it names none."""
    words = " ".join(faces).split()
    depth = words[0].count("/") if words else 0
    if all(word.count("/") == depth for word in words):
        text = " ".join(words).replace("//", "/0/").replace("/", " ")
        named = np.array(text.split(), np.int64).reshape(-1, depth + 1)
    else:
        parts = [[int(part) if part else 0 for part in f"{word}//".split("/")[:3]] for word in words]
        named = np.array(parts, np.int64).reshape(-1, 3)
    missing = np.zeros((len(named), 3 - named.shape[1]), np.int64)
    return np.concatenate([named, missing], axis=1) - 1


def _primitive(faces: list[str], tables: tuple[F64, ...], material: int | None, axes: Axes) -> Primitive:
    corner = _corners(faces)
    for k, what in enumerate(("place", "UV", "normal")):
        if len(corner) and (corner[:, k].max() >= len(tables[k]) or (k == 0 and corner[:, 0].min() < 0)):
            raise ValueError(f"a face names a {what} that is not there")
    index = corner[fan(np.array([len(face.split()) for face in faces], np.int64))[0].reshape(-1)]
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
