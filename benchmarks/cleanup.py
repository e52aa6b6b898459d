"""Cleanup beside the checks of an open-source library, and on meshes that invite quadratic paths."""

import time
from collections.abc import Callable

import numpy as np
import trimesh
from numpy.typing import NDArray

from benchmarks.meshes import hilly_sphere
from benchmarks.timing import row
from plindro.core.mesh.mesh import Mesh, make_mesh, make_triangles
from plindro.core.stations.cleanup import CleanupSettings, clean


def cleanup() -> None:
    """All checks on a clean million, all repairs on a dirty one, and the bad meshes."""
    points, triangles = hilly_sphere(500)
    mesh = make_triangles(points, triangles)

    def library() -> None:
        """What the library has of these checks: winding, watertightness, repeated faces, area, loose vertices."""
        other = trimesh.Trimesh(points, triangles, process=False)
        _ = (other.is_watertight, other.is_winding_consistent, other.volume, other.body_count)
        _ = (other.unique_faces(), other.nondegenerate_faces(), other.referenced_vertices)

    row(
        f"all checks, {len(triangles)} clean triangles",
        _wall(mesh),
        {"trimesh (six of them)": _best(library)},
        (len(triangles), "triangles"),
    )
    dirty = _dirty(points, triangles)
    row(
        f"checks, repair, checks again, {dirty.n_faces} dirty triangles", _wall(dirty), {}, (dirty.n_faces, "triangles")
    )
    for name, bad in _bad_meshes().items():
        row(name, _wall(bad, 1), {}, (max(bad.n_faces, 1), "faces"))


def _wall(mesh: Mesh, times: int = 3) -> float:
    return _best(lambda: clean(mesh, CleanupSettings()), times)


def _best(work: Callable[[], object], times: int = 3) -> float:
    """Least wall time in seconds: the search for overlaps takes several threads."""
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        taken.append(time.perf_counter() - started)
    return min(taken)


def _dirty(points: NDArray[np.float64], triangles: NDArray[np.int32]) -> Mesh:
    """A tenth of the faces on vertices of their own, faces turned, repeated and missing."""
    rng = np.random.default_rng(7)
    corners = triangles.copy()
    turned = rng.random(len(corners)) < 0.02
    corners[turned] = corners[turned][:, ::-1]
    own = rng.random(len(corners)) < 0.1
    extra = points[corners[own]].reshape(-1, 3)
    corners[own] = len(points) + np.arange(len(extra)).reshape(-1, 3)
    corners = np.concatenate([corners, corners[rng.integers(0, len(corners), 1000)]])
    return make_triangles(np.concatenate([points, extra]), corners[rng.random(len(corners)) > 1e-4])


def _bad_meshes() -> dict[str, Mesh]:
    million = 1_000_000
    fan = np.arange(10_000) * 2 * np.pi / 10_000
    around = np.stack([np.cos(fan), np.sin(fan), np.full(len(fan), 0.5)], axis=1)
    blades = np.stack([np.zeros(len(fan), int), np.ones(len(fan), int), np.arange(2, len(fan) + 2)], axis=1)
    own = np.arange(3 * million).reshape(-1, 3)
    third = own[: million // 3]
    scattered = np.random.default_rng(1).random((million, 3))
    return {
        "a million equal faces": make_triangles(np.eye(3), np.tile([0, 1, 2], (million, 1))),
        "a million equal faces on own vertices": make_triangles(np.tile(np.eye(3), (million, 1)), own),
        "a million loose vertices": make_mesh(scattered, np.array([0, 3]), np.array([0, 1, 2])),
        "10 000 faces on one edge": make_triangles(np.concatenate([[[0, 0, 0], [0, 0, 1]], around]), blades),
        "333 333 random triangles through one another": make_triangles(scattered, third),
        "a million points in one place": make_triangles(np.zeros((million, 3)), third),
    }
