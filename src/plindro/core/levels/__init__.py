"""Station Levels: the chain of details."""

from plindro.core.levels.by_hand import HandMade
from plindro.core.levels.comparing import Comparison
from plindro.core.levels.settings import MAX_LEVELS, LevelsSettings, LevelTarget, State
from plindro.core.levels.station import VERSION, build, place, run
from plindro.core.levels.texture_steps import with_texture_steps

__all__ = [
    "MAX_LEVELS",
    "VERSION",
    "Comparison",
    "HandMade",
    "LevelTarget",
    "LevelsSettings",
    "State",
    "build",
    "place",
    "run",
    "with_texture_steps",
]
