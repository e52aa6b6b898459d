"""What Placement found out: where the prop stands and how large it is."""

from pydantic import Field

from plindro.core.scene import Axis
from plindro.core.settings import StationFacts

Vector = tuple[float, float, float]


class ScaleGuess(StationFacts):
    """A factor that would bring the prop to the size of its kind, and its longest side then, in metres."""

    factor: float
    longest: float


class PlacementFacts(StationFacts):
    """Lengths in metres, axes as shipped: right-handed, Y up."""

    size: Vector
    bounds: tuple[Vector, Vector]
    unit: float
    up: Axis
    factor: float = Field(description="metres per unit of the source, the scale included")
    pivot: Vector = Field(description="the pivot in the placed scene")
    mass: Vector = Field(description="the centre of mass from the pivot")
    matrix: list[float] = Field(min_length=16, max_length=16, description="source to prop, row-major")
    guesses: list[ScaleGuess]
    usual: tuple[float, float]
