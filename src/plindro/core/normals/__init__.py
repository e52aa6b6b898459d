"""Station Normals: corner normals as the engine will receive them, and tangents."""

from plindro.core.normals.settings import NormalsSettings
from plindro.core.normals.station import VERSION, run

__all__ = ["VERSION", "NormalsSettings", "run"]
