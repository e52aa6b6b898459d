"""What UVs found out: each channel in figures, how it was made, and the light map of each level."""

from typing import Literal

from pydantic import Field

from plindro.core.settings import StationFacts

ChannelMade = Literal["source", "repack", "unwrap", "box", "planar", "cylinder", "sphere", "islands"]


class StretchFacts(StationFacts):
    """1 at best: Sander's L2 and L∞, the mean conformal and area distortion."""

    l2: float
    linf: float
    conformal: float
    area: float


class DensityFacts(StationFacts):
    """Pixels per metre: the least, the one that half the surface is under, the largest."""

    least: float
    median: float
    largest: float


class PartUvs(StationFacts):
    """A channel on one part; shares of its area."""

    path: str
    islands: int
    overlap: float
    outside: float
    density: DensityFacts | None


class ChannelFacts(StationFacts):
    """A channel of LOD0. ``made`` says where it comes from; shares are of its area, ``used`` of the square."""

    made: ChannelMade
    pixels: int = Field(description="pixels along the side of the texture that gaps and density are told for")
    islands: int
    flipped_islands: int
    flipped_triangles: int
    zero_area_triangles: int
    used: float
    overlap: float
    mirrored_overlap: float
    outside: float
    stretch: StretchFacts | None
    density: DensityFacts | None
    gap: float | None = Field(description="pixels between the two nearest islands")
    border_gap: float | None = Field(description="pixels to the border of the square")
    bleeds_at: int | None = Field(description="the first mip level at which islands are less than a pixel apart")
    seam_edges: int
    seam_length: float
    seam_vertices: int = Field(description="engine vertices that the seams cost")
    parts: list[PartUvs]


class LevelChannel(StationFacts):
    """A channel of a level; ``overlap`` as a share of its area, where LOD0's has none."""

    level: int
    channel: int
    islands: int
    flipped_triangles: int
    zero_area_triangles: int
    overlap: float | None


class LevelLightMap(StationFacts):
    """The light map of a level: LOD0's, carried over and sound, laid anew, or none that fits."""

    level: int
    made: Literal["first", "carried", "anew", "none"]
    islands: int


class LightMapFacts(StationFacts):
    """What the light map is made of, for how many pixels, and of each level."""

    made: Literal["source", "islands", "unwrap"]
    resolution: int
    pixels_per_metre: float
    levels: list[LevelLightMap]


class UvsFacts(StationFacts):
    channels: list[ChannelFacts]
    unwrapped_parts: list[str] = Field(description="paths of parts that had no UVs")
    light_map: LightMapFacts | None
    levels: list[LevelChannel] = Field([], description="each channel of the levels below LOD0")
