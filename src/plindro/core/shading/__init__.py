"""Shading: the rule by which normals are made, and how two surfaces compare in it."""

from plindro.core.shading.carry import ShadingSampler
from plindro.core.shading.rule import ShadingRule, half_edges_of, shade_by_rule, smooth_by_rule

__all__ = ["ShadingRule", "ShadingSampler", "half_edges_of", "shade_by_rule", "smooth_by_rule"]
