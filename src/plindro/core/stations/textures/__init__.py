"""Station Textures: images judged, and made fit for a GPU where that is asked for."""

from plindro.core.station import LaterStep, Station
from plindro.core.stations.textures.additions import with_heights_as_normals
from plindro.core.stations.textures.facts import MadeFacts, TextureFacts, TexturesFacts
from plindro.core.stations.textures.settings import HeightRules, MapChoice, TexturesSettings
from plindro.core.stations.textures.station import finish, inputs, run

TEXTURES = Station(
    name="textures",
    title="Textures",
    settings=TexturesSettings,
    facts=TexturesFacts,
    version=3,
    share=18,
    run=run,
    inputs=inputs,
    # Far levels get smaller images at the line's end.
    later=(LaterStep(finish),),
)

__all__ = [
    "TEXTURES",
    "HeightRules",
    "MadeFacts",
    "MapChoice",
    "TextureFacts",
    "TexturesFacts",
    "TexturesSettings",
    "with_heights_as_normals",
]
