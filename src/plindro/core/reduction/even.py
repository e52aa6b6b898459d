"""Even triangles over a soft, dense source: its vertices gathered into clusters of equal area, one new vertex each.

Approximated centroidal Voronoi clustering after Valette and Chassery 2004: vertices change to a neighbour's cluster as
long as that lowers the sum of squared distances to the clusters' centres, weighted by area. The new mesh is its dual:
a triangle wherever three clusters meet. Features hold: lines are cut into pieces of the edge's length, corners stay.
Where the source's own triangles are too large for that they are cut into smaller ones first. Every new vertex has
the UVs, normals and colours of the vertex nearest to its cluster's centre, and goes where it is off least.
"""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.kernels import helper, kernel
from plindro.core.mesh.mesh import F64, I32, I64, Mesh, drop_unused_vertices
from plindro.core.reduction.denser import denser_mesh
from plindro.core.reduction.edges import is_corner
from plindro.core.reduction.even_places import places_of_clusters
from plindro.core.reduction.features import FREE, GONE, LINE
from plindro.core.reduction.state import Start, build_state

_FINER = 1.8
"""How many of the source's edges there must be along a new one at least; where they are longer they are halved."""
_MOST = 60
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
    mesh: Mesh, n_triangles: int, *, hold_hard_edges: bool = True, on_pass: Callable[[float], None] | None = None
) -> Mesh:
    """A triangle mesh of about so many even triangles over ``mesh``, which has triangles.

    ``on_pass`` receives a fraction in 0..1 and may raise to stop. Raises ``ValueError`` where features hold far more
    triangles, or the source is too tangled for a surface to come of it.
    """
    if n_triangles < 4:
        raise ValueError(f"even triangles: expected 4 triangles or more, got {n_triangles}")
    area = 0.5 * float(np.linalg.norm(face_vectors(mesh), axis=1).sum())
    longest = float(np.sqrt(area / n_triangles * 4.0 / np.sqrt(3.0))) / _FINER
    mesh = denser_mesh(mesh, longest, max(_MOST * n_triangles, mesh.n_faces))
    start = build_state(
        mesh, hold_hard_edges=hold_hard_edges, lock_borders=False, weight=np.zeros(0), locked=np.zeros(0, bool),
        floor=None,
    )  # fmt: skip
    work = _Clusters(start)
    edge = float(np.sqrt(work.area.sum() / n_triangles * 4.0 / np.sqrt(3.0)))
    n_free = max(round((0.5 - _NEAR / 6) * n_triangles), 4)
    best: I32 | None = None
    turn = 0

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
        n_fixed = int(_cut_lines(state.positions, state.kind, state.line, edge, cluster, np.zeros(n, bool)))
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
        n_clusters = int(_grow(rings.start, rings.around, state.kind, cluster, queue))
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
            n_clusters = int(_split(state.positions, cluster, tangled, centre, n_clusters, np.zeros((2, n_clusters))))
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
            _sum(state.positions, self.area, cluster, sums)
            moved = int(
                _move(state.positions, self.area, state.kind, state.rings.start, state.rings.around, cluster, sums)
            )
        return moved

    def _join(self, cluster: I32, n_clusters: int, queue: I32) -> None:
        rings, kind = self._state.rings, self._state.kind
        _join_strays(
            rings.start, rings.around, kind, cluster, np.zeros(len(kind), np.int32), queue, np.zeros((n_clusters, 5))
        )

    def _centres(self, cluster: I32, n_clusters: int) -> F64:
        sums = np.zeros((n_clusters, 5))
        _sum(self._state.positions, self.area, cluster, sums)
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
        _represent(state.positions, state.kind, self._cluster, self._centre, representative)
        first_wedges = start.first_wedges
        own = first_wedges[triangles]
        stands = representative[self._cluster[state.triangles[triangles]]]
        result = np.empty(own.shape, np.int32)
        _pick_wedges(
            own, stands, start.state.rings.start, start.state.rings.around, first_wedges.reshape(-1),
            start.values.columns, result,
        )  # fmt: skip
        return start.wedge_corner[result].astype(np.int64)


@kernel
def _cut_lines(positions, kind, line, edge, cluster, is_end):  # type: ignore[no-untyped-def]
    """Corners become clusters of their own, lines between them pieces of about an edge's length; returns how many.

    ``is_end`` (V,) receives which vertices lines end at.
    """
    count = 0
    for v in range(len(kind)):
        is_end[v] = (kind[v] != FREE and kind[v] != GONE) and (kind[v] != LINE or is_corner(v, line, positions))
        if is_end[v]:
            cluster[v] = count
            count += 1
    for again in range(2):
        for v in range(len(kind)):
            # First from the corners, then around what is closed.
            if kind[v] != LINE or cluster[v] >= 0:
                continue
            a, b = line[v, 0], line[v, 1]
            if again == 0 and not ((a >= 0 and is_end[a]) or (b >= 0 and is_end[b])):
                continue
            before = a if a >= 0 and is_end[a] else (b if b >= 0 and is_end[b] else -1)
            # Its length first, so that the pieces come out equal.
            length = 0.0
            last, at = before, v
            if before >= 0:
                length += _distance(positions, before, v)
            steps = 0
            while at >= 0 and not is_end[at] and steps <= len(kind):
                following = line[at, 0] if line[at, 0] != last else line[at, 1]
                if following < 0:
                    break
                length += _distance(positions, at, following)
                last, at = at, following
                steps += 1
                if at == v:
                    break
            closed = at == v
            pieces = max(int(np.round(length / edge)), 3 if closed else 1)
            piece = length / pieces
            # Corners have half a piece to themselves at both ends.
            walked = 0.0 if closed or before < 0 else _distance(positions, before, v)
            offset = 0.0 if closed else 0.5 * piece
            current = -1
            last, at = before, v
            steps = 0
            while at >= 0 and not is_end[at] and cluster[at] < 0 and steps <= len(kind):
                number = int((walked - offset) / piece) if walked >= offset else -1
                if closed:
                    number = min(number, pieces - 1)
                else:
                    number = min(max(number, 0), max(pieces - 2, 0))
                if number != current:
                    current = number
                    count += 1
                cluster[at] = count - 1
                following = line[at, 0] if line[at, 0] != last else line[at, 1]
                if following < 0:
                    break
                walked += _distance(positions, at, following)
                last, at = at, following
                steps += 1
    return count


@helper
def _distance(p, a, b):  # type: ignore[no-untyped-def]
    return np.sqrt((p[a, 0] - p[b, 0]) ** 2 + (p[a, 1] - p[b, 1]) ** 2 + (p[a, 2] - p[b, 2]) ** 2)


@kernel
def _grow(start, around, kind, cluster, queue):  # type: ignore[no-untyped-def]
    """Give every free vertex the cluster of the nearest seed by steps; islands without one get one. Returns how many
    clusters there are."""
    count = 0
    for v in range(len(kind)):
        count = max(count, cluster[v] + 1)
    head = tail = 0
    for v in range(len(kind)):
        if kind[v] == FREE and cluster[v] >= 0:
            queue[tail] = v
            tail += 1
    fresh = 0
    while True:
        while head < tail:
            u = queue[head]
            head += 1
            for s in range(start[u], start[u + 1]):
                for k in range(2):
                    v = around[s, k]
                    if kind[v] == FREE and cluster[v] < 0:
                        cluster[v] = cluster[u]
                        queue[tail] = v
                        tail += 1
        while fresh < len(kind) and not (kind[fresh] == FREE and cluster[fresh] < 0):
            fresh += 1
        if fresh == len(kind):
            return count
        cluster[fresh] = count
        count += 1
        queue[tail] = fresh
        tail += 1


@kernel
def _sum(positions, area, cluster, sums):  # type: ignore[no-untyped-def]
    """Per cluster the place by area, the area, and how many vertices."""
    for v in range(len(cluster)):
        c = cluster[v]
        if c < 0:
            continue
        for k in range(3):
            sums[c, k] += area[v] * positions[v, k]
        sums[c, 3] += area[v]
        sums[c, 4] += 1.0


@helper
def _gain(sums, c, x, y, z, w, sign):  # type: ignore[no-untyped-def]
    """What the squared length of a cluster's sum over its area becomes when a vertex joins it, or leaves it."""
    area = sums[c, 3] + sign * w
    if area <= 0.0:
        return 0.0
    sx, sy, sz = sums[c, 0] + sign * w * x, sums[c, 1] + sign * w * y, sums[c, 2] + sign * w * z
    return (sx * sx + sy * sy + sz * sz) / area


@kernel
def _move(positions, area, kind, start, around, cluster, sums):  # type: ignore[no-untyped-def]
    """Let every free vertex change to the neighbour's cluster that lowers the energy most; returns how many did."""
    moved = 0
    for u in range(len(kind)):
        if kind[u] != FREE:
            continue
        own = cluster[u]
        if sums[own, 4] < 2.0:
            continue
        x, y, z, w = positions[u, 0], positions[u, 1], positions[u, 2], area[u]
        stays = _gain(sums, own, x, y, z, 0.0, 1.0)
        leaves = _gain(sums, own, x, y, z, w, -1.0)
        best, most = own, 1e-15
        for s in range(start[u], start[u + 1]):
            for k in range(2):
                v = around[s, k]
                other = cluster[v]
                if other in (own, best) or kind[v] != FREE:
                    continue
                gained = leaves + _gain(sums, other, x, y, z, w, 1.0) - stays - _gain(sums, other, x, y, z, 0.0, 1.0)
                if gained > most:
                    best, most = other, gained
        if best != own:
            for c, sign in ((own, -1.0), (best, 1.0)):
                sums[c, 0] += sign * w * x
                sums[c, 1] += sign * w * y
                sums[c, 2] += sign * w * z
                sums[c, 3] += sign * w
                sums[c, 4] += sign
            cluster[u] = best
            moved += 1
    return moved


@kernel
def _join_strays(start, around, kind, cluster, piece, queue, sums):  # type: ignore[no-untyped-def]
    """Leave each cluster its largest connected piece; the others go to the neighbour that they meet first.

    ``piece`` (V,) of zeros, ``queue`` and ``sums`` are scratch.
    """
    for c in range(len(sums)):
        sums[c, 0] = 0.0
        sums[c, 1] = 0.0
    count = 0
    for seed in range(len(kind)):
        if kind[seed] != FREE or piece[seed]:
            continue
        count += 1
        head, tail = 0, 1
        queue[0] = seed
        piece[seed] = count
        while head < tail:
            u = queue[head]
            head += 1
            for s in range(start[u], start[u + 1]):
                for k in range(2):
                    v = around[s, k]
                    if kind[v] == FREE and not piece[v] and cluster[v] == cluster[u]:
                        piece[v] = count
                        queue[tail] = v
                        tail += 1
        if tail > sums[cluster[seed], 0]:
            sums[cluster[seed], 0] = tail
            sums[cluster[seed], 1] = count
    for v in range(len(kind)):
        if kind[v] == FREE and piece[v] != sums[cluster[v], 1]:
            piece[v] = -1
    changed = True
    while changed:
        changed = False
        for u in range(len(kind)):
            if piece[u] != -1:
                continue
            for s in range(start[u], start[u + 1]):
                v = around[s, 0]
                if kind[v] == FREE and piece[v] > 0:
                    cluster[u] = cluster[v]
                    piece[u] = piece[v]
                    changed = True
                    break


@kernel
def _split(positions, cluster, which, centre, n_clusters, far):  # type: ignore[no-untyped-def]
    """Split clusters in two: what is nearer to the vertex furthest from the centre than to the centre goes with that
    one. Returns how many there are then. ``far`` (2, clusters) of zeros is scratch.
    """
    for i in range(len(which)):
        far[1, which[i]] = -1.0
    for v in range(len(cluster)):
        c = cluster[v]
        if c >= 0 and far[1, c] != 0.0:
            away = _to_place(positions, v, centre, c)
            if far[1, c] < 0.0 or away > far[0, c]:
                far[0, c], far[1, c] = away, v + 1.0
    first = n_clusters
    for i in range(len(which)):
        if far[1, which[i]] > 0.0:
            # From here on the number of the new cluster, and of the vertex it is about.
            far[0, which[i]] = n_clusters
            n_clusters += 1
    for v in range(len(cluster)):
        c = cluster[v]
        if c >= 0 and c < first and far[1, c] > 0.0:
            about = int(far[1, c]) - 1
            away = _distance(positions, v, about)
            if v == about or away * away < _to_place(positions, v, centre, c):
                cluster[v] = int(far[0, c])
    return n_clusters


@helper
def _to_place(p, v, places, c):  # type: ignore[no-untyped-def]
    return (p[v, 0] - places[c, 0]) ** 2 + (p[v, 1] - places[c, 1]) ** 2 + (p[v, 2] - places[c, 2]) ** 2


@kernel
def _represent(positions, kind, cluster, centre, representative):  # type: ignore[no-untyped-def]
    """The vertex of each cluster that is nearest to its centre; where equally near, the first in memory."""
    for v in range(len(cluster)):
        c = cluster[v]
        if c < 0:
            continue
        r = representative[c]
        if r < 0:
            representative[c] = v
            continue
        far = near = 0.0
        for k in range(3):
            near += (positions[v, k] - centre[c, k]) ** 2
            far += (positions[r, k] - centre[c, k]) ** 2
        if near < far:
            representative[c] = v


@kernel
def _pick_wedges(own, stands, start, around, corner_wedge, values, result):  # type: ignore[no-untyped-def]
    """Of the wedges of the vertices that stand for the corners those whose values are nearest to the corners' own."""
    for t in range(len(own)):
        for k in range(3):
            v = stands[t, k]
            best, least = -1, np.inf
            for s in range(start[v], start[v + 1]):
                w = corner_wedge[around[s, 2]]
                off = 0.0
                for m in range(values.shape[1]):
                    off += (values[w, m] - values[own[t, k], m]) ** 2
                if off < least:
                    best, least = w, off
            result[t, k] = best
