"""Station Levels: the chain of details."""

from plindro.core.station import LaterStep, Station, alone
from plindro.core.stations.levels.comparing import Comparison
from plindro.core.stations.levels.facts import ChainFacts, LevelFacts, LevelsFacts, StateFacts
from plindro.core.stations.levels.hand_made import HandMade
from plindro.core.stations.levels.settings import MAX_LEVELS, LevelsSettings, LevelTarget, State
from plindro.core.stations.levels.station import build, build_of, chain_facts, finish, inputs, place, run

LEVELS = Station(
    name="levels",
    title="Levels",
    settings=LevelsSettings,
    facts=LevelsFacts,
    version=27,
    share=55,
    run=build_of,
    inputs=inputs,
    # Switches and smaller textures cost nothing, so that a handle may move without a new reduction.
    later=(LaterStep(alone(finish)),),
)

__all__ = [
    "LEVELS",
    "MAX_LEVELS",
    "ChainFacts",
    "Comparison",
    "HandMade",
    "LevelFacts",
    "LevelTarget",
    "LevelsFacts",
    "LevelsSettings",
    "State",
    "StateFacts",
    "build",
    "chain_facts",
    "place",
    "run",
]
