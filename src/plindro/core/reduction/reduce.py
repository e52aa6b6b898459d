"""Reducing a triangle mesh: one run gives the whole collapse sequence, and every level is taken from it."""

from collections.abc import Callable
from typing import Literal, TypedDict, Unpack

import numpy as np

from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.mesh import F64, Mask, Mesh
from plindro.core.reduction.run import Run
from plindro.core.reduction.sequence import Sequence, write_sequence
from plindro.core.reduction.targets import Limits, Reduced, take_level
from plindro.core.reduction.working import build_state

Placement = Literal["optimal", "original"]


class Options(TypedDict, total=False):
    """How a run is made.

    placement : "optimal" moves vertices to where the error is least; "original", as it is without, keeps to a subset
        of the source's vertices
    least_triangles : where it may end
    hold_hard_edges : whether breaks of the normal are features, and normals weigh in; as it is without
    lock_borders : open borders stay as they are, so that modular pieces still meet
    keep_shells : no shell vanishes whole, so that each keeps its last triangles
    keep_holes : no through-hole closes, so that each keeps its last triangles
    weight : (V,) float64, how many times more an error counts there; 1 is usual
    locked : (V,) bool, vertices that stay
    floor : the first coordinate that no vertex goes below; those on it are borders
    n_threads : cores used; the result does not depend on it
    on_step : receives a fraction in 0..1 after each pass and may raise to stop
    """

    placement: Placement
    least_triangles: int
    hold_hard_edges: bool
    lock_borders: bool
    keep_shells: bool
    keep_holes: bool
    weight: F64
    locked: Mask
    floor: float
    n_threads: int
    on_step: Callable[[float], None]


def collapse(mesh: Mesh, **options: Unpack[Options]) -> Sequence:
    """The collapse sequence of a triangle mesh, until nothing more can go.

    Raises ``ValueError`` where the mesh is not of triangles.
    """
    if not mesh.is_triangles:
        raise ValueError("mesh: expected only triangles; triangulate it first")
    start = build_state(
        mesh,
        hold_hard_edges=options.get("hold_hard_edges", True),
        lock_borders=options.get("lock_borders", False),
        keep_shells=options.get("keep_shells", False),
        keep_holes=options.get("keep_holes", False),
        weight=options.get("weight", np.zeros(0)),
        locked=options.get("locked", np.zeros(0, bool)),
        floor=options.get("floor"),
    )
    run = Run(
        start,
        moves=options.get("placement") == "optimal",
        floor=options.get("floor"),
        n_threads=options.get("n_threads"),
    )
    run.to(options.get("least_triangles", 0), options.get("on_step"))
    return write_sequence(mesh, start, run)


def reduce_mesh(mesh: Mesh, limits: Limits, **options: Unpack[Options]) -> Reduced:
    """``mesh`` reduced once; the options are those of ``collapse``."""
    sequence = collapse(mesh, **options)
    return take_level(sequence, limits, DeviationFrom(mesh), diagonal(mesh))


def diagonal(mesh: Mesh) -> float:
    """Diagonal of the bounds in metres."""
    return float(np.linalg.norm(np.diff(mesh.bounds(), axis=0)))
