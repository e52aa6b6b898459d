"""Even triangles over a soft, dense source: its vertices gathered into clusters of equal area, one new vertex each.

Approximated centroidal Voronoi clustering after Valette and Chassery 2004: vertices change to a neighbour's cluster as
long as that lowers the sum of squared distances to the clusters' centres, weighted by area. The new mesh is its dual:
a triangle wherever three clusters meet. Features hold: lines are cut into pieces of the edge's length, corners stay.
Where the source's own triangles are too large for that they are cut into smaller ones first. Every new vertex has
the UVs, normals and colours of the vertex nearest to its cluster's centre, and goes where it is off least.
"""

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh, drop_unused_vertices
from plindro.core.reduction.features import FREE
from plindro.core.reduction.working import Start, build_state
from plindro.core.remesh.clusters import (
    cut_lines,
    grow_clusters,
    join_strays,
    move_vertices,
    pick_wedges,
    represent_clusters,
    split_clusters,
    sum_clusters,
)
from plindro.core.remesh.denser import denser_mesh
from plindro.core.remesh.places import places_of_clusters

_FINER = 2.0
"""How many of the source's edges there must be along a new one at least; where they are longer they are halved."""
_MOST = 16
"""Triangles for each new one that halving edges may make of the source."""
_PASSES = 120
_STILL = 2e-4
"""Share of the vertices that may still change in the last pass."""
_TRIES = 4
_ROUNDS = 20
"""How often clusters are split where they make no surface; by then a vertex stands for itself, as in the source."""
_SETTLING, _SETTLES = 8, 6
"""After how many of these all clusters settle again, and in how many passes."""
_MOST_OFF = 0.5
"""Share by which the count may miss at all: features alone may need more triangles than were asked for."""
_NEAR = 0.03
"""Share of the count that may be left over; more, or any above it, is tried again."""


def even_mesh(
    mesh: Mesh,
    n_triangles: int,
    *,
    hold_hard_edges: bool = True,
    locked: Mask | None = None,
    on_pass: Callable[[float], None] | None = None,
) -> Mesh:
    """A triangle mesh of so many even triangles at most, or about so many, over ``mesh``, which has triangles.

    ``locked`` (V,) names vertices that stay as they are, with the triangles between them.
    ``on_pass`` receives a fraction in 0..1 and may raise to stop. Raises ``ValueError`` where features hold far more
    triangles, or the source is too tangled for a surface to come of it.
    """
    if n_triangles < 4:
        raise ValueError(f"even triangles: expected 4 triangles or more, got {n_triangles}")
    area = float(np.linalg.norm(face_vectors(mesh), axis=1).sum())
    longest = float(np.sqrt(area / n_triangles * 4.0 / np.sqrt(3.0))) / _FINER
    stays = np.zeros(mesh.n_vertices, bool) if locked is None else locked
    mesh = denser_mesh(mesh, longest, max(_MOST * n_triangles, mesh.n_faces), stays)
    stays = np.concatenate([stays, np.zeros(mesh.n_vertices - len(stays), bool)])
    start = build_state(
        mesh, hold_hard_edges=hold_hard_edges, lock_borders=False, keep_shells=True, keep_holes=True,
        weight=np.zeros(0), locked=stays if stays.any() else np.zeros(0, bool), floor=None,
    )  # fmt: skip
    work = _Clusters(start)
    edge = float(np.sqrt(work.area.sum() / n_triangles * 4.0 / np.sqrt(3.0)))
    n_free = max(round((0.5 - _NEAR / 6) * n_triangles), 4)
    best: I32 | None = None
    turn, before = 0, math.inf

    def tell(share: float) -> None:
        if on_pass:
            on_pass((turn + share) / _TRIES)

    for turn in range(_TRIES):
        triangles = work.dual(edge, n_free, tell)
        if triangles is not None and (best is None or _miss(triangles, n_triangles) < _miss(best, n_triangles)):
            best, corners, places = triangles, work.corners(triangles), work.places(triangles)
        found = len(triangles) if triangles is not None else n_triangles
        if triangles is not None and n_triangles * (1.0 - _NEAR) <= found <= n_triangles:
            break
        if found > (1.0 + _MOST_OFF) * n_triangles and found > 0.9 * before:
            # Features hold it, and go on holding it.
            break
        before = found
        # A little below, so that the next try is not above it again.
        aim = (1.0 - _NEAR / 3) * n_triangles
        n_free = max(round(n_free * (aim / max(found, 1)) + (turn if triangles is None else 0)), 1)
        edge *= float(np.sqrt(found / aim))
    if best is None or len(best) > (1.0 + _MOST_OFF) * n_triangles:
        least = "no surface" if best is None else f"{len(best)} triangles instead of {n_triangles}"
        raise ValueError(
            f"laid evenly it gives {least}: hard edges, seams and thin places hold it; let it be collapsed instead"
        )
    faces = start.ordered.corner[best, 0].astype(np.int64) // 3
    made = mesh.with_corners(corners.reshape(-1), np.arange(len(best) + 1) * 3, faces)
    moves = np.isfinite(places[:, 0])
    positions = made.positions.copy()
    positions[made.corner_vertex[moves]] = places[moves] * start.ordered.scale + start.ordered.middle
    return drop_unused_vertices(replace(made, positions=positions, tangents=None))


def _miss(triangles: I32, wanted: int) -> float:
    """How far off the count is, as a share; what is above it is worse by far."""
    off = len(triangles) / wanted - 1.0
    return 8.0 * off if off > 0 else -off


class _Clusters:
    """The source's vertices with the cluster that each belongs to."""

    def __init__(self, start: Start) -> None:
        state = start.state
        self._start, self._state = start, state
        n = len(state.kind)
        points = state.positions[state.triangles]
        areas = 0.5 * np.linalg.norm(np.cross(points[:, 1] - points[:, 0], points[:, 2] - points[:, 0]), axis=1)
        self.area: F64 = np.bincount(state.triangles.reshape(-1), np.repeat(areas / 3.0, 3), n).astype(np.float64)
        # Lengths are in diagonals, as the positions are.
        self._cluster: I32 = np.full(n, -1, np.int32)
        self._centre: F64 = np.zeros((0, 3))

    def dual(self, edge: float, n_free: int, on_pass: Callable[[float], None]) -> I32 | None:
        """The source's triangles in which three clusters meet, one for each such three; None where no surface comes
        of them."""
        state = self._state
        n = len(state.kind)
        cluster = np.full(n, -1, np.int32)
        n_fixed = int(cut_lines(state.positions, state.kind, state.line, edge, cluster, np.zeros(n, bool)))
        free = np.flatnonzero((state.kind == FREE) & (self.area > 0))
        if len(free):
            total = np.cumsum(self.area[free])
            # Vertices lie along a Morton curve: equal steps of area along it are spread over the surface.
            wanted = (np.arange(n_free) + 0.5) / n_free * total[-1]
            seeds = np.unique(free[np.minimum(np.searchsorted(total, wanted), len(free) - 1)])
            cluster[seeds] = n_fixed + np.arange(len(seeds), dtype=np.int32)
        rings = state.rings
        rings.fill(state.triangles, n)
        queue = np.empty(n, np.int32)
        n_clusters = int(grow_clusters(rings.start, rings.around, state.kind, cluster, queue))
        for k in range(_PASSES):
            moved = self._settle(cluster, n_clusters, 1)
            on_pass((k + 1) / _PASSES)
            if moved <= _STILL * n:
                break
        self._cluster = cluster
        for turn in range(_ROUNDS):
            self._join(cluster, n_clusters, queue)
            found, tangled = self._meeting()
            # What is left of single vertices is tangled in the source.
            tangled = tangled[np.bincount(cluster[cluster >= 0], minlength=n_clusters)[tangled] > 1]
            if not len(tangled):
                break
            centre = self._centres(cluster, n_clusters)
            n_clusters = int(
                split_clusters(state.positions, cluster, tangled, centre, n_clusters, np.zeros((2, n_clusters)))
            )
            if turn < _SETTLING:
                self._settle(cluster, n_clusters, _SETTLES)
        self._centre = self._centres(cluster, n_clusters)
        return found if not len(tangled) and len(found) >= 4 else None

    def _settle(self, cluster: I32, n_clusters: int, passes: int) -> int:
        """Let vertices change their cluster; returns how many did in the last pass."""
        state, moved = self._state, 0
        sums = np.zeros((n_clusters, 5))
        for _ in range(passes):
            sums[:] = 0.0
            sum_clusters(state.positions, self.area, cluster, sums)
            moved = int(
                move_vertices(
                    state.positions, self.area, state.kind, state.rings.start, state.rings.around, cluster, sums
                )
            )
        return moved

    def _join(self, cluster: I32, n_clusters: int, queue: I32) -> None:
        rings, kind = self._state.rings, self._state.kind
        join_strays(
            rings.start, rings.around, kind, cluster, np.zeros(len(kind), np.int32), queue, np.zeros((n_clusters, 5))
        )

    def _centres(self, cluster: I32, n_clusters: int) -> F64:
        sums = np.zeros((n_clusters, 5))
        sum_clusters(self._state.positions, self.area, cluster, sums)
        return sums[:, :3] / np.maximum(sums[:, 3:4], 1e-300)

    def _meeting(self) -> tuple[I32, I32]:
        """The source's triangles in which three clusters meet, one for each such three, and the clusters around which
        they make no surface: those of sides that are there twice."""
        triples = self._cluster[self._state.triangles]
        meets = (
            (triples[:, 0] != triples[:, 1]) & (triples[:, 1] != triples[:, 2]) & (triples[:, 2] != triples[:, 0])
        ) & (triples >= 0).all(axis=1)
        at = np.flatnonzero(meets)
        _, first = np.unique(np.sort(triples[at], axis=1), axis=0, return_index=True)
        at = at[np.sort(first)]
        if not len(at):
            return at.astype(np.int32), np.zeros(0, np.int32)
        sides = np.stack([triples[at], np.roll(triples[at], -1, axis=1)], axis=-1).reshape(-1, 2).astype(np.int64)
        size = int(sides.max()) + 1
        keys, times = np.unique(sides[:, 0] * size + sides[:, 1], return_counts=True)
        twice = keys[times > 1]
        return at.astype(np.int32), np.unique(np.concatenate([twice // size, twice % size])).astype(np.int32)

    def places(self, triangles: I32) -> F64:
        """(3 T, 3) where the corners of the new triangles go, in diagonals; NaN where they stay: on features."""
        state, cluster = self._state, self._cluster
        places = places_of_clusters(state.positions, state.triangles, cluster, self._centre)
        places[cluster[(state.kind != FREE) & (cluster >= 0)]] = np.nan
        return np.take(places, cluster[state.triangles[triangles]].reshape(-1), axis=0)

    def corners(self, triangles: I32) -> I64:
        """(T, 3) the mesh's corners that the new triangles take: of each cluster's vertex, on the triangle's side."""
        state, start = self._state, self._start
        representative = np.full(len(self._centre), -1, np.int32)
        represent_clusters(state.positions, state.kind, self._cluster, self._centre, representative)
        first_wedges = start.first_wedges
        own = first_wedges[triangles]
        stands = representative[self._cluster[state.triangles[triangles]]]
        result = np.empty(own.shape, np.int32)
        pick_wedges(
            own, stands, start.state.rings.start, start.state.rings.around, first_wedges.reshape(-1),
            start.values.columns, result,
        )  # fmt: skip
        return start.wedge_corner[result].astype(np.int64)
