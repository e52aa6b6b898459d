"""The stations in their order. A new station is a folder beside this file and one line here."""

from typing import Any

from plindro.core.station import Station
from plindro.core.stations.cleanup import CLEANUP
from plindro.core.stations.collision import COLLISION
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.naming import NAMING
from plindro.core.stations.normals import NORMALS
from plindro.core.stations.placement import PLACEMENT
from plindro.core.stations.source import SOURCE
from plindro.core.stations.textures import TEXTURES
from plindro.core.stations.triangulation import TRIANGULATION
from plindro.core.stations.uvs import UVS

STATIONS: tuple[Station[Any, Any], ...] = (
    SOURCE,
    PLACEMENT,
    CLEANUP,
    TRIANGULATION,
    NORMALS,
    UVS,
    LEVELS,
    TEXTURES,
    COLLISION,
    NAMING,
)
