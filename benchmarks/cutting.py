"""Triangulation beside an ear-cutting library, called for each polygon; and whether each is right."""

from itertools import pairwise

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from benchmarks.meshes import notched_polygons
from benchmarks.timing import cpu_seconds, row
from plindro.core.mesh.mesh import Mesh, make_mesh
from plindro.core.polygons import triangulate


def triangulation() -> None:
    """Notched polygons and discs by both rules, one huge polygon, and quads alone."""
    for count, most in ((20_000, 64), (200_000, 64), (20, 5_000)):
        _polygons(f"{count} notched polygons of 5 to {most} sides", *notched_polygons(count, most))
    angle = np.linspace(0, 2 * np.pi, 32, endpoint=False)
    discs = np.tile(np.stack([np.cos(angle), np.sin(angle)], axis=1), (20_000, 1))
    _polygons("20000 discs of 32 sides", discs, np.arange(0, len(discs) + 1, 32))
    n = 1001
    index = np.arange(n * n).reshape(n, n)
    quads = np.stack([index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]], -1).reshape(-1)
    x, y = np.meshgrid(np.arange(n), np.arange(n), indexing="ij")
    grid = np.stack([x, y, 20 * np.sin(x / 40) * np.cos(y / 30)], -1).reshape(-1, 3)
    many = make_mesh(grid, np.arange(0, len(quads) + 1, 4), quads)
    for rule in ("shortest", "shapely"):
        row(
            f"1 000 000 quads, {rule}",
            cpu_seconds(lambda r=rule: triangulate(many, quads=r)),
            {},
            (many.n_faces, "quads"),
        )


def _polygons(what: str, points: NDArray[np.float64], start: NDArray[np.int64]) -> None:
    flat = np.concatenate([points, np.zeros((len(points), 1))], axis=1)
    mesh = make_mesh(flat, start, np.arange(len(points)))
    pieces = [points[a:b] for a, b in pairwise(start)]

    def earcut() -> list[NDArray[np.uint32]]:
        return [mapbox_earcut.triangulate_float64(piece, np.array([len(piece)], np.uint32)) for piece in pieces]

    other = cpu_seconds(earcut)
    for rule in ("ears", "shapely"):
        ours = cpu_seconds(lambda r=rule: triangulate(mesh, ngons=r))
        row(f"{what}, {rule}", ours, {"mapbox-earcut": other}, (mesh.n_triangles, "triangles"))
        print(f"    wrong polygons: {_wrong(triangulate(mesh, ngons=rule).mesh, mesh)}")
    theirs = np.concatenate([cut + a for cut, a in zip(earcut(), start[:-1], strict=True)])
    sides = np.array([len(cut) // 3 for cut in earcut()])
    cut = mesh.with_corners(theirs, np.arange(0, len(theirs) + 1, 3), np.repeat(np.arange(len(pieces)), sides))
    print(f"    wrong polygons of mapbox-earcut: {_wrong(cut, mesh)}")


def _wrong(cut: Mesh, source: Mesh) -> int:
    """Polygons whose triangles are not n - 2, or do not cover them exactly once."""
    p = cut.positions[cut.triangles()][:, :, :2]
    u, v = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    area = 0.5 * (u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0])
    n = source.n_faces
    covered = np.bincount(cut.face_polygon, np.abs(area), minlength=n)
    q = source.positions[source.corner_vertex][:, :2]
    ahead = np.arange(source.n_corners) + 1
    ahead[source.face_start[1:] - 1] = source.face_start[:-1]
    whole = 0.5 * np.add.reduceat(q[:, 0] * q[ahead, 1] - q[:, 1] * q[ahead, 0], source.face_start[:-1])
    count = np.bincount(cut.face_polygon, minlength=n)
    return int(((count != source.face_sides - 2) | (np.abs(covered - whole) > 1e-9 * whole)).sum())
