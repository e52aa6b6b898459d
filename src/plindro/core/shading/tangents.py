"""Tangents as normal maps are baked against: MikkTSpace.

After Mikkelsen 2008 ("Simulation of wrinkled surfaces revisited") in the form that bakers and engines share: corners of
equal position, normal and UV are one vertex; around a vertex, triangles that hang together and whose UVs have the same
handedness share a tangent, the mean of their directions of growing U across the vertex normal, weighted by the
corner's angle. All of it is computed in float32 and in the order of the triangles, as the common implementation does,
so that the numbers agree and not only the idea.

glTF's UV origin is the upper left corner while tangent space is told with V growing upwards: the sign in w is turned.
"""

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, I32, Mask, Mesh
from plindro.core.mesh.numbering import float_bits, number_pairs, number_rows
from plindro.core.shading.tangent_edges import last_run, name_vertices

_TINY = np.float32(1.17549435e-38)
_ONE = np.float32(1.0)
_ZERO = np.float32(0.0)


@njit(cache=True, nogil=True)
def _length(x, y, z):  # type: ignore[no-untyped-def]
    return np.float32(np.sqrt(x * x + y * y + z * z))


@njit(cache=True, nogil=True)
def _across(nx, ny, nz, x, y, z):  # type: ignore[no-untyped-def]
    """The part of a vector across the unit normal, at unit length where it is not zero."""
    d = nx * x + ny * y + nz * z
    x, y, z = x - d * nx, y - d * ny, z - d * nz
    if abs(x) > _TINY or abs(y) > _TINY or abs(z) > _TINY:
        scale = _ONE / _length(x, y, z)
        x, y, z = scale * x, scale * y, scale * z
    return x, y, z


@njit(cache=True, nogil=True)
def _triangle_axes(p, uv, along_s, along_t, is_positive, has_axes, is_collapsed):  # type: ignore[no-untyped-def]
    """Directions of growing U and V of each triangle, its handedness, and whether its UVs span anything."""
    for t in range(len(is_positive)):
        a, b, c = 3 * t, 3 * t + 1, 3 * t + 2
        same_ab = p[a, 0] == p[b, 0] and p[a, 1] == p[b, 1] and p[a, 2] == p[b, 2]
        same_ac = p[a, 0] == p[c, 0] and p[a, 1] == p[c, 1] and p[a, 2] == p[c, 2]
        same_bc = p[b, 0] == p[c, 0] and p[b, 1] == p[c, 1] and p[b, 2] == p[c, 2]
        is_collapsed[t] = same_ab or same_ac or same_bc
        s1, t1 = uv[b, 0] - uv[a, 0], uv[b, 1] - uv[a, 1]
        s2, t2 = uv[c, 0] - uv[a, 0], uv[c, 1] - uv[a, 1]
        d1x, d1y, d1z = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
        d2x, d2y, d2z = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
        area = s1 * t2 - t1 * s2
        sx, sy, sz = t2 * d1x - t1 * d2x, t2 * d1y - t1 * d2y, t2 * d1z - t1 * d2z
        tx, ty, tz = -s2 * d1x + s1 * d2x, -s2 * d1y + s1 * d2y, -s2 * d1z + s1 * d2z
        is_positive[t] = area > _ZERO
        if abs(area) > _TINY:
            length_s, length_t = _length(sx, sy, sz), _length(tx, ty, tz)
            sign = _ONE if is_positive[t] else -_ONE
            if length_s > _TINY:
                scale = sign / length_s
                sx, sy, sz = scale * sx, scale * sy, scale * sz
            if length_t > _TINY:
                scale = sign / length_t
                tx, ty, tz = scale * tx, scale * ty, scale * tz
            has_axes[t] = length_s / abs(area) > _TINY and length_t / abs(area) > _TINY
        along_s[t, 0], along_s[t, 1], along_s[t, 2] = sx, sy, sz
        along_t[t, 0], along_t[t, 1], along_t[t, 2] = tx, ty, tz


@njit(cache=True, nogil=True)
def _match_edges(vertex, edge, first, following, is_collapsed, neighbour):  # type: ignore[no-untyped-def]
    """Pair half-edges that run against each other; where more than two meet, in the order of their triangles."""
    for e in range(len(first)):
        h = first[e]
        while h >= 0:
            if neighbour[h] < 0 and not is_collapsed[h // 3]:
                start = vertex[h]
                k = following[h]
                while k >= 0:
                    if neighbour[k] < 0 and not is_collapsed[k // 3] and vertex[k] != start:
                        neighbour[h], neighbour[k] = k, h
                        break
                    k = following[k]
            h = following[h]


@njit(cache=True, nogil=True)
def _match_last(vertex, edge, run, neighbour):  # type: ignore[no-untyped-def]
    """Pair the half-edges of the last run anew: only those that lie side by side in it are found."""
    for h in run:
        neighbour[h] = -1
    begin = 0
    while begin < len(run):
        end = begin + 1
        while end < len(run) and edge[run[end]] == edge[run[begin]]:
            end += 1
        mine = run[begin:end]
        if end < len(run):
            mine = np.sort(mine)
        for i in range(len(mine)):
            for j in range(i + 1, len(mine)):
                h, k = mine[i], mine[j]
                if neighbour[h] < 0 and neighbour[k] < 0 and vertex[h] != vertex[k]:
                    neighbour[h], neighbour[k] = k, h
        begin = end


@njit(cache=True, nogil=True)
def _group(vertex, neighbour, is_positive, has_axes, is_collapsed, group, group_positive):  # type: ignore[no-untyped-def]
    """Groups of corners that share a tangent; returns how many there are.

    A triangle whose UVs span nothing joins the first group that reaches it, and takes on its handedness.
    """
    stack = np.empty(len(vertex) + 8, np.int32)
    count = 0
    for c in range(len(vertex)):
        t = c // 3
        if is_collapsed[t] or not has_axes[t] or group[c] >= 0:
            continue
        positive = is_positive[t]
        group[c] = count
        group_positive[count] = positive
        depth = 0
        before = 3 * t + (c - 3 * t + 2) % 3
        for half in (neighbour[before], neighbour[c]):
            if half >= 0:
                stack[depth] = half // 3
                depth += 1
        while depth > 0:
            depth -= 1
            u = stack[depth]
            d = 3 * u
            if vertex[d] != vertex[c]:
                d += 1
                if vertex[d] != vertex[c]:
                    d += 1
                    if vertex[d] != vertex[c]:
                        continue
            if group[d] >= 0:
                continue
            if not has_axes[u] and group[3 * u] < 0 and group[3 * u + 1] < 0 and group[3 * u + 2] < 0:
                is_positive[u] = positive
            if is_positive[u] != positive:
                continue
            group[d] = count
            before = 3 * u + (d - 3 * u + 2) % 3
            for half in (neighbour[before], neighbour[d]):
                if half >= 0:
                    if depth >= len(stack):
                        grown = np.empty(2 * len(stack), np.int32)
                        grown[: len(stack)] = stack
                        stack = grown
                    stack[depth] = half // 3
                    depth += 1
        count += 1
    return count


@njit(cache=True, nogil=True)
def _weighted(p, n, along_s, c, out):  # type: ignore[no-untyped-def]
    """The tangent that corner ``c``'s triangle gives, times the corner's angle across the normal."""
    t = c // 3
    k = c - 3 * t
    b, a = 3 * t + (k + 1) % 3, 3 * t + (k + 2) % 3
    nx, ny, nz = n[c, 0], n[c, 1], n[c, 2]
    sx, sy, sz = _across(nx, ny, nz, along_s[t, 0], along_s[t, 1], along_s[t, 2])
    ux, uy, uz = _across(nx, ny, nz, p[a, 0] - p[c, 0], p[a, 1] - p[c, 1], p[a, 2] - p[c, 2])
    vx, vy, vz = _across(nx, ny, nz, p[b, 0] - p[c, 0], p[b, 1] - p[c, 1], p[b, 2] - p[c, 2])
    cosine = min(max(ux * vx + uy * vy + uz * vz, -_ONE), _ONE)
    angle = np.float32(np.arccos(np.float64(cosine)))
    out[0], out[1], out[2] = angle * sx, angle * sy, angle * sz


@njit(cache=True, nogil=True)
def _is_opposite(n, along_s, along_t, c, d):  # type: ignore[no-untyped-def]
    """Whether the directions of two corners' triangles point exactly away from each other across the normal."""
    nx, ny, nz = n[c, 0], n[c, 1], n[c, 2]
    for axes in (along_s, along_t):
        ax, ay, az = _across(nx, ny, nz, axes[c // 3, 0], axes[c // 3, 1], axes[c // 3, 2])
        bx, by, bz = _across(nx, ny, nz, axes[d // 3, 0], axes[d // 3, 1], axes[d // 3, 2])
        if not ax * bx + ay * by + az * bz > -_ONE:
            return True
    return False


@njit(cache=True, nogil=True)
def _spread(p, n, along_s, along_t, has_axes, members, start, group_positive, tangents):  # type: ignore[no-untyped-def]
    """Sum up each group in the order of its triangles and give the result to its corners."""
    part, total = np.empty(3, np.float32), np.empty(3, np.float32)
    for g in range(len(start) - 1):
        mine = members[start[g] : start[g + 1]]
        lead = mine[0]
        nx, ny, nz = n[lead, 0], n[lead, 1], n[lead, 2]
        sx, sy, sz = _across(nx, ny, nz, along_s[lead // 3, 0], along_s[lead // 3, 1], along_s[lead // 3, 2])
        tx, ty, tz = _across(nx, ny, nz, along_t[lead // 3, 0], along_t[lead // 3, 1], along_t[lead // 3, 2])
        alike = True
        for c in mine:
            t = c // 3
            ax, ay, az = _across(nx, ny, nz, along_s[t, 0], along_s[t, 1], along_s[t, 2])
            bx, by, bz = _across(nx, ny, nz, along_t[t, 0], along_t[t, 1], along_t[t, 2])
            if not (ax * sx + ay * sy + az * sz > _ZERO and bx * tx + by * ty + bz * tz > _ZERO):
                alike = False
        sign = -_ONE if group_positive[g] else _ONE
        for i in range(len(mine)):
            if i == 0 or not alike:
                total[0], total[1], total[2] = _ZERO, _ZERO, _ZERO
                for d in mine:
                    if not has_axes[d // 3]:
                        continue
                    is_asked = not alike and has_axes[mine[i] // 3] and d != mine[i]
                    if is_asked and _is_opposite(n, along_s, along_t, mine[i], d):
                        continue
                    _weighted(p, n, along_s, d, part)
                    for k in range(3):
                        total[k] = total[k] + part[k]
                x, y, z = total[0], total[1], total[2]
                if abs(x) > _TINY or abs(y) > _TINY or abs(z) > _TINY:
                    scale = _ONE / _length(x, y, z)
                    total[0], total[1], total[2] = scale * x, scale * y, scale * z
            c = mine[i]
            tangents[c, 0], tangents[c, 1], tangents[c, 2], tangents[c, 3] = total[0], total[1], total[2], sign


def corner_tangents(mesh: Mesh, channel: int = 0) -> F32:
    """(C, 4) float32 unit tangents with w = 1 or -1, for a triangle mesh with normals and UVs.

    Corners whose UVs span nothing and that no group reaches get the X axis with w = 1.
    Raises ``ValueError`` where the mesh has no normals or no such UV channel.
    """
    if mesh.normals is None or channel >= len(mesh.uvs):
        raise ValueError(f"mesh: tangents need normals and UV channel {channel}")
    n_corners, n_faces = mesh.n_corners, mesh.n_faces
    mesh.triangles()
    p = mesh.positions.astype(np.float32)[mesh.corner_vertex]
    n, uv = mesh.normals, mesh.uvs[channel]
    vertex, _ = number_rows(np.concatenate([float_bits(p), float_bits(n), float_bits(uv)], axis=1))
    along_s, along_t = np.empty((n_faces, 3), np.float32), np.empty((n_faces, 3), np.float32)
    is_positive, has_axes = np.zeros(n_faces, bool), np.zeros(n_faces, bool)
    is_collapsed = np.zeros(n_faces, bool)
    _triangle_axes(p, uv, along_s, along_t, is_positive, has_axes, is_collapsed)

    around = np.roll(np.arange(n_corners).reshape(-1, 3), -1, axis=1).reshape(-1)
    other = vertex[around]
    edge, first = number_pairs(np.minimum(vertex, other), np.maximum(vertex, other))
    by_edge = np.argsort(edge, kind="stable")
    following = np.full(n_corners, -1, np.int32)
    same = edge[by_edge[1:]] == edge[by_edge[:-1]]
    following[by_edge[:-1][same]] = by_edge[1:][same]
    neighbour = np.full(n_corners, -1, np.int32)
    _match_edges(vertex, edge, first, following, is_collapsed, neighbour)
    sound = np.flatnonzero(np.repeat(~is_collapsed, 3))
    if len(sound):
        names = np.full(int(vertex.max()) + 1, -1, np.int32)
        name_vertices(p, vertex, names)
        run = last_run(np.minimum(names[vertex[sound]], names[other[sound]]))
        _match_last(vertex, edge, sound[run], neighbour)

    group = np.full(n_corners, -1, np.int32)
    group_positive = np.zeros(n_corners, bool)
    count = int(_group(vertex, neighbour, is_positive, has_axes, is_collapsed, group, group_positive))
    tangents = np.zeros((n_corners, 4), np.float32)
    tangents[:, 0] = tangents[:, 3] = 1.0
    grouped = np.flatnonzero(group >= 0)
    members = grouped[np.argsort(group[grouped], kind="stable")].astype(np.int32)
    start = np.concatenate([[0], np.cumsum(np.bincount(group[grouped], minlength=count))]).astype(np.int64)
    _spread(p, n, along_s, along_t, has_axes, members, start, group_positive, tangents)
    _borrow(vertex, is_collapsed, tangents)
    return _mended(tangents, n)


def _borrow(vertex: I32, is_collapsed: Mask, tangents: F32) -> None:
    """Corners of collapsed triangles take the tangent of the first sound corner at their vertex."""
    bad = np.repeat(is_collapsed, 3)
    if not bad.any():
        return
    sound = np.flatnonzero(~bad)
    donor = np.full(int(vertex.max()) + 1, -1, np.int64)
    donor[vertex[sound[::-1]]] = sound[::-1]
    needy = np.flatnonzero(bad)
    found = donor[vertex[needy]]
    tangents[needy[found >= 0]] = tangents[found[found >= 0]]


def _mended(tangents: F32, normals: F32) -> F32:
    """Unit tangents everywhere: where a sum vanished, which the common implementation leaves at zero, any direction
    across the normal."""
    weak = ~(np.abs(tangents[:, :3]).sum(axis=1) > 0.5)
    if weak.any():
        own = normals[weak].astype(np.float64)
        axis = np.zeros_like(own)
        axis[np.arange(len(axis)), np.abs(own).argmin(axis=1)] = 1.0
        tangents[weak, :3] = unit(np.cross(own, axis)).astype(np.float32)
    return tangents
