"""Occlusion by vertex, as a destination asks for it: among the colours of vertices, or for the data file."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from plindro.core.destinations import Destination
from plindro.core.measure.occlusion import vertex_occlusion
from plindro.core.mesh.mesh import F32, Mesh
from plindro.core.prop import Prop
from plindro.core.shipping.destined import length_of


def occlusion_of(prop: Prop, destination: Destination, on_step: Callable[[], None]) -> list[F32]:
    """(C,) of each level's corners, of a prop in the destination's form; nothing where nobody asks for it."""
    if destination.occlusion == "none" and not destination.data_file:
        return []
    reach = destination.occlusion_reach * length_of(destination)
    return [vertex_occlusion(level.mesh, reach, on_step) for level in prop.levels]


def with_occlusion(prop: Prop, destination: Destination, occlusion: Sequence[F32]) -> Prop:
    """The prop with its occlusion among the colours of its vertices, where the destination asks for that."""
    if destination.occlusion == "none":
        return prop
    is_alpha = destination.occlusion == "alpha"
    levels = tuple(
        replace(level, mesh=_colored(level.mesh, own, is_alpha=is_alpha))
        for level, own in zip(prop.levels, occlusion, strict=True)
    )
    return replace(prop, levels=levels)


def _colored(mesh: Mesh, occlusion: F32, *, is_alpha: bool) -> Mesh:
    colors = np.ones((mesh.n_corners, 4), np.float32) if mesh.colors is None else mesh.colors.copy()
    if is_alpha:
        colors[:, 3] = occlusion
    else:
        colors[:, :3] *= occlusion[:, None]
    return replace(mesh, colors=colors)
