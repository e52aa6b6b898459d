"""OBJ: polygons kept as polygons, objects and groups as parts, smoothing groups, materials."""

import itertools
from dataclasses import dataclass, field, replace
from pathlib import PurePosixPath

import numpy as np
from numpy.typing import NDArray

from plindro.core.errors import UnreadableFile
from plindro.core.files.limits import Census
from plindro.core.files.obj.mtl import MaterialLibrary, plain_material
from plindro.core.files.obj.tokens import (
    BAD_INDEX,
    BAD_NUMBER,
    FEW_NUMBERS,
    NO_INDEX,
    count_lines,
    fill_arrays,
)
from plindro.core.files.sidefiles import SideFiles
from plindro.core.findings import Finding, Severity
from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, I32, NO_GROUP, Mesh, make_mesh
from plindro.core.numeric.srgb import to_linear
from plindro.core.scene import Part, Scene, with_own_paths

_UNUSED = {"p": "points", "curv": "curves", "curv2": "curves", "surf": "surfaces"}
_ERRORS = {
    BAD_NUMBER: "a value there is no number",
    BAD_INDEX: "a face there names a vertex that the file does not hold",
    FEW_NUMBERS: "there are too few numbers",
}


@dataclass(slots=True)
class _Arrays:
    """The file's numbers, as the compiled reader left them."""

    positions: NDArray[np.float64]
    colors: F32
    uvs: F32
    normals: F32
    face_start: NDArray[np.int64]
    corner_v: I32
    corner_vt: I32
    corner_vn: I32
    face_line: I32
    events: NDArray[np.int64]
    n_colored: int


@dataclass(slots=True)
class _Names:
    """Per-face ids built from the named lines between the faces."""

    face_part: I32
    face_material: I32
    face_smoothing: I32
    parts: list[Part] = field(default_factory=list)
    materials: list[str] = field(default_factory=list)
    libraries: list[str] = field(default_factory=list)
    unused: dict[str, int] = field(default_factory=dict)
    lines: list[tuple[str, int]] = field(default_factory=list)


def read_obj(data: bytes, name: str, side_files: SideFiles, census: Census) -> Scene:
    """Read OBJ bytes into a scene; raises ``UnreadableFile`` with the line where something is wrong."""
    if b"\\" in data:
        data = data.replace(b"\\\r\n", b"   ").replace(b"\\\n", b"  ")
    if b"\n" not in data:
        data = data.replace(b"\r", b"\n")
    arrays = _read_arrays(np.frombuffer(data, np.uint8), name, census)
    names = _read_names(data, arrays, PurePosixPath(name).stem, census)
    library = MaterialLibrary(side_files, name)
    for file in dict.fromkeys(names.libraries):
        library.load(file)
    findings = list(library.findings)
    unknown = [m for m in names.materials if m not in library.materials and m]
    if unknown and library.materials:
        findings.append(
            Finding(
                "unknown-material",
                Severity.WARNING,
                f"{len(unknown)} materials are in no library ('{unknown[0]}' ...); they stay plain",
                len(unknown),
            )
        )
    mesh = _make_mesh(arrays, names, findings)
    is_colored = mesh.colors is not None
    materials = tuple(
        library.materials.get(m) or plain_material(m or "default", is_colored=is_colored) for m in names.materials
    )
    used_images = sorted({t.image for m in materials for t in m.all_textures()})
    position = {image: i for i, image in enumerate(used_images)}
    materials = tuple(m.with_textures(lambda t: replace(t, image=position[t.image])) for m in materials)
    return Scene(
        name=PurePosixPath(name).stem,
        format="OBJ",
        mesh=mesh,
        parts=with_own_paths(names.parts),
        materials=materials,
        images=tuple(library.images[i] for i in used_images),
        unused=tuple(sorted(names.unused.items())),
        findings=tuple(findings),
        unused_materials=tuple(sorted(set(library.materials) - set(names.materials))),
    )


def _read_arrays(data: NDArray[np.uint8], name: str, census: Census) -> _Arrays:
    n_v, n_vt, n_vn, n_f, n_corners, n_other = count_lines(data)
    if n_v == 0 and n_f == 0:
        raise UnreadableFile(f"{name}: holds no line of an OBJ file; it is text of some other kind")
    census.add(vertices=n_v, faces=n_f)
    arrays = _Arrays(
        positions=np.empty((n_v, 3)),
        colors=np.ones((n_v, 3), np.float32),
        uvs=np.empty((n_vt, 2), np.float32),
        normals=np.empty((n_vn, 3), np.float32),
        face_start=np.empty(n_f + 1, np.int64),
        corner_v=np.empty(n_corners, np.int32),
        corner_vt=np.empty(n_corners, np.int32),
        corner_vn=np.empty(n_corners, np.int32),
        face_line=np.empty(n_f, np.int32),
        events=np.empty((n_other, 4), np.int64),
        n_colored=0,
    )
    code, line, arrays.n_colored = fill_arrays(
        data, arrays.positions, arrays.colors, arrays.uvs, arrays.normals, arrays.face_start, arrays.corner_v,
        arrays.corner_vt, arrays.corner_vn, arrays.face_line, arrays.events,
    )  # fmt: skip
    if code == 0:
        for corner, limit in ((arrays.corner_v, n_v), (arrays.corner_vt, n_vt), (arrays.corner_vn, n_vn)):
            beyond = np.flatnonzero(corner >= limit)
            if len(beyond):
                face = int(np.searchsorted(arrays.face_start, beyond[0], "right")) - 1
                code, line = BAD_INDEX, int(arrays.face_line[face])
                break
    if code:
        raise UnreadableFile(f"{name}, line {line}: {_ERRORS[code]}; export the file again")
    return arrays


def _read_names(data: bytes, arrays: _Arrays, default: str, census: Census) -> _Names:
    """Walk the named lines and spread their meaning over the faces that follow each."""
    n_faces = len(arrays.face_start) - 1
    names = _Names(np.zeros(n_faces, np.int32), np.zeros(n_faces, np.int32), np.full(n_faces, NO_GROUP, np.int32))
    part_ids: dict[tuple[str, str], int] = {}
    material_ids: dict[str, int] = {}
    obj = group = material = ""
    smoothing = NO_GROUP
    done = 0

    def spread(until: int) -> None:
        nonlocal done
        if until > done:
            part = part_ids.setdefault((obj, group), len(part_ids))
            names.face_part[done:until] = part
            names.face_material[done:until] = material_ids.setdefault(material, len(material_ids))
            names.face_smoothing[done:until] = smoothing
            done = until

    for begin, end, faces_before, vertices_before in arrays.events.tolist():
        keyword, _, rest = data[begin:end].decode("utf-8", "replace").strip().replace("\t", " ").partition(" ")
        rest = rest.strip()
        if keyword in ("o", "g", "usemtl", "s"):
            spread(faces_before)
        if keyword == "o":
            obj, group = rest, ""
        elif keyword == "g":
            group = " ".join(rest.split())
        elif keyword == "usemtl":
            material = rest
        elif keyword == "s":
            smoothing = int(rest) if rest.isdigit() and int(rest) < 2**31 else 0
        elif keyword == "mtllib":
            names.libraries += _library_names(rest)
        elif keyword == "l":
            names.lines.append((rest, vertices_before))
        elif keyword in _UNUSED:
            names.unused[_UNUSED[keyword]] = names.unused.get(_UNUSED[keyword], 0) + 1
    spread(n_faces)
    census.add(nodes=len(part_ids))
    for o, g in part_ids:
        path = "/".join(x for x in (o, g) if x) or default
        names.parts.append(Part(g or o or default, path, object=o or path, parent=o or path, group=g or o or default))
    names.materials = list(material_ids)
    return names


def _library_names(rest: str) -> list[str]:
    """``mtllib`` may list several files, and one name may hold blanks: both are met in the wild."""
    tokens = rest.split()
    return tokens if len(tokens) > 1 and all(t.lower().endswith(".mtl") for t in tokens) else [rest]


def _make_mesh(arrays: _Arrays, names: _Names, findings: list[Finding]) -> Mesh:
    uvs: tuple[F32, ...] = ()
    has_uv = arrays.corner_vt != NO_INDEX
    if has_uv.any():
        uv = np.zeros((len(has_uv), 2), np.float32)
        uv[has_uv] = arrays.uvs[arrays.corner_vt[has_uv]]
        uv[has_uv, 1] = 1.0 - uv[has_uv, 1]
        uvs = (uv,)
        if not has_uv.all():
            missing = int((~has_uv).sum())
            findings.append(
                Finding(
                    "uvs-partly-missing", Severity.WARNING, f"{missing} corners have no UV; they lie at 0, 0", missing
                )
            )
    normals = None
    has_normal = arrays.corner_vn != NO_INDEX
    if has_normal.any():
        normals = np.zeros((len(has_normal), 3), np.float32)
        normals[has_normal] = unit(arrays.normals.astype(np.float64))[arrays.corner_vn[has_normal]]
    colors = None
    if arrays.n_colored:
        rgb = arrays.colors if arrays.colors.max(initial=0.0) <= 1.0 else arrays.colors / np.float32(255.0)
        rgba = np.concatenate([to_linear(rgb), np.ones((len(rgb), 1), np.float32)], axis=1)
        colors = rgba[arrays.corner_v]
    mesh = make_mesh(
        arrays.positions,
        arrays.face_start,
        arrays.corner_v,
        face_material=names.face_material,
        face_part=names.face_part,
        face_smoothing=names.face_smoothing,
        normals=normals,
        uvs=uvs,
        colors=colors,
    )
    edges = [pair for rest, n_vertices in names.lines for pair in _edges(rest, n_vertices)]
    return replace(mesh, loose_edges=np.array(edges, np.int32).reshape(-1, 2)) if edges else mesh


def _edges(rest: str, n_vertices: int) -> list[tuple[int, int]]:
    """Vertex pairs of a line element; numbers that name no vertex are passed over."""
    run = []
    for token in rest.split():
        text = token.split("/")[0]
        if text.lstrip("-").isdigit():
            index = int(text)
            vertex = index - 1 if index > 0 else n_vertices + index
            if 0 <= vertex < n_vertices:
                run.append(vertex)
    return list(itertools.pairwise(run))
