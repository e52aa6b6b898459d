"""A denser mesh of the same shape: edges that are too long are halved until none is."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, I32, I64, Mask, Mesh

_ROUNDS = 24
# Corners of the new triangles by which edges are halved (bit k: from corner k to the next); 3 to 5 are the middles of
# those edges. Two halves leave a quad, which is cut so that no middle is left over.
_CUTS: tuple[tuple[tuple[int, int, int], ...], ...] = (
    ((0, 1, 2),),
    ((0, 3, 2), (3, 1, 2)),
    ((0, 1, 4), (0, 4, 2)),
    ((0, 3, 2), (3, 1, 4), (3, 4, 2)),
    ((0, 1, 5), (5, 1, 2)),
    ((0, 3, 5), (3, 1, 5), (5, 1, 2)),
    ((0, 1, 5), (1, 4, 5), (4, 2, 5)),
    ((0, 3, 5), (3, 1, 4), (4, 2, 5), (3, 4, 5)),
)


def denser_mesh(mesh: Mesh, longest: float, most: int, locked: Mask | None = None) -> Mesh:
    """A triangle mesh with no edge longer than ``longest`` metres, as far as ``most`` triangles allow.

    Triangles that share an edge share its middle, so that what is closed stays closed; attributes of new corners are
    halfway between those of the edge's two, hard edges stay hard. Edges between ``locked`` (V,) vertices stay whole.
    Returns ``mesh`` itself where nothing is too long.
    """
    for _ in range(_ROUNDS):
        triangles = mesh.triangles()
        following = np.roll(triangles, -1, axis=1)
        key = np.minimum(triangles, following).astype(np.int64) * mesh.n_vertices + np.maximum(triangles, following)
        lengths = np.linalg.norm(np.take(mesh.positions, following, 0) - np.take(mesh.positions, triangles, 0), axis=2)
        is_long = lengths > longest
        if locked is not None:
            stays = np.concatenate([locked, np.zeros(mesh.n_vertices - len(locked), bool)])
            is_long &= ~(stays[triangles] & stays[following])
        if not is_long.any() or mesh.n_faces + is_long.sum() > most:
            break
        mesh = _halve(mesh, key, is_long)
    return mesh


def _halve(mesh: Mesh, key: I64, is_long: Mask) -> Mesh:
    """Halve the edges that are long; ``key`` (T, 3) names each corner's edge."""
    n, at = mesh.n_vertices, np.flatnonzero(is_long)
    edges, middle = np.unique(key.reshape(-1)[at], return_inverse=True)
    low, high = edges // n, edges % n
    positions = np.concatenate([mesh.positions, (mesh.positions[low] + mesh.positions[high]) / 2])
    # Corners: first those that there are, then one at the middle of each long edge for each of its triangles.
    following = at // 3 * 3 + (at + 1) % 3
    slot = np.zeros(mesh.n_corners, np.int64)
    slot[at] = mesh.n_corners + np.arange(len(at))
    case = is_long @ np.array([1, 2, 4])
    corners, faces = [], []
    for number, cuts in enumerate(_CUTS):
        which = np.flatnonzero(case == number)
        own = np.concatenate([3 * which[:, None] + np.arange(3), slot.reshape(-1, 3)[which]], axis=1)
        for cut in cuts:
            corners.append(own[:, cut])
            faces.append(which)
    face = np.concatenate(faces)
    order = np.argsort(face, kind="stable")
    corner, face = np.concatenate(corners)[order].reshape(-1), face[order]

    def carried(values: F32) -> F32:
        between = (values[at] + values[following]) / 2
        return np.take(np.concatenate([values, between]), corner, axis=0)

    plain = replace(mesh, normals=None, uvs=(), colors=None, tangents=None)
    vertex = np.concatenate([mesh.corner_vertex, (n + middle).astype(np.int32)])
    made = plain.with_corners(np.zeros(len(corner), np.int64), np.arange(len(face) + 1) * 3, face)
    return replace(
        made,
        positions=positions,
        corner_vertex=np.take(vertex, corner),
        normals=None if mesh.normals is None else unit(carried(mesh.normals).astype(np.float64)).astype(np.float32),
        uvs=tuple(carried(uv) for uv in mesh.uvs),
        colors=None if mesh.colors is None else carried(mesh.colors),
        hard_edges=_hard(mesh.hard_edges, edges, n),
    )


def _hard(hard: I32, edges: I64, n: int) -> I32:
    """The hard edges with the two halves of those that were halved; middles are numbered from ``n`` as their edges."""
    if not len(hard):
        return hard
    key = hard[:, 0].astype(np.int64) * n + hard[:, 1]
    place = np.minimum(np.searchsorted(edges, key), len(edges) - 1)
    is_halved = edges[place] == key
    middle = (n + place[is_halved]).astype(np.int32)
    halves = [np.stack([hard[is_halved, side], middle], axis=1) for side in (0, 1)]
    return np.concatenate([hard[~is_halved], *halves])
