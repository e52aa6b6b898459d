"""The rule by which a prop's normals were made, so that its levels can be shaded by the same."""

from dataclasses import dataclass, field

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32, Mask, Mesh
from plindro.core.mesh.topology import Topology, build_topology, corner_fans
from plindro.core.shading.normals import (
    BY_ANGLE,
    Weights,
    find_flats,
    fold_angles,
    hard_half_edges,
    normals_of_groups,
    smooth_by_groups,
)


def _no_edges() -> I32:
    return np.zeros((0, 2), np.int32)


@dataclass(frozen=True, slots=True)
class ShadingRule:
    """``angle`` in degrees, None where the source's smoothing groups decide; ``hard`` and ``soft`` (n, 2) int32 vertex
    pairs that overrule it, hard before soft; ``own_hard`` whether the mesh's own hard edges count; ``is_kept`` where
    the source's normals were kept instead, if only in places."""

    angle: float | None = 38.0
    weights: Weights = BY_ANGLE
    hard: I32 = field(default_factory=_no_edges)
    soft: I32 = field(default_factory=_no_edges)
    own_hard: bool = True
    is_kept: bool = False


def half_edges_of(topology: Topology, pairs: I32, n_vertices: int) -> Mask:
    """(C,) which half-edges lie on one of these vertex pairs."""
    if not len(pairs):
        return np.zeros(len(topology.edge), bool)
    wide = np.int64(n_vertices)
    wanted = np.sort(pairs.astype(np.int64), axis=1)
    keys = topology.edges[:, 0] * wide + topology.edges[:, 1]
    return np.isin(keys, wanted[:, 0] * wide + wanted[:, 1])[topology.edge]


def smooth_by_rule(mesh: Mesh, topology: Topology, angles: F64, rule: ShadingRule) -> Mask:
    """(C,) which half-edges of a triangle mesh are smooth by the rule."""
    if rule.angle is None:
        smooth = smooth_by_groups(mesh, topology)
    else:
        with np.errstate(invalid="ignore"):
            smooth = angles <= rule.angle + 1e-6
        if rule.own_hard:
            smooth &= ~hard_half_edges(mesh, topology)
    if len(rule.soft):
        smooth |= half_edges_of(topology, rule.soft, mesh.n_vertices) & (topology.twin >= 0)
    if len(rule.hard):
        smooth &= ~half_edges_of(topology, rule.hard, mesh.n_vertices)
    return smooth


def shade_by_rule(mesh: Mesh, rule: ShadingRule, topology: Topology | None = None) -> F32:
    """(C, 3) unit normals of a triangle mesh by the rule."""
    topology = topology or build_topology(mesh)
    angles = fold_angles(mesh, topology)
    group, count = corner_fans(topology, smooth_by_rule(mesh, topology, angles, rule))
    flats = None if rule.weights.kind == "angle" else find_flats(mesh, topology, angles)
    return normals_of_groups(mesh, group, count, rule.weights, flats)
