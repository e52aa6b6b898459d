"""Plain projections: flat along one axis, from six directions, around a cylinder or a sphere.

Each is cut into charts so that none folds, none turns over and none lies on itself: where a projection sees a
surface from behind, or twice, there is another chart.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from plindro.core.mesh.mesh import F64, I32, Mask
from plindro.core.unwrap.charts import project
from plindro.core.unwrap.flat import Charts
from plindro.core.unwrap.growing import connected, glue_within
from plindro.core.unwrap.halving import part_overlapping
from plindro.core.unwrap.surface import Surface
from plindro.core.uvs.sheet import signed_areas

_EDGE_ON = 0.1
"""Cosine below which a triangle is too steep to be seen from a direction."""
Kind = Literal["planar", "box", "cylinder", "sphere"]


@dataclass(frozen=True, slots=True)
class Projection:
    """What is projected and along which axis: ``planar`` along it, ``cylinder`` and ``sphere`` around it; ``box``
    from six directions."""

    kind: Kind
    axis: Literal["x", "y", "z"] = "y"


def project_charts(surface: Surface, projection: Projection, step: Callable[[float, str], None]) -> Charts:
    """Charts of a surface by a projection."""
    step(0.0, "projecting")
    if projection.kind in ("cylinder", "sphere"):
        label, uv = _around(surface, projection)
    else:
        label, uv = _flat(surface, projection)
    # Around a cylinder two neighbours may lie a whole turn apart.
    surface = replace(surface, barred=surface.barred | ~_meets(surface, uv))
    chart = part_overlapping(surface, connected(surface, label, np.zeros(len(label), bool)), uv)
    step(0.8, "projecting")
    glued = np.zeros(len(surface.twin), bool)
    glue_within(chart, surface.twin, surface.barred, glued)
    return Charts(chart, int(chart.max(initial=-1)) + 1, uv, glued)


def _meets(surface: Surface, uv: F64) -> Mask:
    """(3 T,) sides whose ends lie where those of the side across do."""
    ends = np.concatenate([uv, np.roll(uv, -1, axis=1)], axis=2).reshape(-1, 4)
    across = ends[np.maximum(surface.twin, 0)][:, [2, 3, 0, 1]]
    meets: Mask = (ends == across).all(axis=1)
    return meets


def _nearest_axis(normals: F64) -> tuple[I32, F64]:
    """(T,) which of six directions each faces most, and what they are."""
    directions = np.concatenate([np.eye(3), -np.eye(3)])
    return np.argmax(normals @ directions.T, axis=1).astype(np.int32), directions


def _flat(surface: Surface, projection: Projection) -> tuple[I32, F64]:
    label, directions = _nearest_axis(surface.normals)
    if projection.kind == "planar":
        axis = "xyz".index(projection.axis)
        cosine = surface.normals[:, axis]
        label = np.where(cosine > _EDGE_ON, axis, np.where(cosine < -_EDGE_ON, axis + 3, label)).astype(np.int32)
    return label, project(surface, label, directions)


def _around(surface: Surface, projection: Projection) -> tuple[I32, F64]:
    """Around the axis through the middle: what faces along it, or is too steep to unroll, is flat."""
    axis = "xyz".index(projection.axis)
    one, two = (axis + 1) % 3, (axis + 2) % 3
    middle = 0.5 * (surface.points.min(axis=0) + surface.points.max(axis=0))
    at = (surface.points - middle)[surface.corners]
    angle = np.arctan2(at[:, :, two], at[:, :, one])
    # Corners of one triangle lie on one side of the cut; one on the axis lies where the others do.
    on_axis = np.hypot(at[:, :, one], at[:, :, two]) < 1e-9 * float(np.ptp(surface.points, axis=0).max(initial=0.0))
    reference = np.take_along_axis(angle, np.argmax(~on_axis, axis=1)[:, None], axis=1)
    # By whole turns, so that corners in one place stay in one place.
    angle = angle + 2 * np.pi * np.round((reference - angle) / (2 * np.pi))
    others = np.where(on_axis, 0.0, angle).sum(axis=1, keepdims=True) / np.maximum(
        (~on_axis).sum(axis=1, keepdims=True), 1
    )
    angle = np.where(on_axis, others, angle)
    if projection.kind == "cylinder":
        radius = float(np.sqrt((at[:, :, one] ** 2 + at[:, :, two] ** 2).mean()))
        up = at[:, :, axis]
    else:
        radius = float(np.sqrt((at**2).sum(axis=2).mean()))
        up = radius * np.arctan2(at[:, :, axis], np.hypot(at[:, :, one], at[:, :, two]))
    uv = np.stack([radius * angle, up], axis=2)
    label, directions = _nearest_axis(surface.normals)
    rolled = signed_areas(uv) > _EDGE_ON * surface.areas
    flat = project(surface, label, directions)
    # The cut: triangles on either side of it are charts of their own.
    side = np.floor((angle.mean(axis=1) + np.pi) / (2 * np.pi)).astype(np.int32)
    return np.where(rolled, 6 + side, label).astype(np.int32), np.where(rolled[:, None, None], uv, flat)
