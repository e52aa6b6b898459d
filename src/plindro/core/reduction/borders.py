"""Where a surface is open."""

import numpy as np

from plindro.core.mesh.mesh import I32, Mask, Mesh
from plindro.core.mesh.topology import build_topology


def border_ends(mesh: Mesh) -> I32:
    """(E, 2) the ends of a mesh's open edges."""
    topology = build_topology(mesh)
    open_edges = np.flatnonzero(topology.twin < 0)
    return np.stack([mesh.corner_vertex[open_edges], mesh.corner_vertex[topology.next_corner[open_edges]]], axis=1)


def what_holds(mesh: Mesh, *, keep_shells: bool = False, keep_holes: bool = False) -> str:
    """What keeps a mesh from being reduced further, as a clause."""
    holds = ["open boundaries", "corners"] if border_vertices(mesh).any() else []
    holds += ["shells"] if keep_shells else []
    holds += ["through-holes"] if keep_holes else []
    if not holds:
        return "fewer would fold its surface"
    listed = f"{', '.join(holds[:-1])} and {holds[-1]}" if len(holds) > 1 else holds[0]
    return f"its {listed} keep their last triangles"


def border_vertices(mesh: Mesh) -> Mask:
    """(V,) whether an open edge ends at each vertex."""
    mask = np.zeros(mesh.n_vertices, bool)
    mask[border_ends(mesh)] = True
    return mask
