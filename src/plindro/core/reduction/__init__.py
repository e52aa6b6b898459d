"""Reduction by edge collapse: one run through a mesh gives every level of its chain."""

from plindro.core.reduction.borders import border_vertices, what_holds
from plindro.core.reduction.calibration import calibrated
from plindro.core.reduction.dropped import Topology
from plindro.core.reduction.mirror import Plane, find_mirror, mirrored_sequence
from plindro.core.reduction.reduce import Placement, collapse, diagonal, reduce_mesh
from plindro.core.reduction.sequence import Sequence
from plindro.core.reduction.targets import Known, Limits, Reduced, measure_step, take_level
from plindro.core.reduction.weights import curvature, outline

__all__ = [
    "Known",
    "Limits",
    "Placement",
    "Plane",
    "Reduced",
    "Sequence",
    "Topology",
    "border_vertices",
    "calibrated",
    "collapse",
    "curvature",
    "diagonal",
    "find_mirror",
    "measure_step",
    "mirrored_sequence",
    "outline",
    "reduce_mesh",
    "take_level",
    "what_holds",
]
