"""Reduction by edge collapse: one run through a mesh gives every level of its chain."""

from plindro.core.reduction.reduce import Reduced, reduce_mesh

__all__ = ["Reduced", "reduce_mesh"]
