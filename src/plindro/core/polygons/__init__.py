"""Polygons to triangles: by ears or by constrained Delaunay, beside what an engine's fan would make of them."""

from plindro.core.polygons.engine import EngineCuts, compare_with_fan
from plindro.core.polygons.triangulate import Triangulation, triangulate
from plindro.core.polygons.turned import set_diagonals
from plindro.core.polygons.whole import with_whole_polygons

__all__ = ["EngineCuts", "Triangulation", "compare_with_fan", "set_diagonals", "triangulate", "with_whole_polygons"]
