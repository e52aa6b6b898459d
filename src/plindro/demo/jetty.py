"""A jetty by another hand: a GLB that lies in the engine project already, with names of its own and no levels."""

import numpy as np

from plindro.core.files.gltf.writer import write_glb
from plindro.core.mesh.mesh import make_mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.scene import Material, Part
from plindro.demo.shapes import box, joined


def build_jetty() -> bytes:
    """The bytes of the GLB. Its one mesh is named 'Jetty', which no engine takes for a level."""
    shape = joined([
        *(box(0.3, 0.05, 1.2, 0.006).moved(0.32 * i - 1.6, 0.6, 0) for i in range(11)),
        *(box(0.12, 0.6, 0.12, 0.008).moved(x, 0.3, z) for x in (-1.5, 1.5) for z in (-0.5, 0.5)),
    ])  # fmt: skip
    sides = np.array([len(face) for face in shape.faces])
    corners = np.concatenate([np.asarray(face) for face in shape.faces])
    mesh = triangulate(make_mesh(shape.points, np.concatenate([[0], np.cumsum(sides)]), corners)).mesh
    wood = Material("jetty wood", base_color=(0.42, 0.33, 0.22, 1.0), roughness=0.85, metallic=0.0)
    prop = Prop("Jetty", mesh, (Part("Jetty", "Jetty"),), (wood,), levels=(Level(0, mesh, "Jetty"),))
    return write_glb(prop)
