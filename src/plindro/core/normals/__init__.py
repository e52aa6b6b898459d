"""Station Normals: corner normals as the engine will receive them, and tangents."""

from plindro.core.normals.settings import NormalsSettings
from plindro.core.normals.station import run

__all__ = ["NormalsSettings", "run"]
