"""Run the benchmarks: ``./plindro bench [reading|cleanup|triangulation|normals|reduction]``."""

import io
import sys
from dataclasses import replace
from functools import partial

import fast_simplification
import meshoptimizer
import numpy as np
import trimesh

from benchmarks.cleanup import cleanup
from benchmarks.cutting import triangulation
from benchmarks.meshes import grid_obj, hilly_sphere
from benchmarks.shading import normals
from benchmarks.timing import cpu_seconds, row
from plindro.core.files import read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.mesh.normals import normals_by_angle
from plindro.core.prop import Level, Prop
from plindro.core.reduction import reduce_mesh
from plindro.core.scene import Material
from plindro.core.triangulation import triangulate


def reading() -> None:
    """A million triangles from OBJ and GLB bytes."""
    text = grid_obj(708)
    scene = read_scene(text, "grid.obj")
    triangles = scene.mesh.n_triangles
    ours = cpu_seconds(lambda: read_scene(text, "grid.obj"))
    other = cpu_seconds(lambda: trimesh.load(io.BytesIO(text), file_type="obj", process=False), 1)
    row(f"OBJ, {triangles} triangles", ours, {"trimesh": other}, (triangles, "triangles"))
    mesh = triangulate(scene.mesh).mesh
    data = write_glb(Prop("grid", mesh, (), (Material("grey"),), levels=(Level(0, mesh, "grid_LOD0"),)))
    ours = cpu_seconds(lambda: read_scene(data, "grid.glb"))
    other = cpu_seconds(lambda: trimesh.load(io.BytesIO(data), file_type="glb", process=False))
    row(f"GLB, {triangles} triangles", ours, {"trimesh (no weld)": other}, (triangles, "triangles"))


def _deviation(points: np.ndarray, reduced: np.ndarray, faces: np.ndarray) -> float:
    """Mean distance of source points to a reduced surface, in millionths of the diagonal."""
    surface = trimesh.Trimesh(reduced, faces, process=False)
    sample = points[:: max(len(points) // 4000, 1)]
    distance = trimesh.proximity.closest_point(surface, sample)[1]
    return float(distance.mean() / np.linalg.norm(np.ptp(points, axis=0)) * 1e6)


def reduction() -> None:
    """A hilly closed surface to single counts and to a chain, beside two libraries; with mean deviations."""
    for n in (60, 500):
        points, triangles = hilly_sphere(n)
        mesh = make_triangles(points, triangles)
        mesh = replace(mesh, normals=normals_by_angle(mesh, 180.0))
        total = len(triangles)
        for share in (0.5, 0.25, 0.1, 0.02):
            _reduce_beside(mesh, int(total * share))
        chain = [int(total * share) for share in (0.5, 0.25, 0.1)]
        seconds = cpu_seconds(partial(reduce_mesh, mesh, chain))
        row(f"{total} → chain of three levels", seconds, {}, (total, "triangles"))


def _reduce_beside(mesh: Mesh, target: int) -> None:
    """One reduction by all three, with times and mean deviations."""
    points, triangles = mesh.positions, mesh.triangles()
    single, indices = points.astype(np.float32), triangles.astype(np.uint32).reshape(-1)
    out = np.zeros_like(indices)
    options = {"target_index_count": 3 * target, "target_error": 1.0}
    meshopt = partial(meshoptimizer.simplify, out, indices, single, **options)
    quick = partial(fast_simplification.simplify, points, triangles, target_count=target)
    ours = cpu_seconds(partial(reduce_mesh, mesh, [target]))
    others = {"meshoptimizer": cpu_seconds(meshopt), "fast-simplification": cpu_seconds(quick)}
    row(f"{mesh.n_faces} → {target} triangles", ours, others, (mesh.n_faces, "triangles"))
    (level,) = reduce_mesh(mesh, [target])
    count = meshopt()
    figures = {
        "plindro": _deviation(points, level.mesh.positions, level.mesh.triangles()),
        "meshoptimizer": _deviation(points, single, out[:count].reshape(-1, 3)),
        "fast-simplification": _deviation(points, *quick()),
    }
    print("    mean deviation, 1e-6 of the diagonal: " + ", ".join(f"{k} {v:.1f}" for k, v in figures.items()))


ALL = {
    "reading": reading,
    "cleanup": cleanup,
    "triangulation": triangulation,
    "normals": normals,
    "reduction": reduction,
}

if __name__ == "__main__":
    for name in sys.argv[1:] or list(ALL):
        if name not in ALL:
            sys.exit(f"bench: there is no '{name}'; known are {', '.join(ALL)}")
        print(f"{name}")
        ALL[name]()
