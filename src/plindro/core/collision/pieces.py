"""A few convex pieces that together lie closely around a mesh.

Its filled voxels are cut again and again, where the hulls of both halves together are least, beginning with what its
hull fills worst (after Mamou and Ghorbel 2009, "A simple and efficient approach for 3D mesh approximate convex
decomposition", turned into a descent over voxels); then those two are joined, over and over, that lose least by it.
"""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations

import numpy as np
import scipy

from plindro.core.collision.voxels import Voxels, voxels_of
from plindro.core.mesh.mesh import F64, I64, Mesh

ALONG = 40
"""Voxels on the longest side."""
_CUTS = 7
"""Places along each axis where a cut is tried."""
_OVER = 2
"""Pieces are cut until there are so many times more than there may be, and then joined."""
_GOOD = 0.04
"""Share of all voxels' volume that hulls may be larger by, for no more to be cut."""


@dataclass(frozen=True, slots=True)
class _Piece:
    """``cells`` (N, 3) of the grid; ``corners`` the extreme corners of them; ``hull`` the volume around, in cells."""

    cells: I64
    corners: F64
    hull: float

    @property
    def hollow(self) -> float:
        """Volume of the hull that the piece does not fill."""
        return self.hull - len(self.cells)


def convex_pieces(mesh: Mesh, most: int, step: Callable[[float, str], None]) -> list[F64]:
    """Points (N, 3) of at most ``most`` pieces of a triangle mesh, whose hulls cover it; ``step`` hears how far it is
    and may raise ``Cancelled``."""
    voxels = voxels_of(mesh, ALONG)
    pieces = [_piece(cells) for cells in _connected(np.argwhere(voxels.filled))]
    total = float(voxels.filled.sum())
    wanted = max(_OVER * most, most + 2)
    while len(pieces) < wanted:
        step(0.7 * len(pieces) / wanted, "cutting into convex pieces")
        pieces.sort(key=lambda piece: -piece.hollow)
        if pieces[0].hollow < _GOOD * total / wanted:
            break
        halves = _cut(pieces[0])
        if halves is None:
            break
        pieces = [*pieces[1:], *halves]
    while len(pieces) > most:
        step(0.7 + 0.3 * (1.0 - len(pieces) / wanted), "joining pieces")
        pieces = _joined(pieces)
    return [_points_in(piece, voxels) for piece in pieces]


def _piece(cells: I64) -> _Piece:
    corners = _corners(cells)
    return _Piece(cells, corners, float(scipy.spatial.ConvexHull(corners).volume))


def _corners(cells: I64) -> F64:
    """The corners of cells that can be corners of their hull: of each row along an axis the two ends."""
    order = np.lexsort((cells[:, 2], cells[:, 1], cells[:, 0]))
    rows = cells[order]
    begins = np.flatnonzero(np.r_[True, (np.diff(rows[:, :2], axis=0) != 0).any(axis=1)])
    ends = np.r_[begins[1:], len(rows)] - 1
    low, high = rows[begins], rows[ends] + [0, 0, 1]
    offsets = np.array([[i, j, 0] for i in (0, 1) for j in (0, 1)])
    found = np.concatenate([low, high])[:, None, :] + offsets
    corners: F64 = np.unique(found.reshape(-1, 3), axis=0).astype(np.float64)
    if len(corners) > 64:
        hull = scipy.spatial.ConvexHull(corners)
        corners = corners[hull.vertices]
    return corners


def _connected(cells: I64) -> list[I64]:
    """The cells by what hangs together over sides, edges or corners."""
    low = cells.min(axis=0)
    grid = np.zeros(cells.max(axis=0) - low + 1, np.bool_)
    grid[tuple((cells - low).T)] = True
    label, count = scipy.ndimage.label(grid, np.ones((3, 3, 3)))
    own = label[tuple((cells - low).T)]
    return [cells[own == k] for k in range(1, count + 1)]


def _cut(piece: _Piece) -> list[_Piece] | None:
    """The piece in two halves, cut across an axis where their hulls together are least; None where it is one cell."""
    best: tuple[float, list[_Piece]] | None = None
    for axis in range(3):
        values = piece.cells[:, axis]
        low, high = int(values.min()), int(values.max())
        places = np.unique(np.linspace(low, high, _CUTS + 2)[1:-1].round().astype(int))
        for place in places[(places >= low) & (places < high)]:
            halves = [_piece(piece.cells[values <= place]), _piece(piece.cells[values > place])]
            volume = halves[0].hull + halves[1].hull
            if best is None or volume < best[0]:
                best = volume, halves
    return None if best is None else [part for half in best[1] for part in _parts(half)]


def _parts(piece: _Piece) -> list[_Piece]:
    found = _connected(piece.cells)
    return [piece] if len(found) == 1 else [_piece(cells) for cells in found]


def _joined(pieces: list[_Piece]) -> list[_Piece]:
    """The pieces with those two as one whose common hull is least above their own."""

    def growth(pair: tuple[_Piece, _Piece]) -> float:
        one, other = pair
        around = scipy.spatial.ConvexHull(np.concatenate([one.corners, other.corners]))
        return float(around.volume) - one.hull - other.hull

    one, other = min(combinations(pieces, 2), key=growth)
    rest = [piece for piece in pieces if piece is not one and piece is not other]
    return [*rest, _piece(np.concatenate([one.cells, other.cells]))]


def _points_in(piece: _Piece, voxels: Voxels) -> F64:
    """The surface's samples in a piece and in the cells around it, so that no gap stays between pieces."""
    own = np.zeros(voxels.filled.shape, np.bool_)
    own[tuple(piece.cells.T)] = True
    inside = own[tuple(voxels.cell.T)]
    return voxels.samples[inside]
