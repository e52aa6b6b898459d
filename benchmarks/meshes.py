"""Meshes for benchmarks, made here, the same at every run."""

import numpy as np
from numpy.typing import NDArray


def hilly_sphere(n: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """A closed surface of 4 n (n - 1) triangles with hills of several sizes: points and triangles."""
    theta = np.linspace(0, np.pi, n + 1)[1:-1]
    phi = np.arange(2 * n) * np.pi / n
    x, y, z = (
        np.outer(np.sin(theta), np.cos(phi)),
        np.outer(np.cos(theta), np.ones(2 * n)),
        np.outer(np.sin(theta), np.sin(phi)),
    )
    points = np.concatenate([np.stack([x, y, z], -1).reshape(-1, 3), [[0, 1, 0], [0, -1, 0]]])
    rng = np.random.default_rng(7)
    for frequency in (2.0, 5.0, 11.0, 25.0):
        points = points * (1 + 0.2 / frequency * np.sin(frequency * points @ rng.normal(size=3)))[:, None]
    index = np.arange((n - 1) * 2 * n).reshape(n - 1, 2 * n)
    right = np.roll(index, -1, axis=1)
    last = len(points) - 1
    faces = [
        np.stack([index[:-1], right[:-1], index[1:]], -1).reshape(-1, 3),
        np.stack([right[:-1], right[1:], index[1:]], -1).reshape(-1, 3),
        np.stack([np.full(2 * n, last - 1), right[0], index[0]], -1),
        np.stack([np.full(2 * n, last), index[-1], right[-1]], -1),
    ]
    return points, np.concatenate(faces).astype(np.int32)


def notched_polygons(count: int, most: int) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Simple, deeply notched polygons of 5 to ``most`` sides: (C, 2) points and where each starts."""
    rng = np.random.default_rng(3)
    sides = rng.integers(5, most + 1, count)
    start = np.concatenate([[0], np.cumsum(sides)])
    within = np.arange(start[-1]) - np.repeat(start[:-1], sides)
    angle = (within + rng.uniform(-0.35, 0.35, len(within))) * 2 * np.pi / np.repeat(sides, sides)
    radius = rng.uniform(0.15, 1.0, len(within))
    return np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1), start


def grid_obj(n: int) -> bytes:
    """OBJ text of an n × n grid of quads with UVs and normals."""
    axis = np.linspace(0, 1, n + 1)
    lines = [f"v {x:.6f} {np.sin(9 * x):.6f} {y:.6f}" for x in axis for y in axis]
    lines += [f"vt {x:.6f} {y:.6f}" for x in axis for y in axis]
    lines += ["vn 0.000000 1.000000 0.000000"] * len(axis) ** 2
    for i in range(n):
        for j in range(n):
            a = i * (n + 1) + j + 1
            lines.append("f " + " ".join(f"{c}/{c}/{c}" for c in (a, a + 1, a + n + 2, a + n + 1)))
    return "\n".join(lines).encode()


def noisy_sphere(n: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """A hilly sphere as a scanner sees it: every point a little off."""
    points, triangles = hilly_sphere(n)
    noise = np.random.default_rng(1).normal(size=len(points))
    return points * (1 + 0.002 * noise)[:, None], triangles


def wavy_sheet(n: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """An open surface of 2 (n - 1)² triangles."""
    axis = np.linspace(0, 1, n)
    x, z = np.meshgrid(axis, axis, indexing="ij")
    y = 0.1 * np.sin(7 * x) * np.cos(5 * z) + 0.02 * np.sin(31 * x * z)
    index = np.arange(n * n).reshape(n, n)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    triangles = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    return np.stack([x, y, z], -1).reshape(-1, 3), triangles.astype(np.int32)


def toothed_wheel(teeth: int, rings: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """A closed hard-surface body: an extruded toothed outline, finely cut where it need not be."""
    n = 8 * teeth
    angle = np.arange(n) / n * 2 * np.pi
    radius = np.where((np.arange(n) // 4) % 2, 1.0, 0.85)
    outline = np.stack([radius * np.cos(angle), radius * np.sin(angle)], -1)
    shrunk = (0.8, 0.6, 0.4, 0.2)
    layers = [np.c_[outline, np.full(n, z)] for z in np.linspace(0, 0.3, rings)]
    layers += [np.c_[outline * share, np.full(n, z)] for z in (0.0, 0.3) for share in shrunk]
    points = np.concatenate([*layers, [[0, 0, 0], [0, 0, 0.3]]])
    here, after = np.arange(n), (np.arange(n) + 1) % n
    faces = []

    def strip(i: int, j: int) -> None:
        faces.append(np.stack([i * n + here, i * n + after, j * n + after], -1))
        faces.append(np.stack([i * n + here, j * n + after, j * n + here], -1))

    for i in range(rings - 1):
        strip(i, i + 1)
    for i, j in ((rings, 0), (rings + 1, rings), (rings + 2, rings + 1), (rings + 3, rings + 2)):
        strip(i, j)
    for i, j in ((rings - 1, rings + 4), (rings + 4, rings + 5), (rings + 5, rings + 6), (rings + 6, rings + 7)):
        strip(i, j)
    last = len(points) - 2
    faces.append(np.stack([(rings + 3) * n + after, (rings + 3) * n + here, np.full(n, last)], -1))
    faces.append(np.stack([(rings + 7) * n + here, (rings + 7) * n + after, np.full(n, last + 1)], -1))
    return points, np.concatenate(faces).astype(np.int32)


def thin_bowl(n: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """A closed thin-walled bowl."""
    points, triangles = hilly_sphere(n)
    shell = triangles[(points[:, 1] < 0.4)[triangles].all(axis=1)]
    edges = np.concatenate([shell[:, [0, 1]], shell[:, [1, 2]], shell[:, [2, 0]]]).astype(np.int64)
    key, back = edges[:, 0] * len(points) + edges[:, 1], edges[:, 1] * len(points) + edges[:, 0]
    rim = edges[~np.isin(key, back)]
    inner = rim + len(points)
    wall = [np.stack([rim[:, 1], rim[:, 0], inner[:, 0]], -1), np.stack([rim[:, 1], inner[:, 0], inner[:, 1]], -1)]
    both = np.concatenate([shell, shell[:, ::-1] + len(points), *wall])
    return np.concatenate([points, points * 0.985]), both.astype(np.int32)


def scattered_parts(count: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """Many closed bodies of different sizes that touch nothing."""
    points, triangles = hilly_sphere(12)
    rng = np.random.default_rng(5)
    places = [points * rng.uniform(0.02, 0.2) + rng.uniform(-1, 1, 3) for _ in range(count)]
    return np.concatenate(places), np.concatenate([triangles + i * len(points) for i in range(count)])


def loose_boxes(count: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """A building of boxes of all sizes that lie in each other: 12 triangles each, nothing joined."""
    rng = np.random.default_rng(3)
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
    quads = np.array([[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]])
    triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
    sizes = rng.uniform(0.05, 0.6, (count, 1, 3)) * np.where(np.arange(count) % 50 == 0, 4, 1)[:, None, None]
    points = corners * sizes + rng.uniform(0, 10, (count, 1, 3)) * (1, 1.5, 0.8)
    return points.reshape(-1, 3), (triangles + 8 * np.arange(count)[:, None, None]).reshape(-1, 3).astype(np.int32)


def drilled_plate(across: int, along: int, sides: int) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """A closed plate with ``across`` times ``along`` round through-holes of ``sides`` sides."""
    angle = np.arange(sides) * 2 * np.pi / sides
    round_ = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    square = 0.5 * round_ / np.abs(round_).max(axis=1, keepdims=True)
    after = (np.arange(sides) + 1) % sides
    quads = []
    for i, j in np.ndindex(across, along):
        inner, outer = 0.28 * round_ + (i + 0.5, j + 0.5), square + (i + 0.5, j + 0.5)
        top, bottom = ([np.c_[ring, np.full(sides, z)] for ring in (inner, outer)] for z in (0.25, 0.0))
        quads.append(np.stack([top[0], top[1], top[1][after], top[0][after]], axis=1))
        quads.append(np.stack([bottom[0][after], bottom[1][after], bottom[1], bottom[0]], axis=1))
        quads.append(np.stack([top[0], top[0][after], bottom[0][after], bottom[0]], axis=1))
        ends = np.isclose(outer, 0.0) | np.isclose(outer, (across, along))
        side = (ends & ends[after]).any(axis=1)
        quads.append(np.stack([top[1], bottom[1], bottom[1][after], top[1][after]], axis=1)[side])
    corners = np.concatenate(quads).reshape(-1, 3).round(9)
    points, number = np.unique(corners, axis=0, return_inverse=True)
    faces = number.reshape(-1, 4)
    return points, np.concatenate([faces[:, [0, 1, 2]], faces[:, [0, 2, 3]]]).astype(np.int32)
