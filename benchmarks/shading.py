"""Normals beside a library's smooth ones; tangents beside nothing that runs here, as figures."""

from dataclasses import replace

import numpy as np
import trimesh

from benchmarks.meshes import hilly_sphere
from benchmarks.timing import cpu_seconds, row
from plindro.core.mesh.mesh import make_triangles
from plindro.core.shading import ShadingSampler
from plindro.core.shading.normals import Weights, normals_by_angle
from plindro.core.shading.tangents import corner_tangents


def normals() -> None:
    """Corner normals by angle and weights, tangents, and carrying the shading over."""
    points, triangles = hilly_sphere(360)
    mesh = make_triangles(points, triangles)

    def other() -> None:
        trimesh.Trimesh(points, triangles, process=False).vertex_normals  # noqa: B018

    theirs = cpu_seconds(other)
    amount = (len(triangles), "triangles")
    for kind in ("angle", "area-angle", "large"):
        weights = Weights(kind)  # type: ignore[arg-type]
        ours = cpu_seconds(lambda w=weights: normals_by_angle(mesh, 38.0, weights=w))
        row(f"normals by {kind}, {len(triangles)} triangles", ours, {"trimesh (smooth only)": theirs}, amount)
    unit = points / np.linalg.norm(points, axis=1, keepdims=True)
    uv = np.stack([np.arctan2(unit[:, 2], unit[:, 0]) / (2 * np.pi), np.arccos(unit[:, 1]) / np.pi], axis=1)
    shaded = replace(mesh, normals=normals_by_angle(mesh, 38.0), uvs=(uv[mesh.corner_vertex].astype(np.float32),))
    row("tangents", cpu_seconds(lambda: corner_tangents(shaded)), {}, amount)
    sampler = ShadingSampler(shaded)
    assert shaded.normals is not None
    own = shaded.normals
    row(
        "mean angle of a shading, 6 000 samples",
        cpu_seconds(lambda: sampler.beside(shaded).mean_angle(own)),
        {},
        (6000, "samples"),
    )
