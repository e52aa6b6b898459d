"""Tangents of a triangle mesh: direction of growing U on each corner, with the handedness of the UVs.

Each triangle's tangent is projected across the corner's normal and weighted by the corner's angle; corners that share
position, normal, UV and handedness share the mean (after Mikkelsen 2008). glTF's UV origin is the upper left corner,
while normal maps are baked with V growing upwards, so V is turned before handedness is told.
"""

import numpy as np

from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, F64, Mesh
from plindro.core.mesh.numbering import float_bits, number_rows


def _dots(a: F64, b: F64) -> F64:
    return np.einsum("...j,...j->...", a, b)[..., None]


def corner_tangents(mesh: Mesh, channel: int = 0) -> F32:
    """(C, 4) float32 unit tangents with w = 1 or -1, for a triangle mesh with normals and UVs.

    Where UVs have no area any direction across the normal is given, so that the result is always unit and finite.
    """
    if mesh.normals is None or channel >= len(mesh.uvs):
        raise ValueError(f"mesh: tangents need normals and UV channel {channel}")
    points = mesh.positions[mesh.triangles()]
    uv = mesh.uvs[channel].astype(np.float64).reshape(-1, 3, 2) * (1.0, -1.0)
    edge1, edge2 = points[:, 1] - points[:, 0], points[:, 2] - points[:, 0]
    s, t = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    area = s[:, 0] * t[:, 1] - s[:, 1] * t[:, 0]
    along = edge1 * t[:, 1:] - edge2 * s[:, 1:]
    sign = np.where(area >= 0, 1.0, -1.0)
    along = unit(along * sign[:, None])
    normals = mesh.normals.astype(np.float64)
    corner_sign = np.repeat(sign, 3)
    flat = np.repeat(along, 3, axis=0)
    projected = unit(flat - normals * _dots(normals, flat))

    ahead = unit(np.roll(points, -1, axis=1) - points).reshape(-1, 3)
    behind = unit(np.roll(points, 1, axis=1) - points).reshape(-1, 3)
    ahead = unit(ahead - normals * _dots(normals, ahead))
    behind = unit(behind - normals * _dots(normals, behind))
    angle = np.arccos(np.clip(_dots(ahead, behind), -1.0, 1.0))
    usable = np.repeat(np.abs(area) > 0, 3)[:, None]

    key = np.concatenate(
        [
            mesh.corner_vertex.view(np.uint32)[:, None],
            float_bits(mesh.normals),
            float_bits(mesh.uvs[channel]),
            (corner_sign > 0).astype(np.uint32)[:, None],
        ],
        axis=1,
    )
    group, firsts = number_rows(key)
    weighted = np.where(usable, projected * angle, 0.0)
    per_axis = [np.bincount(group, weighted[:, k], minlength=len(firsts)) for k in range(3)]
    sums = np.stack(per_axis, axis=1).astype(np.float64)
    tangents = unit(sums)[group]
    missing = np.abs(tangents).sum(axis=1) < 0.5
    tangents[missing] = _any_across(normals[missing])
    tangents = unit(tangents - normals * _dots(normals, tangents))
    return np.concatenate([tangents, corner_sign[:, None]], axis=1).astype(np.float32)


def _any_across(normals: F64) -> F64:
    """A unit vector across each normal."""
    axis = np.zeros_like(normals)
    axis[np.arange(len(normals)), np.abs(normals).argmin(axis=1)] = 1.0
    return unit(np.cross(normals, axis))
