"""Rays against triangles through a tree of boxes: what a face sees, and in what a point lies."""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I32, Mask
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import BoxTree, build_box_tree, triangle_boxes
from plindro.core.spatial.search import begin, new_stack, next_leaf, things_of


class Targets(NamedTuple):
    """What rays are sent against: ``points`` (V, 3), ``triangles`` (T, 3), ``face`` (T,) of each, and their tree."""

    points: F64
    triangles: I32
    face: I32
    tree: BoxTree


def ray_targets(points: F64, triangles: I32, face: I32) -> Targets:
    """Triangles (T, 3) of faces (T,), ready for rays."""
    return Targets(points, triangles, face, build_box_tree(*triangle_boxes(points, triangles)))


@helper
def _towards(origin, direction):  # type: ignore[no-untyped-def]
    """A ray as a query: where it begins, and the inverse of its direction."""
    dx = direction[0] if abs(direction[0]) > 1e-300 else 1e-300
    dy = direction[1] if abs(direction[1]) > 1e-300 else 1e-300
    dz = direction[2] if abs(direction[2]) > 1e-300 else 1e-300
    return (origin[0], origin[1], origin[2], 1.0 / dx, 1.0 / dy, 1.0 / dz)


@helper
def _enters(ray, tree, node):  # type: ignore[no-untyped-def]
    """How far along the ray it enters a box."""
    if tree.low[node, 0] > tree.high[node, 0]:
        return np.inf
    t0, t1 = 0.0, np.inf
    for k in range(3):
        near, far = (tree.low[node, k] - ray[k]) * ray[3 + k], (tree.high[node, k] - ray[k]) * ray[3 + k]
        if near > far:
            near, far = far, near
        t0, t1 = max(t0, near), min(t1, far)
    return t0 if t0 <= t1 else np.inf


@helper
def _crossing(targets, t, origin, direction):  # type: ignore[no-untyped-def]
    """Distance along the ray to the triangle t, or -1 (Möller and Trumbore 1997)."""
    triangles = targets.triangles
    p = targets.points[triangles[t, 0]]
    q = targets.points[triangles[t, 1]]
    r = targets.points[triangles[t, 2]]
    ax, ay, az = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    bx, by, bz = r[0] - p[0], r[1] - p[1], r[2] - p[2]
    hx = direction[1] * bz - direction[2] * by
    hy = direction[2] * bx - direction[0] * bz
    hz = direction[0] * by - direction[1] * bx
    det = ax * hx + ay * hy + az * hz
    if det == 0.0:
        return -1.0
    sx, sy, sz = origin[0] - p[0], origin[1] - p[1], origin[2] - p[2]
    u = (sx * hx + sy * hy + sz * hz) / det
    if u < 0.0 or u > 1.0:
        return -1.0
    gx, gy, gz = sy * az - sz * ay, sz * ax - sx * az, sx * ay - sy * ax
    v = (direction[0] * gx + direction[1] * gy + direction[2] * gz) / det
    if v < 0.0 or u + v > 1.0:
        return -1.0
    return (bx * gx + by * gy + bz * gz) / det


@helper
def _escapes(origin, direction, least, skip, targets, stack):  # type: ignore[no-untyped-def]
    """Whether a ray meets no triangle beyond the distance ``least``, those of the face ``skip`` apart.

    Also returns how many triangles were asked.
    """
    ray = _towards(origin, direction)
    tree = targets.tree
    asked = 0
    depth = begin(_enters, ray, tree, stack)
    while True:
        leaf, depth = next_leaf(_enters, ray, np.inf, tree, stack, depth)
        if leaf < 0:
            return True, asked
        first, last = things_of(leaf, tree)
        asked += last - first
        for i in range(first, last):
            t = tree.order[i]
            if targets.face[t] != skip and _crossing(targets, t, origin, direction) > least:
                return False, asked


@helper
def _across(nx, ny, nz):  # type: ignore[no-untyped-def]
    """Two unit vectors across a unit vector, the same for its opposite, so that turning a face swaps its shares."""
    first = nx if nx != 0.0 else (ny if ny != 0.0 else nz)
    flip = -1.0 if first < 0.0 else 1.0
    nx, ny, nz = flip * nx, flip * ny, flip * nz
    if abs(nz) < 0.9:
        length = np.sqrt(nx * nx + ny * ny)
        ux, uy, uz = ny / length, -nx / length, 0.0
    else:
        length = np.sqrt(ny * ny + nz * nz)
        ux, uy, uz = 0.0, nz / length, -ny / length
    return ux, uy, uz, ny * uz - nz * uy, nz * ux - nx * uz, nx * uy - ny * ux


@kernel
def _sky_shares(origins, normals, skip, directions, least, targets, most, stack, d, out):  # type: ignore[no-untyped-def]
    left = most
    for i in range(len(origins)):
        if left <= 0:
            out[i, 0] = out[i, 1] = 1.0
            continue
        n = normals[i]
        ux, uy, uz, vx, vy, vz = _across(n[0], n[1], n[2])
        for side in range(2):
            sign = 1.0 - 2.0 * side
            free = 0
            for j in range(len(directions)):
                x, y, z = directions[j, 0], directions[j, 1], directions[j, 2]
                d[0] = x * ux + y * vx + sign * z * n[0]
                d[1] = x * uy + y * vy + sign * z * n[1]
                d[2] = x * uz + y * vz + sign * z * n[2]
                escapes, asked = _escapes(origins[i], d, least, skip[i], targets, stack)
                free += escapes
                left -= asked
            out[i, side] = free / len(directions)


def sky_shares(
    origins: F64, normals: F64, skip: I32, directions: F64, least: float, targets: Targets, most: int
) -> F64:
    """(N, 2) share of the sky that points see in front of them and behind them.

    ``normals`` (N, 3) say where the front is, ``skip`` (N,) the face that each stands on, ``directions`` (D, 3) cover a
    half sphere about +Z by equal area, weighted by cosine. After ``most`` triangles were asked, the points that are
    left see the same on both sides, which decides nothing.
    """
    out = np.empty((len(origins), 2))
    _sky_shares(origins, normals, skip, directions, least, targets, most, new_stack(), np.empty(3), out)
    return out


@helper
def _is_open(origin, direction, least, reach, targets, stack):  # type: ignore[no-untyped-def]
    """Whether a ray meets no triangle between the distances ``least`` and ``reach``."""
    ray = _towards(origin, direction)
    tree = targets.tree
    depth = begin(_enters, ray, tree, stack)
    while True:
        leaf, depth = next_leaf(_enters, ray, reach, tree, stack, depth)
        if leaf < 0:
            return True
        first, last = things_of(leaf, tree)
        for i in range(first, last):
            distance = _crossing(targets, tree.order[i], origin, direction)
            if least < distance < reach:
                return False


@kernel
def _open_shares(origins, normals, directions, least, reach, targets, stack, d, out):  # type: ignore[no-untyped-def]
    for i in range(len(origins)):
        n = normals[i]
        ux, uy, uz, vx, vy, vz = _across(n[0], n[1], n[2])
        free = 0
        for j in range(len(directions)):
            x, y, z = directions[j, 0], directions[j, 1], directions[j, 2]
            for k, (u, v) in enumerate(((ux, vx), (uy, vy), (uz, vz))):
                d[k] = x * u + y * v + z * n[k]
            free += _is_open(origins[i], d, least, reach, targets, stack)
        out[i] = free / len(directions)


def open_shares(origins: F64, normals: F64, directions: F64, least: float, reach: float, targets: Targets) -> F64:
    """(N,) share of the rays from points that meet nothing between the distances ``least`` and ``reach``.

    ``normals`` (N, 3) are unit vectors, ``directions`` (D, 3) cover a half sphere about +Z.
    """
    out = np.empty(len(origins))
    _open_shares(origins, normals, directions, least, reach, targets, new_stack(), np.empty(3), out)
    return out


@helper
def _count_crossings(origin, direction, least, targets, owner, stack, counts):  # type: ignore[no-untyped-def]
    """Add to ``counts`` how often the ray crosses triangles of each owner beyond the distance ``least``."""
    ray = _towards(origin, direction)
    tree = targets.tree
    depth = begin(_enters, ray, tree, stack)
    while True:
        leaf, depth = next_leaf(_enters, ray, np.inf, tree, stack, depth)
        if leaf < 0:
            return
        first, last = things_of(leaf, tree)
        for i in range(first, last):
            t = tree.order[i]
            if owner[t] >= 0 and _crossing(targets, t, origin, direction) > least:
                counts[owner[t]] += 1


@kernel
def _find_inside(origins, rays, least, targets, owner, stack, counts, votes, inside):  # type: ignore[no-untyped-def]
    for i in range(len(origins)):
        votes[:] = 0
        for j in range(len(rays)):
            counts[:] = 0
            _count_crossings(origins[i], rays[j], least, targets, owner, stack, counts)
            for k in range(len(counts)):
                votes[k] += counts[k] & 1
        for k in range(len(counts)):
            inside[i, k] = 2 * votes[k] > len(rays)


def find_inside(origins: F64, rays: F64, least: float, targets: Targets, owner: I32, n_owners: int) -> Mask:
    """(N, O) whether most rays from each point cross the surface of each owner an odd number of times.

    ``owner`` (T,) numbers the closed surfaces; triangles of -1 are passed.
    """
    inside = np.empty((len(origins), n_owners), np.bool_)
    counts, votes = np.empty(n_owners, np.int32), np.empty(n_owners, np.int32)
    _find_inside(origins, rays, least, targets, owner, new_stack(), counts, votes, inside)
    return inside
