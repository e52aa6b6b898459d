"""Station Levels: the chain of details."""

from plindro.core.levels.settings import LevelsSettings
from plindro.core.levels.station import VERSION, run

__all__ = ["VERSION", "LevelsSettings", "run"]
