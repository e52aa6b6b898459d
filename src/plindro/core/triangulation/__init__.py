"""Station Triangulation: polygons to triangles, on purpose."""

from plindro.core.triangulation.settings import TriangulationSettings
from plindro.core.triangulation.station import VERSION, run
from plindro.core.triangulation.triangulate import Triangulation, triangulate

__all__ = ["VERSION", "Triangulation", "TriangulationSettings", "run", "triangulate"]
