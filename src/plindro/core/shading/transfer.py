"""The shading of one surface seen from another: by the nearest place that faces the same way.

The nearest place of a thin wall is often its other side, so only triangles within a cone around the asked direction
count; only where there is none the nearest of all is taken.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F32, F64, I32, I64, Mesh
from plindro.core.numeric.kernels import kernel
from plindro.core.spatial.boxes import along_curve
from plindro.core.spatial.nearest import ANY, NO_GUESS, find_nearest, in_shares, searched_surface
from plindro.core.spatial.samples import even_samples
from plindro.core.spatial.search import new_stack

CONE = 0.5
"""Cosine of the half-angle of the cone that a triangle must face into."""
_SAMPLES = 6_000


@kernel
def _sample(queries, directions, order, first, last, surface, shading, stack, out):  # type: ignore[no-untyped-def]
    t = NO_GUESS
    normals = surface.normals
    for at in range(first, last):
        i = order[at]
        place = (queries[i, 0], queries[i, 1], queries[i, 2])
        direction = (directions[i, 0], directions[i, 1], directions[i, 2])
        # What was nearest to the place before is near this one too, where it faces into the cone.
        if t >= 0:
            facing = normals[t, 0] * direction[0] + normals[t, 1] * direction[1] + normals[t, 2] * direction[2]
            if facing < CONE:
                t = NO_GUESS
        t, v, w = find_nearest(place, direction, CONE, t, surface, stack)
        if t < 0:
            t, v, w = find_nearest(place, direction, ANY, NO_GUESS, surface, stack)
        for k in range(3):
            out[i, k] = 0.0
            if t >= 0:
                out[i, k] = (1.0 - v - w) * shading[3 * t, k] + v * shading[3 * t + 1, k] + w * shading[3 * t + 2, k]


class ShadingSampler:
    """The shading of a triangle mesh with normals, asked from places near it.

    ``on_share`` is called now and then while it works, and may raise to stop it.
    """

    def __init__(self, mesh: Mesh, on_share: Callable[[], None] | None = None) -> None:
        self._on_share = on_share
        if mesh.normals is None:
            raise ValueError("mesh: expected normals")
        self._surface = searched_surface(mesh.positions, mesh.triangles(), face_vectors(mesh))
        order = self._surface.tree.order
        self._shading = np.take(mesh.normals.reshape(-1, 9), order, axis=0).astype(np.float64).reshape(-1, 3)

    def at(self, places: F64, directions: F64) -> F64:
        """(n, 3) unit shading normals where the surface is nearest to ``places`` and faces along ``directions``.

        The places are shared out among the processor's cores; ``on_share`` is called after each share.
        """
        out = np.zeros((len(places), 3))
        order = along_curve(places, places)

        def search(first: int, last: int) -> None:
            _sample(places, directions, order, first, last, self._surface, self._shading, new_stack(), out)

        in_shares(search, len(places), self._on_share)
        return unit(out)

    def carried(self, mesh: Mesh, group: I32, n_groups: int, faces: I64 | None = None) -> F32:
        """(C, 3) normals of another triangle mesh, carried over and shared by the corners of each group.

        A group asks a little towards its triangles, so that beside a hard edge it asks the right side. Where only
        those of some ``faces`` are wanted, the others are left at zero.
        """
        wanted = np.ones(n_groups, bool)
        if faces is not None:
            wanted[:] = False
            wanted[group.reshape(-1, 3)[faces]] = True
        corners = mesh.positions[mesh.corner_vertex].reshape(-1, 3, 3)
        inwards = (corners.mean(axis=1, keepdims=True) - corners).reshape(-1, 3)
        facing = np.repeat(face_vectors(mesh), 3, axis=0)
        number = np.maximum(np.bincount(group, minlength=n_groups), 1)

        def share(values: F64) -> F64:
            return np.stack([np.bincount(group, values[:, k], minlength=n_groups) for k in range(3)], axis=1)

        places = share(corners.reshape(-1, 3) + 0.05 * inwards) / number[:, None]
        directions = unit(share(facing))
        found = self.at(places[wanted], directions[wanted])
        missing = ~(np.einsum("ij,ij->i", found, directions[wanted]) > 0)
        found[missing] = directions[wanted][missing]
        found[np.abs(found).sum(axis=1) == 0] = (0.0, 1.0, 0.0)
        normals = np.zeros((n_groups, 3), np.float32)
        normals[wanted] = found
        return normals[group]

    def beside(self, mesh: Mesh) -> "Beside":
        """What this surface shows at places spread evenly over another, a triangle mesh that has some."""
        face, weights = even_samples(mesh, _SAMPLES)
        places = np.einsum("ij,ijk->ik", weights, mesh.positions[mesh.triangles()[face]])
        return Beside(face, weights, self.at(places, unit(face_vectors(mesh))[face]))


@dataclass(frozen=True, slots=True)
class Beside:
    """Places of a mesh, (n,) ``face`` and (n, 3) ``weights`` of its corners; unit ``shading`` to compare with there."""

    face: I64
    weights: F64
    shading: F64

    def mean_angle(self, normals: F32) -> float:
        """Mean angle in degrees between the mesh's shading by corner ``normals`` (C, 3) and the other surface's."""
        corners = normals.reshape(-1, 3, 3)[self.face].astype(np.float64)
        own = unit(np.einsum("ij,ijk->ik", self.weights, corners))
        cross = np.linalg.norm(np.cross(self.shading, own), axis=1)
        return float(np.degrees(np.arctan2(cross, np.einsum("ij,ij->i", self.shading, own))).mean())
