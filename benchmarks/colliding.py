"""Collision proxies beside the libraries that make them: one hull beside SciPy's, pieces beside those of CoACD."""

import multiprocessing
from collections.abc import Iterator
from multiprocessing.connection import Connection
from typing import Any

import coacd
import numpy as np
from scipy.spatial import ConvexHull

from benchmarks.meshes import drilled_plate, hilly_sphere
from benchmarks.timing import timed
from plindro.core.collision.convex import Convex, convex_hull
from plindro.core.collision.fit import fit_of
from plindro.core.collision.pieces import convex_pieces
from plindro.core.collision.proxies import Points
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.polygons import triangulate
from plindro.demo import build_prop

_CORNERS, _PIECES = 32, 8
_PATIENCE = 30.0
"""Seconds that a library is given for a mesh."""


def collision() -> None:
    """Volume, missed surface, count and seconds of hulls and pieces."""
    for name, mesh in _meshes():
        points = mesh.positions.astype(np.float64)
        whole, seconds = timed(lambda points=points: ConvexHull(points))
        ours, own = timed(lambda points=points: Points(points).fitted("hull", 0.0, _CORNERS))
        print(f"{name}, {mesh.n_faces} triangles")
        print(
            f"  hull    {len(ours.mesh.points):4d} corners, {ours.mesh.volume / whole.volume:6.3f} of the volume of "
            f"SciPy's with {len(whole.vertices)}; {own:.2f} s beside {seconds:.2f} s"
        )
        made, own = timed(lambda mesh=mesh: _pieces(mesh))
        _say("pieces", mesh, made, own)
        other = _coacd(mesh)
        if other is None:
            print(f"  CoACD   no answer within {_PATIENCE:.0f} s")
        else:
            _say("CoACD", mesh, *other)


def _meshes() -> Iterator[tuple[str, Mesh]]:
    for stem in ("davit", "fog_bell", "cable_drum", "oil_can", "life_ring"):
        files = build_prop(stem)
        name = next(name for name in files if name.endswith(".obj"))
        yield stem, triangulate(read_scene(files[name], name, MemoryFiles(files)).mesh).mesh
    yield "drilled plate", make_triangles(*drilled_plate(6, 4, 12))
    yield "hilly ball", make_triangles(*hilly_sphere(224))


def _say(what: str, mesh: Mesh, made: list[Convex], seconds: float) -> None:
    fit = fit_of(mesh, made)
    print(f"  {what:7s} {len(made):4d}, add {fit.added:7.1%}, miss {fit.missed:6.2%}; {seconds:.2f} s")


def _pieces(mesh: Mesh) -> list[Convex]:
    found = convex_pieces(mesh, _PIECES, lambda share, doing: None)
    return [Points(points).fitted("hull", 0.0, _CORNERS).mesh for points in found]


def _coacd(mesh: Mesh) -> tuple[list[Convex], float] | None:
    """Its pieces and seconds; from a process of its own, which can be ended."""
    context = multiprocessing.get_context("spawn")
    here, there = context.Pipe()
    process = context.Process(target=_run_coacd, args=(there, mesh.positions, mesh.corner_vertex.reshape(-1, 3)))
    process.start()
    try:
        if not here.poll(_PATIENCE):
            return None
        parts, seconds = here.recv()
    finally:
        process.kill()
        process.join()
    return [convex_hull(points) for points in parts], seconds


def _run_coacd(out: Connection, positions: Any, triangles: Any) -> None:
    coacd.set_log_level("error")
    mesh = coacd.Mesh(positions.astype(np.float64), triangles)
    found, seconds = timed(lambda: coacd.run_coacd(mesh, max_convex_hull=_PIECES, max_ch_vertex=_CORNERS))
    out.send(([np.asarray(points) for points, _ in found], seconds))
