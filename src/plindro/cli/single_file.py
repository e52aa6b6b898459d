"""Commands that take one file and write one: reading it as a prop in metres, and writing it under the name given."""

from dataclasses import replace
from pathlib import Path, PurePosixPath

import numpy as np

from plindro.cli.reading import read_source
from plindro.core.destinations import Destination, Format
from plindro.core.errors import InvalidSettings, UnreadableFile
from plindro.core.findings import Finding, Severity
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import Mask, Mesh, drop_unused_vertices
from plindro.core.names import clean_name
from plindro.core.prop import Prop, prop_from_scene
from plindro.core.report import Report
from plindro.core.shipping import write_prop, write_whole
from plindro.core.stations.placement import PlacementSettings
from plindro.core.stations.placement import run as place
from plindro.core.stations.textures import with_heights_as_normals

_FORMATS: dict[str, Format] = {
    ".glb": "glb", ".gltf": "gltf", ".obj": "obj", ".ply": "ply", ".stl": "stl", ".usd": "usd", ".usda": "usda",
    ".usdc": "usd", ".usdz": "usdz",
}  # fmt: skip


def format_of(out: str) -> Format:
    """The format that a file name asks for; raises ``InvalidSettings`` where it is not written, or is a folder."""
    target = Path(out)
    kind = _FORMATS.get(target.suffix.lower())
    if kind is None:
        raise InvalidSettings(f"{out}: files ending in '{target.suffix}' are not written; use {', '.join(_FORMATS)}")
    if target.is_dir():
        raise InvalidSettings(f"{out}: is a folder; give a file name")
    return kind


def open_prop(file: str, name: str, report: Report) -> Prop:
    """The whole file as one prop in metres, Y up, its pivot where it was; only faces that can be written."""
    scene = read_source(file)
    report.findings.extend(scene.findings)
    prop = with_heights_as_normals(prop_from_scene(scene, clean_name(name)), report)
    prop = replace(prop, mesh=_sound(prop.mesh, file, report), keeps_parts=True)
    return place(prop, PlacementSettings(pivot="source", expected_size_m=(1e-9, 1e9)), Report())


def _sound(mesh: Mesh, file: str, report: Report) -> Mesh:
    """The mesh without faces that cannot be written, with finite UVs; raises where nothing is left."""
    finite: Mask = np.asarray(np.isfinite(mesh.positions).all(axis=1))
    bad: Mask = np.asarray(mesh.face_sides < 3)
    bad |= np.bincount(mesh.corner_face()[~finite[mesh.corner_vertex]], minlength=mesh.n_faces) > 0
    if bad.any():
        n = int(bad.sum())
        text = f"{n} {'face' if n == 1 else 'faces'} without three corners or with a non-finite vertex removed"
        report.find(Finding("faces-removed", Severity.WARNING, text, n))
        mesh = drop_unused_vertices(mesh.with_faces(~bad))
    if not mesh.n_faces:
        raise UnreadableFile(f"{file}: holds no faces that can be cut; export it with its mesh")
    return replace(mesh, uvs=tuple(np.nan_to_num(uv, posinf=0.0, neginf=0.0) for uv in mesh.uvs))


def with_normals(mesh: Mesh, drop: bool, report: Report) -> Mesh:
    """The mesh with the source's normals; where one is not valid, that of its face."""
    if mesh.normals is None or drop:
        return replace(mesh, normals=None)
    invalid = ~(np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0) < 1e-3)
    if not invalid.any():
        return mesh
    text = f"{int(invalid.sum())} corners had no valid normal and got that of their face"
    report.find(Finding("invalid-normals", Severity.WARNING, text, int(invalid.sum())))
    flat = np.repeat(unit(face_vectors(mesh)), 3, axis=0)
    flat[np.abs(flat).sum(axis=1) == 0] = (0.0, 1.0, 0.0)
    return replace(mesh, normals=np.where(invalid[:, None], flat, mesh.normals).astype(np.float32))


def write_single(prop: Prop, kind: Format, target: Path) -> None:
    """The file under the name that was asked for, its companions beside it, all whole."""
    files = write_prop(prop, Destination(name="file", title="A file", format=kind))
    try:
        for file in files[1:]:
            write_whole(target.parent / PurePosixPath(file.path).name, file.data)
        write_whole(target, files[0].data)
    except OSError as error:
        raise InvalidSettings(f"{target}: cannot be written ({error.strerror}); choose another place") from error
