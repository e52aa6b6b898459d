"""Station UVs: channel 0 sound, channel 1 fit for light maps."""

from plindro.core.station import LaterStep, Station, alone
from plindro.core.stations.uvs.facts import UvsFacts
from plindro.core.stations.uvs.light_maps import lay_levels
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.stations.uvs.station import run

UVS = Station(
    name="uvs",
    title="UVs",
    settings=UvsSettings,
    facts=UvsFacts,
    version=1,
    share=12,
    run=alone(run),
    # Levels carry the light map over; where it does not hold they get their own.
    later=(LaterStep(alone(lay_levels), after="levels"),),
)

__all__ = ["UVS", "UvsFacts", "UvsSettings", "run"]
