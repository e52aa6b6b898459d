"""Station Triangulation: polygons to triangles, on purpose."""

from plindro.core.triangulation.engine import EngineCuts, compare_with_fan
from plindro.core.triangulation.settings import TriangulationSettings
from plindro.core.triangulation.station import VERSION, compare_engine, report_engine, run
from plindro.core.triangulation.triangulate import Triangulation, triangulate
from plindro.core.triangulation.turned import set_diagonals
from plindro.core.triangulation.whole import with_whole_polygons

__all__ = [
    "VERSION",
    "EngineCuts",
    "Triangulation",
    "TriangulationSettings",
    "compare_engine",
    "compare_with_fan",
    "report_engine",
    "run",
    "set_diagonals",
    "triangulate",
    "with_whole_polygons",
]
