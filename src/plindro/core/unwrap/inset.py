"""Islands pulled in from their borders by so many pixels, so that no filter reads what is painted beside them."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I64, Mesh
from plindro.core.mesh.numbering import float_bits, number_rows
from plindro.core.uvs.sheet import UvSheet, lay_out, signed_areas

_SHARPEST = 3.0
"""How much further than asked a corner of a rim may move, so that both its sides come in as far."""
_HALVINGS = 6
_LEFT = 0.1
"""Share of a triangle's area that must be left."""


@dataclass(frozen=True, slots=True)
class Inset:
    """``uvs`` (C, 2) float32, and how many islands were too thin to be pulled in all the way."""

    uvs: F32
    thin: int


def _inward(laid: UvSheet, point: I64) -> F64:
    """(P, 2) which way each point on a rim moves, so that its sides come in by 1; 0 for points within."""
    starts = laid.rim
    t, k = starts // 3, starts % 3
    along = laid.corners[t, (k + 1) % 3] - laid.corners[t, k]
    length = np.linalg.norm(along, axis=1, keepdims=True)
    normal = np.stack([-along[:, 1], along[:, 0]], axis=1) / np.where(length > 0, length, 1.0)
    normal *= laid.turns[t].astype(np.float64)[:, None]
    sums, count = np.zeros((int(point.max(initial=-1)) + 1, 2)), np.zeros(int(point.max(initial=-1)) + 1)
    for corner in (starts, 3 * t + (k + 1) % 3):
        np.add.at(sums, point[corner], normal)
        np.add.at(count, point[corner], 1)
    squared = (sums**2).sum(axis=1)
    # Of two sides with normals a and b the corner moves by (a + b) / (1 + ab).
    moved = np.where((count == 2) & (squared > 1e-9), 2.0 / np.maximum(squared, 1e-9), 0.0)
    inward = sums * moved[:, None]
    far = np.linalg.norm(inward, axis=1, keepdims=True)
    limited: F64 = inward * np.minimum(1.0, _SHARPEST / np.maximum(far, 1e-300))
    return limited


def inset(mesh: Mesh, channel: int, pixels: float, side: int) -> Inset:
    """A channel with its islands pulled in by ``pixels`` of a texture of ``side`` pixels; where that would turn a
    triangle over, or leave next to nothing of it, by less."""
    laid = lay_out(mesh, channel)
    bits = np.concatenate([float_bits(mesh.positions)[mesh.corner_vertex], float_bits(mesh.uvs[channel])], axis=1)
    names = np.concatenate([bits, np.repeat(laid.island, 3)[:, None].astype(bits.dtype)], axis=1)
    point = number_rows(names)[0].astype(np.int64)
    move = _inward(laid, point) * (pixels / side)
    spoilt_islands = np.zeros(laid.n_islands, bool)
    for _ in range(_HALVINGS + 1):
        corners = laid.corners + move[point].reshape(-1, 3, 2)
        spoilt = (signed_areas(corners) * laid.turns < _LEFT * abs(laid.areas)) & (laid.turns != 0)
        if not spoilt.any():
            break
        spoilt_islands[laid.island[spoilt]] = True
        move[np.unique(point.reshape(-1, 3)[spoilt])] *= 0.5
    else:
        move[np.unique(point.reshape(-1, 3)[spoilt])] = 0.0
        corners = laid.corners + move[point].reshape(-1, 3, 2)
    return Inset(corners.reshape(-1, 2).astype(np.float32), int(spoilt_islands.sum()))
