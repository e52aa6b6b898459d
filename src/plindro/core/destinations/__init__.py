"""Destinations: what the receiving engine expects."""

from plindro.core.destinations.destination import DATA_ENDING, ENDINGS, GLTF, METRES, ONE_LEVEL, Destination, Format
from plindro.core.destinations.known import DEFAULT_DESTINATION, DESTINATIONS, destination_named, get_destination
from plindro.core.destinations.loading import describe, load_settings
from plindro.core.destinations.textures import ImageFormat, TextureRules

__all__ = [
    "DATA_ENDING",
    "DEFAULT_DESTINATION",
    "DESTINATIONS",
    "ENDINGS",
    "GLTF",
    "METRES",
    "ONE_LEVEL",
    "Destination",
    "Format",
    "ImageFormat",
    "TextureRules",
    "describe",
    "destination_named",
    "get_destination",
    "load_settings",
]
