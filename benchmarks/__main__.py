"""Run the benchmarks: ``./plindro bench [NAME ...]``, all where none is named.

``./plindro bench reduction FILE ...``, or ``unwrapping``, measures the geometry of meshes of one's own; ``compression``
images.
"""

import io
import sys

import trimesh

from benchmarks.cleanup import cleanup
from benchmarks.colliding import collision
from benchmarks.compressing import compression
from benchmarks.cutting import triangulation
from benchmarks.meshes import grid_obj
from benchmarks.reducing import reduction
from benchmarks.remeshing import even
from benchmarks.serving import serving
from benchmarks.shading import normals
from benchmarks.shipping import shipping
from benchmarks.timing import cpu_seconds, row
from benchmarks.trust import trust
from benchmarks.unwrapping import unwrapping
from plindro.core.files import read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.scene import Material


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


ALL = {
    "reading": reading,
    "cleanup": cleanup,
    "triangulation": triangulation,
    "normals": normals,
    "reduction": reduction,
    "even": even,
    "unwrapping": unwrapping,
    "compression": compression,
    "collision": collision,
    "serving": serving,
    "shipping": shipping,
    "trust": trust,
}

if __name__ == "__main__":
    of_files = {"reduction": reduction, "unwrapping": unwrapping, "compression": compression}
    if len(sys.argv) > 2 and sys.argv[1] in of_files and sys.argv[2] not in ALL:
        of_files[sys.argv[1]](*sys.argv[2:])
        sys.exit()
    for name in sys.argv[1:] or list(ALL):
        if name not in ALL:
            sys.exit(f"bench: there is no '{name}'; known are {', '.join(ALL)}")
        print(f"{name}")
        ALL[name]()
