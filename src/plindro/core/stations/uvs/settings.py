"""Settings of UVs."""

from typing import Literal

from pydantic import Field

from plindro.core.marks import Edge, Spot
from plindro.core.settings import StationSettings

Method = Literal["source", "repack", "unwrap", "box", "planar", "cylinder", "sphere"]
LightMapSource = Literal["off", "source", "make"]


class IslandWeight(Spot):
    """An island, by a place on it, that gets more or less of the texture than the others."""

    weight: float = Field(1.0, ge=0.05, le=20.0, description="how many times the others' density")


class UvsSettings(StationSettings):
    """Where the UV channels come from. What is sound stays as it is, bit for bit.

    Places are in the source's units and axes.
    """

    method: Method = Field(
        "source",
        description="channel 0: the source's, and unwrapped where it has none; repack: its islands at even density, "
        "side by side; unwrap: made anew; or projected: box, planar, cylinder, sphere",
    )
    axis: Literal["x", "y", "z"] = Field("y", description="of a planar, cylinder or sphere projection")
    channels: tuple[int, ...] | None = Field(
        None, max_length=8, description="which of the source's channels ship, in this order; all where it is empty"
    )
    hard_edge_seams: bool = Field(False, description="hard edges are seams of what is unwrapped")
    resolution: int = Field(
        1024,
        ge=16,
        le=8192,
        description="pixels along a side of the texture to unwrap for",
        json_schema_extra={"unit": "px"},
    )
    padding: int = Field(4, ge=0, le=64, description="empty pixels between islands", json_schema_extra={"unit": "px"})
    rotations: Literal[4, 8, 16] = Field(4, description="in how many even turns an island may be packed")
    density: float | None = Field(
        None,
        gt=0.0,
        le=65_536.0,
        description="pixels per metre of what is packed; as many as fit where it is empty",
        json_schema_extra={"unit": "px/m"},
    )
    stack_equal: bool = Field(False, description="equal and mirrored islands lie in one place")
    seams: tuple[Edge, ...] = Field(
        (), max_length=50_000, description="edges that are seams: their two ends", json_schema_extra={"by_hand": True}
    )
    straight: tuple[Edge, ...] = Field(
        (),
        max_length=2_000,
        description="edges across strips of quads that come out straight: their two ends",
        json_schema_extra={"by_hand": True},
    )
    weights: tuple[IslandWeight, ...] = Field(
        (), max_length=2_000, description="islands of another density", json_schema_extra={"by_hand": True}
    )
    locked: tuple[Spot, ...] = Field(
        (),
        max_length=2_000,
        description="repack: islands that stay where they are",
        json_schema_extra={"by_hand": True},
    )
    inset: int = Field(
        0,
        ge=0,
        le=64,
        description="pixels by which islands are pulled in from their borders",
        json_schema_extra={"unit": "px"},
    )
    fill: int = Field(
        0,
        ge=0,
        le=256,
        description="pixels around islands that are filled with their colours in every texture",
        json_schema_extra={"unit": "px"},
    )
    light_map: LightMapSource = Field(
        "off",
        description="channel 1: off, as the source has it; source, and a prop without one that holds is stopped; make, "
        "where the source's does not hold",
    )
    light_map_density: float = Field(
        32.0, gt=0.0, le=4096.0, description="pixels per metre of the light map", json_schema_extra={"unit": "px/m"}
    )
    light_map_padding: int = Field(
        2, ge=0, le=32, description="empty pixels between islands of the light map", json_schema_extra={"unit": "px"}
    )
    light_map_max: int = Field(
        1024, ge=16, le=8192, description="most pixels along a side of the light map", json_schema_extra={"unit": "px"}
    )
