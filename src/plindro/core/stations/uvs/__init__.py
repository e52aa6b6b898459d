"""Station UVs: channel 0 sound, channel 1 fit for light maps."""

from plindro.core.station import LaterStep, Station, alone
from plindro.core.stations.uvs.facts import UvsFacts
from plindro.core.stations.uvs.light_maps import finish_levels
from plindro.core.stations.uvs.making import make_channel, say_no_strips
from plindro.core.stations.uvs.marks import find_asked
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.stations.uvs.station import run

UVS = Station(
    name="uvs",
    title="UVs",
    settings=UvsSettings,
    facts=UvsFacts,
    version=14,
    share=12,
    run=alone(run),
    # Levels carry the channels over; where a light map does not hold they get their own.
    later=(LaterStep(alone(finish_levels), after="levels"),),
)

__all__ = ["UVS", "UvsFacts", "UvsSettings", "find_asked", "make_channel", "run", "say_no_strips"]
