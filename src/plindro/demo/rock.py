"""The skerry rock: a dense "scan" of a million triangles, made on demand."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.files.gltf.writer import write_glb
from plindro.core.mesh.mesh import make_triangles
from plindro.core.prop import Level, Prop
from plindro.core.scene import Material, Part
from plindro.core.shading.normals import normals_by_angle
from plindro.demo.shapes import Points


def _noise(points: Points, cells: float, seed: int) -> Points:
    """Value noise in -1..1 at (N, 3) points."""
    lattice = np.random.default_rng(seed).random((32, 32, 32)) * 2 - 1
    scaled = points * cells + 100.0
    low = np.floor(scaled).astype(int)
    t = scaled - low
    t = t * t * (3 - 2 * t)
    result = np.zeros(len(points))
    for corner in np.ndindex(2, 2, 2):
        weight = np.prod(np.where(corner, t, 1 - t), axis=1)
        x, y, z = ((low + corner) % 32).T
        result += weight * lattice[x, y, z]
    return result


def _cube_sphere(n: int) -> tuple[Points, NDArray[Any]]:
    """A sphere of six n × n grids, its points welded: (V, 3) and (12 n², 3)."""
    angle = np.tan(np.linspace(-np.pi / 4, np.pi / 4, n + 1))
    a, b = np.meshgrid(angle, angle, indexing="ij")
    one = np.ones_like(a)
    sides = [(one, a, b), (-one, b, a), (b, one, a), (a, -one, b), (a, b, one), (b, a, -one)]
    cloud = np.concatenate([np.stack(side, axis=-1).reshape(-1, 3) for side in sides])
    grid = np.arange((n + 1) ** 2).reshape(n + 1, n + 1)
    quads = np.stack([grid[:-1, :-1], grid[1:, :-1], grid[1:, 1:], grid[:-1, 1:]], axis=-1).reshape(-1, 4)
    triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]], axis=1).reshape(-1, 3)
    every = np.concatenate([triangles + i * (n + 1) ** 2 for i in range(6)])
    _, first, index = np.unique(cloud.round(9), axis=0, return_index=True, return_inverse=True)
    return cloud[first], index.reshape(-1)[every]


def build_rock(cells: int = 290) -> bytes:
    """GLB bytes of the rock; ``cells`` = 290 gives 1 009 200 triangles."""
    points, triangles = _cube_sphere(cells)
    points /= np.linalg.norm(points, axis=1, keepdims=True)
    swell = 0.35 * _noise(points, 1.3, 1) + 0.2 * _noise(points, 2.9, 2)
    for octave in range(5):
        ridge = 1 - np.abs(_noise(points, 4.0 * 2**octave, 10 + octave))
        swell += 0.14 / 1.9**octave * ridge
    # Beds of rock lie flat and break in steps.
    beds = np.sin(points[:, 1] * 26 + 3 * _noise(points, 2.0, 30))
    swell += 0.02 * np.tanh(3 * beds)
    shaped = points * (1 + swell[:, None]) * (2.6, 1.35, 2.1)
    shaped[:, 1] = np.where(shaped[:, 1] < -0.6, -0.6 + 0.12 * (shaped[:, 1] + 0.6), shaped[:, 1])
    shaped[:, 1] -= shaped[:, 1].min()
    wet = np.clip((1.0 - shaped[:, 1]) / 0.5, 0, 1)
    grain = 0.5 + 0.5 * _noise(points, 30.0, 40)
    shade = (0.20 + 0.14 * grain + 0.05 * beds)[:, None] * (1 - 0.5 * wet[:, None]) * (1.0, 0.96, 0.90)
    weed = np.clip(wet * 1.4 - 0.5 * grain, 0, 1)[:, None]
    colors = np.concatenate([shade * (1 - weed) + weed * (0.06, 0.09, 0.03), np.ones((len(shade), 1))], axis=1)
    mesh = make_triangles(shaped, triangles)
    uv = np.stack([shaped[:, 0] + shaped[:, 1], shaped[:, 2] - shaped[:, 1]], axis=1) / 2
    mesh = make_triangles(
        shaped, triangles, normals=normals_by_angle(mesh, 180.0), uvs=(uv[mesh.corner_vertex],),
        colors=colors[mesh.corner_vertex],
    )  # fmt: skip
    stone = Material("stone", metallic=0.0, roughness=0.9)
    prop = Prop("skerry_rock", mesh, (Part("rock", "rock"),), (stone,), levels=(Level(0, mesh, "skerry_rock"),))
    return write_glb(prop)
