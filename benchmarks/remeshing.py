"""Even triangles beside the collapse of the same mesh to as many: how even, how far off, how long."""

import time
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from benchmarks.meshes import hilly_sphere, noisy_sphere
from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.reduction import collapse
from plindro.core.remesh import even_mesh
from plindro.core.shading.normals import normals_by_angle

SHARES = (0.5, 0.125, 0.025)


def even() -> None:
    """Two soft sources at three densities, and a scan of a million triangles to 50 000."""
    for name, source in (("hilly", hilly_sphere), ("scan", noisy_sphere)):
        mesh = _shaded(*source(120))
        for share in SHARES:
            _compare(name, mesh, round(share * mesh.n_faces))
    mesh = _shaded(*noisy_sphere(500))
    _compare("scan", mesh, 50_000)


def _compare(name: str, mesh: Mesh, count: int) -> None:
    even_mesh(mesh, count)
    start = time.perf_counter()
    made = even_mesh(mesh, count)
    seconds = time.perf_counter() - start
    sequence = collapse(mesh)
    collapsed = sequence.level(sequence.step_of_triangles(made.n_faces))
    ruler = DeviationFrom(mesh)
    ours, other = ruler.measure(made), ruler.measure(collapsed)
    print(
        f"{name}, {mesh.n_faces} to {made.n_faces:<7} {_angles(made)}  collapsed {_angles(collapsed)}  deviation over "
        f"its: mean {ours.mean / other.mean:.2f}, largest {ours.largest / other.largest:.2f}  {seconds:6.2f} s"
    )


def _shaded(points: NDArray[np.float64], triangles: NDArray[np.int32]) -> Mesh:
    mesh = make_triangles(points, triangles)
    return replace(mesh, normals=normals_by_angle(mesh, 180.0))


def _angles(mesh: Mesh) -> str:
    """The smallest angle of a triangle in degrees: the mean, and that of the worst hundredth."""
    points = mesh.positions[mesh.triangles()]
    sides = np.roll(points, -1, axis=1) - points
    sides /= np.maximum(np.linalg.norm(sides, axis=2, keepdims=True), 1e-300)
    cosine = -(sides * np.roll(sides, 1, axis=1)).sum(axis=2)
    least = np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))).min(axis=1)
    return f"{least.mean():.0f} / {np.quantile(least, 0.01):.0f} degrees"
