"""STL, binary: a file a level, triangles with the normals of their planes."""

import numpy as np

from plindro.core.files.form import PLAIN_FORM, FileForm
from plindro.core.files.stl.reader import FACET, HEADER_SIZE
from plindro.core.mesh.mesh import F64
from plindro.core.prop import Prop


def write_stl(prop: Prop, form: FileForm = PLAIN_FORM) -> dict[str, bytes]:
    """Files of a prop with levels of triangles, by name: an STL a level and an STL a collision proxy.

    Raises ``ValueError`` where there are no levels.
    """
    if not prop.levels:
        raise ValueError(f"prop '{prop.name}' has no levels to write")
    meshes = [(level.name, level.mesh.positions[level.mesh.triangles()]) for level in prop.levels]
    meshes += [(proxy.name, proxy.mesh.points[proxy.mesh.triangles]) for proxy in prop.proxies]
    return {f"{form.stem(name)}.stl": _file(corners) for name, corners in meshes}


def _file(corners: F64) -> bytes:
    """The file of (T, 3, 3) corners."""
    facets = np.zeros(len(corners), FACET)
    facets["corners"] = corners
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(cross, axis=1, keepdims=True)
    facets["normal"] = np.divide(cross, length, out=np.zeros_like(cross), where=length > 0.0)
    header = b"Plindro".ljust(HEADER_SIZE - 4, b"\0") + len(corners).to_bytes(4, "little")
    return header + facets.tobytes()
