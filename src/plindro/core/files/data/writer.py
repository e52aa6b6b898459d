"""All arrays of a prop as .npz: one entry an array, and a JSON text that says what they are (docs/shipping.md)."""

import io
import json
from collections.abc import Sequence
from typing import Any

import numpy as np

from plindro.core.files.form import PLAIN_FORM, FileForm
from plindro.core.mesh.mesh import F32
from plindro.core.mesh.streams import vertex_stream
from plindro.core.prop import Level, Prop

VERSION = 1


def write_data(prop: Prop, form: FileForm = PLAIN_FORM, occlusion: Sequence[F32] = ()) -> bytes:
    """The bytes of an .npz of a prop with levels, in the axes and the unit that it is in.

    ``occlusion`` (C,) of each level's corners is written where it is given. The same prop gives the same bytes: entries
    are stored as they are, without a clock. Raises ``ValueError`` where there are no levels.
    """
    if not prop.levels:
        raise ValueError(f"prop '{prop.name}' has no levels to write")
    arrays: dict[str, Any] = {}
    levels = []
    for level in prop.levels:
        own = occlusion[level.index] if occlusion else None
        arrays |= {f"lod{level.index}_{key}": values for key, values in _level(level, own).items()}
        levels.append(_said(prop, level))
    for index, proxy in enumerate(prop.proxies):
        arrays[f"proxy{index}_positions"] = proxy.mesh.points.astype("<f4")
        arrays[f"proxy{index}_triangles"] = proxy.mesh.triangles.astype("<u4")
    about = {
        "version": VERSION,
        "prop": prop.name,
        "up": form.up,
        "metres_per_unit": form.metres,
        "winding": "clockwise" if form.clockwise else "counterclockwise",
        "not_drawn_from": None if np.isinf(prop.last_distance) else prop.last_distance,
        "levels": levels,
        "materials": [material.name for material in prop.materials],
        "parts": [part.name for part in prop.parts],
        "proxies": [{"name": proxy.name, "shape": proxy.shape} for proxy in prop.proxies],
    }
    target = io.BytesIO()
    np.savez(target, about=np.array(json.dumps(about, ensure_ascii=False)), **arrays)
    return target.getvalue()


def _level(level: Level, occlusion: F32 | None) -> dict[str, Any]:
    """The engine vertices of a level and its triangles; attributes by vertex, material and part by triangle."""
    mesh = level.mesh
    stream = vertex_stream(mesh)
    corners = stream.corners
    arrays = {
        "positions": mesh.positions[mesh.corner_vertex[corners]].astype("<f4"),
        "triangles": stream.corner_index.reshape(-1, 3).astype("<u4"),
        "material": mesh.face_material.astype("<u4"),
        "part": mesh.face_part.astype("<u4"),
    }
    for key, values in (("normals", mesh.normals), ("tangents", mesh.tangents), ("colors", mesh.colors)):
        if values is not None:
            arrays[key] = values[corners].astype("<f4")
    for channel, uv in enumerate(mesh.uvs):
        arrays[f"uv{channel}"] = uv[corners].astype("<f4")
    if occlusion is not None:
        arrays["occlusion"] = occlusion[corners].astype("<f4")
    return arrays


def _said(prop: Prop, level: Level) -> dict[str, Any]:
    """What is known of a level besides its arrays; distances and deviations in metres."""
    return {
        "name": level.name,
        "triangles": level.mesh.n_triangles,
        "drawn_from": level.distance,
        "screen_size": level.screen_size,
        "deviation": level.deviation,
        "mean_deviation": level.mean_deviation,
        "parts": [prop.parts[k].name for k in np.unique(level.mesh.face_part).tolist()],
    }
