"""Shading: the rule by which normals are made, and how two surfaces compare in it."""

from plindro.core.shading.rule import ShadingRule, half_edges_of, shade_by_rule, smooth_by_rule
from plindro.core.shading.transfer import ShadingSampler

__all__ = ["ShadingRule", "ShadingSampler", "half_edges_of", "shade_by_rule", "smooth_by_rule"]
