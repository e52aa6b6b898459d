"""From where a prop is looked at first."""

import numpy as np

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, Mask, Mesh

_USUAL = (0.62, 0.36, 0.7)
_ENOUGH = 0.1
"""Share of what faces another eye that the usual one must see: of a sheet that is turned away it sees nothing."""


def first_eye(mesh: Mesh, double: Mask) -> F64:
    """(3,) the unit direction in which the eye lies from a triangle mesh of whose faces ``double`` (F,) have two sides.

    The usual one, before the prop, to its right and above, unless nearly all is turned away from it: then that of its
    mirror images to which most of the surface faces.
    """
    signs = np.array([(x, y, z) for y in (1, -1) for z in (1, -1) for x in (1, -1)])
    eyes = unit(signs * _USUAL)
    along = face_vectors(mesh) @ eyes.T
    along[double] = np.abs(along[double])
    faces: F64 = np.maximum(along, 0.0).sum(axis=0)
    best = int(np.argmax(faces))
    return eyes[0] if faces[0] >= _ENOUGH * faces[best] else eyes[best]
