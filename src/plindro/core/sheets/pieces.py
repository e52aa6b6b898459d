"""What moves as one on a sheet: an island, or islands that lie on each other and share what is painted there."""

from dataclasses import dataclass

import numpy as np
import scipy

from plindro.core.mesh.mesh import F64, I64, Mask, Mesh
from plindro.core.numeric.bounds import corner_bounds, group_bounds
from plindro.core.numeric.groups import number_roots, unite
from plindro.core.numeric.kernels import kernel
from plindro.core.sheets.materials import Painted
from plindro.core.unwrap.growing import members_of
from plindro.core.uvs.sheet import UvSheet, lay_out

_GRID = 1024
"""Pixels along a side of the raster on which it is found which islands share their place."""
OVER = 1e-3
"""Share of a texture by which an island may be longer than it before it tiles."""


@dataclass(frozen=True, slots=True)
class Piece:
    """Triangles of one prop and material that stay together.

    Attributes
    ----------
    prop, material : whose they are
    faces : (T,) int64, of the prop's mesh
    uv : (T, 3, 2) where they lie, the material's transform applied; moved by whole tiles near the square
    outline : (S, 2, 2) sides of what is kept free for them, likewise
    surface : square metres
    spans : (2,) how many times the texture goes over them along U and V
    """

    prop: int
    material: int
    faces: I64
    uv: F64
    outline: F64
    surface: float
    spans: F64

    @property
    def tiles(self) -> bool:
        return bool((self.spans > 1.0 + OVER).any())


@kernel
def _count_shared(corners, order, island, owner, parent):  # type: ignore[no-untyped-def]
    """Unite islands of which one lies for the most part on the other; triangles in ``order``, island by island.

    ``owner`` (H, W) filled with -1; ``corners`` (T, 3, 2) in its pixels, and around its borders.
    """
    rows, columns = owner.shape
    pixels, hits, other = 0, 0, -1
    for i in range(len(order)):
        t = order[i]
        ax, ay = corners[t, 0, 0], corners[t, 0, 1]
        bx, by = corners[t, 1, 0], corners[t, 1, 1]
        cx, cy = corners[t, 2, 0], corners[t, 2, 1]
        if (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) < 0.0:
            bx, by, cx, cy = cx, cy, bx, by
        for y in range(int(np.ceil(min(ay, by, cy) - 0.5)), int(np.ceil(max(ay, by, cy) - 0.5))):
            for x in range(int(np.ceil(min(ax, bx, cx) - 0.5)), int(np.ceil(max(ax, bx, cx) - 0.5))):
                px, py = x + 0.5, y + 0.5
                if (
                    (bx - ax) * (py - ay) - (by - ay) * (px - ax) < 0.0
                    or (cx - bx) * (py - by) - (cy - by) * (px - bx) < 0.0
                    or (ax - cx) * (py - cy) - (ay - cy) * (px - cx) < 0.0
                ):
                    continue
                pixels += 1
                was = owner[y % rows, x % columns]
                if was < 0:
                    owner[y % rows, x % columns] = island[t]
                elif was != island[t]:
                    hits += 1
                    other = was
        if i + 1 == len(order) or island[order[i + 1]] != island[t]:
            if other >= 0 and 2 * hits > pixels:
                unite(parent, other, island[t])
            pixels, hits, other = 0, 0, -1


def _hull(points: F64) -> F64:
    """(S, 2, 2) sides around points; around their box where they lie on one line."""
    try:
        corners = points[scipy.spatial.ConvexHull(points).vertices]
    except (scipy.spatial.QhullError, ValueError):
        low, high = points.min(axis=0), points.max(axis=0)
        corners = np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    return np.stack([corners, np.roll(corners, -1, axis=0)], axis=1)


def _shared(laid: UvSheet, uv: F64, spans: F64) -> I64:
    """(N,) islands that share their place by one number."""
    parent = np.arange(laid.n_islands, dtype=np.int32)
    # What tiles covers whatever there is, and yet stands for itself.
    fits: Mask = np.asarray((spans <= 1.0 + OVER).all(axis=1))
    once = np.flatnonzero(fits[laid.island])
    order = once[np.argsort(laid.island[once], kind="stable")].astype(np.int64)
    owner = np.full((_GRID, _GRID), -1, np.int32)
    _count_shared(np.ascontiguousarray(uv * _GRID), order, laid.island, owner, parent)
    number = np.empty(laid.n_islands, np.int32)
    number_roots(parent, number)
    return number.astype(np.int64)


def _spans(uv: F64, island: I64, count: int) -> tuple[F64, F64]:
    """(N, 2) the least U and V of islands, and how far each reaches."""
    low, high = group_bounds(*corner_bounds(uv), island, count)
    return low, high - low


def find_pieces(prop: int, mesh: Mesh, material: int, painted: Painted) -> list[Piece]:
    """The pieces of one material of a triangle mesh with UVs."""
    chosen = mesh.face_material == material
    faces = np.flatnonzero(chosen).astype(np.int64)
    laid = lay_out(mesh.with_faces(chosen), 0)
    uv = laid.corners @ painted.transform[:, :2].T + painted.transform[:, 2]
    island = laid.island.astype(np.int64)
    low, spans = _spans(uv, island, laid.n_islands)
    if painted.repeats:
        uv = uv - np.floor(low + 1e-9)[island][:, None]
    number = _shared(laid, uv, spans)[island]
    rims = members_of(laid.island[laid.rim // 3], laid.n_islands)
    pieces = []
    for members in members_of(number, int(number.max(initial=-1)) + 1):
        own = np.unique(island[members])
        if len(own) == 1:
            rim = laid.rim[rims[int(own[0])]]
            outline = np.stack([uv[rim // 3, rim % 3], uv[rim // 3, (rim % 3 + 1) % 3]], axis=1)
        else:
            outline = _hull(uv[members].reshape(-1, 2))
        at = uv[members].reshape(-1, 2)
        pieces.append(
            Piece(prop, material, faces[members], uv[members], outline, float(laid.surface[members].sum()),
                  np.ptp(at, axis=0))
        )  # fmt: skip
    return pieces
