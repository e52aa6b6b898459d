"""What Levels found out: of each level its counts, what it changes and from where it is drawn."""

from typing import TYPE_CHECKING

from pydantic import Field

from plindro.core.settings import StationFacts

if TYPE_CHECKING:
    from plindro.core.measure.change import Change


class ChangeFacts(StationFacts):
    """What changes from one level to another; lengths in metres."""

    surface: float = Field(description="largest distance between the surfaces")
    mean: float = Field(description="mean distance between the surfaces; from one level to the next within 5 percent")
    outline: float = Field(description="how far the outline moves")
    shading: float = Field(description="width of the widest place whose shading turns")
    outline_share: float = Field(description="change of the outline as a share of its area")
    normal_angle: float = Field(description="mean angle between the normals seen, in degrees")

    @classmethod
    def of(cls, change: "Change") -> "ChangeFacts":
        return cls.model_validate(change.as_dict())


class LevelFacts(StationFacts):
    """One level as it ships; lengths and distances in metres."""

    index: int
    name: str
    triangles: int
    vertices: int = Field(description="engine vertices")
    deviation: float = Field(description="largest distance from LOD0")
    mean_deviation: float
    screen_size: float = Field(description="share of the view's height at its switch, over 1 where larger than it")
    distance: float = Field(description="from where it is drawn")
    proposed: float = Field(description="from where it was proposed to be drawn")
    change: ChangeFacts = Field(description="from LOD0")
    step: ChangeFacts = Field(description="from the level above")
    materials: int
    bytes: int = Field(description="of its vertices and indices on the graphics card")
    texture_bytes: int = Field(description="of the images that its materials show")
    normal_angle: float = Field(description="mean angle between its shading and LOD0's, in degrees")
    normals: str = Field(description="how its normals were made")
    dropped: list[str] = Field(description="paths of the parts that it goes without on purpose")
    vanished: list[str] = Field(
        default_factory=list, description="paths of the parts that it has no triangle of, though none excluded them"
    )
    target: int = Field(description="which of the settings' levels it is; -1 where it is of none")


class ChainFacts(StationFacts):
    """A chain of levels: past ``cull_distance`` metres nothing is drawn, None where it always is."""

    levels: list[LevelFacts]
    cull_distance: float | None
    radius: float = Field(description="of LOD0's bounding sphere, metres")


class StateFacts(ChainFacts):
    """Another state of the prop; the last ``fallen_back`` of its levels are those of the base."""

    name: str
    prop: str = Field(description="the name that it ships under")
    fallen_back: int


class DenseSource(StationFacts):
    """What LOD0 was reduced from."""

    triangles: int
    deviation: float = Field(description="LOD0's maximum deviation from the source, metres")


class LevelsFacts(ChainFacts):
    """The chain of the prop, those of its other states, and the source of a LOD0 that was reduced."""

    lod0: DenseSource | None = None
    states: list[StateFacts] = Field(default_factory=list)
