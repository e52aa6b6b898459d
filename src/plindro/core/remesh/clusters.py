"""Clusters of a mesh's vertices: pieces of its lines, and patches that are as round as their neighbours let them be.

The steps of approximated centroidal Voronoi clustering (Valette and Chassery 2004), for ``even``.
"""

import numpy as np

from plindro.core.numeric.kernels import helper, kernel
from plindro.core.reduction.edges import is_corner
from plindro.core.reduction.features import FREE, GONE, LINE


@kernel
def cut_lines(positions, kind, line, edge, cluster, is_end):  # type: ignore[no-untyped-def]
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
                following = _next_on(line, at, last)
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
                following = _next_on(line, at, last)
                if following < 0:
                    break
                walked += _distance(positions, at, following)
                last, at = at, following
                steps += 1
    return count


@helper
def _next_on(line, at, last):  # type: ignore[no-untyped-def]
    """Where the line goes on from a vertex that it came to from ``last``; -1 where it ends."""
    return line[at, 0] if line[at, 0] != last else line[at, 1]


@helper
def _distance(p, a, b):  # type: ignore[no-untyped-def]
    return np.sqrt((p[a, 0] - p[b, 0]) ** 2 + (p[a, 1] - p[b, 1]) ** 2 + (p[a, 2] - p[b, 2]) ** 2)


@kernel
def grow_clusters(start, around, kind, cluster, queue):  # type: ignore[no-untyped-def]
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
def sum_clusters(positions, area, cluster, sums):  # type: ignore[no-untyped-def]
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
def move_vertices(positions, area, kind, start, around, cluster, sums):  # type: ignore[no-untyped-def]
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
def join_strays(start, around, kind, cluster, piece, queue, sums):  # type: ignore[no-untyped-def]
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
def split_clusters(positions, cluster, which, centre, n_clusters, far):  # type: ignore[no-untyped-def]
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
def represent_clusters(positions, kind, cluster, centre, representative):  # type: ignore[no-untyped-def]
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
def pick_wedges(own, stands, start, around, corner_wedge, values, result):  # type: ignore[no-untyped-def]
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
