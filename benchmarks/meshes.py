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
