"""Station Placement: units, axes, scale and pivot."""

from plindro.core.placement.settings import PlacementSettings
from plindro.core.placement.station import VERSION, run

__all__ = ["VERSION", "PlacementSettings", "run"]
