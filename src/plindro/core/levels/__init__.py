"""Station Levels: the chain of details."""

from plindro.core.levels.settings import LevelsSettings, LevelTarget
from plindro.core.levels.station import VERSION, build, place, run

__all__ = [
    "VERSION",
    "LevelTarget",
    "LevelsSettings",
    "build",
    "place",
    "run",
]
