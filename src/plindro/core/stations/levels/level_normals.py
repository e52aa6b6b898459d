"""The normals of a reduced level: kept, made anew or carried over, whichever looks closest to LOD0."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F32, I64, Mask, Mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.mesh.topology import build_topology, corner_fans
from plindro.core.prop import Prop
from plindro.core.reduction.features import NORMAL_STEP
from plindro.core.shading import ShadingRule, ShadingSampler, smooth_by_rule
from plindro.core.shading.facing import faces_against, own_normals
from plindro.core.shading.normals import fold_angles, normals_by_angle, normals_of_groups
from plindro.core.shading.smoothing import smooth_by_normals

CLOSE = 0.5
"""Degrees of mean angle to LOD0's shading that nobody sees: nothing closer is looked for."""
LEAST_FACING = 0.05
"""Cosine between a corner's normal and its triangle below which the triangle's own normal is taken."""
MANY = 4
"""Triangles for each place that is looked at above which it pays to shade only the triangles of those."""
_Maker = Callable[[I64 | None], F32]
"""Makes the normals (C, 3) of a level, of some triangles at least where only those are wanted."""


@dataclass(frozen=True, slots=True)
class Shaded:
    """A level with its normals, how they were made, and their mean angle to LOD0's shading in degrees."""

    mesh: Mesh
    choice: str
    angle: float


class LevelShader:
    """Shades the levels of one prop; what it needs of LOD0 is built once. ``moves``: their vertices are not LOD0's."""

    def __init__(
        self, prop: Prop, choice: str, on_share: Callable[[], None] | None = None, *, moves: bool = False
    ) -> None:
        self._prop, self._choice, self._moves = prop, choice, moves
        can_be_asked = prop.mesh.normals is not None and prop.mesh.n_faces
        self._sampler = ShadingSampler(prop.mesh, on_share) if can_be_asked else None

    def shade(self, mesh: Mesh, *, hard_above: float | None = None) -> Shaded:
        """The level with the normals that were chosen, or that look closest.

        ``hard_above``: its own normals no longer say which edges are hard; where it gets new ones it is those that fold
        by more degrees.
        """
        if self._sampler is None or mesh.normals is None or not mesh.n_faces:
            return Shaded(mesh, "keep", 0.0)
        # Those of vertices that moved were made on the way; those of LOD0's vertices are kept to the last bit.
        kept = _facing(mesh, mesh.normals, self._prop.mesh) if self._moves else mesh.normals
        beside = self._sampler.beside(mesh)
        candidates: dict[str, _Maker] = {"keep": lambda _: kept}
        if self._choice != "keep" and (self._choice != "closest" or beside.mean_angle(kept) > CLOSE):
            folded = mesh if hard_above is None else replace(mesh, normals=normals_by_angle(mesh, hard_above))
            candidates.update(self._made(folded, self._sampler))
        if self._choice != "closest":
            candidates = {self._choice: candidates[self._choice]}
        # Of many triangles only those are shaded in all ways that are looked at.
        is_some = len(candidates) > 1 and mesh.n_faces > MANY * len(beside.face)
        seen = np.unique(beside.face) if is_some else None
        shown = {name: make(seen) for name, make in candidates.items()}
        angles = {name: beside.mean_angle(normals) for name, normals in shown.items()}
        best = min(angles, key=lambda name: round(angles[name], 6))
        normals = candidates[best](None) if is_some else shown[best]
        return Shaded(replace(mesh, normals=normals), best, angles[best])

    def _made(self, mesh: Mesh, sampler: ShadingSampler) -> dict[str, _Maker]:
        """Normals by the rule, and carried over, over the same fans.

        Where the source's normals, its groups or marks decided, the fans are those that the level still shows; by angle
        they are found anew on its own folds.
        """
        topology = build_topology(mesh)
        rule = self._prop.shading or ShadingRule()
        if rule.angle is None or rule.is_kept or len(rule.hard) or len(rule.soft):
            smooth = smooth_by_normals(mesh, topology)
        else:
            bare = replace(rule, hard=rule.hard[:0], soft=rule.soft[:0])
            smooth = smooth_by_rule(mesh, topology, fold_angles(mesh, topology), bare)
        group, count = corner_fans(topology, smooth)
        return {
            "transfer": lambda faces: _facing(mesh, sampler.carried(mesh, group, count, faces)),
            "recompute": lambda _: _facing(mesh, normals_of_groups(mesh, group, count, rule.weights)),
        }


def _facing(mesh: Mesh, normals: F32, source: Mesh | None = None) -> F32:
    """The normals, with the triangle's own at corners where they would point to its back, as into a hole.

    Where a corner of ``source`` has the same, at the same place and to its own triangle's back, it stays: a switch must
    not show what was so in LOD0. A triangle that would be seen from its back alone stays so where LOD0 has such a one.
    """
    back = _to_the_back(mesh, normals)
    if not back.any():
        return normals
    own = own_normals(mesh)
    if source is None or source.normals is None:
        return np.where(back[:, None], own, normals)
    turned = back & ~_was_so(source, _to_the_back(source, source.normals), mesh, normals, back)
    facing = np.where(turned[:, None], own, normals)
    still = back & ~turned & np.repeat(faces_against(mesh, facing), 3)
    if still.any():
        still &= ~_was_so(source, np.repeat(faces_against(source, source.normals), 3), mesh, normals, still)
    return np.where(still[:, None], own, facing)


def _to_the_back(mesh: Mesh, normals: F32) -> Mask:
    """(C,) which corners' normals point to the back of their triangle."""
    vectors = face_vectors(mesh)
    areas = np.sqrt(np.einsum("ij,ij->i", vectors, vectors))
    along = np.einsum("ij,ikj->ik", vectors, normals.reshape(-1, 3, 3))
    turned: Mask = np.asarray((along < LEAST_FACING * areas[:, None]) & (areas > 0)[:, None])
    return turned.reshape(-1)


def _was_so(source: Mesh, those: Mask, mesh: Mesh, normals: F32, asked_for: Mask) -> Mask:
    """(C,) which of the corners ``asked_for`` (C,) have the place and normal of one of ``those`` (C,) of the source."""
    assert source.normals is not None
    corners, wanting = np.flatnonzero(those), np.flatnonzero(asked_for)
    places = mesh.positions[mesh.corner_vertex[wanting]]
    number, _ = weld_positions(np.concatenate([source.positions, places]))
    wanted, there = number[source.n_vertices :], number[source.corner_vertex[corners]]
    order = np.argsort(there, kind="stable")
    first, last = (np.searchsorted(there[order], wanted, side) for side in ("left", "right"))
    asked = np.repeat(np.arange(len(places)), last - first)
    within = np.arange(len(asked)) - np.repeat(np.cumsum(last - first) - (last - first), last - first)
    corner = corners[order[first[asked] + within]]
    is_same = (np.abs(source.normals[corner] - normals[wanting[asked]]) < NORMAL_STEP).all(axis=1)
    found = np.zeros(mesh.n_corners, bool)
    found[wanting] = np.bincount(asked, is_same, minlength=len(places)) > 0
    return found
