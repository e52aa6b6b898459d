"""Settings of Normals."""

from typing import Literal

from pydantic import Field

from plindro.core.marks import Edge, Spot
from plindro.core.settings import StationSettings

Weighting = Literal["angle", "area", "area-angle", "large"]


class Patch(Spot):
    """A patch that is shaded as a whole: it grows from its spot over edges, and all edges inside are soft or hard."""

    by: Literal["angle", "material", "part", "shell"] = "angle"
    angle: float = Field(20.0, ge=0.0, le=180.0, description="for angle: grows over folds up to so many degrees")
    inside: Literal["soft", "hard"] = Field("soft", description="edges within: soft shades it round, hard flat")


class NormalsSettings(StationSettings):
    """Where normals come from, and which edges are hard. Marks by hand overrule whatever the source and the angle say.

    Places are in the source's units and axes.
    """

    source: Literal["imported", "groups", "angle", "smooth", "flat"] = Field(
        "imported",
        description="imported: the source's normals where they are valid, else its smoothing groups, else the angle; "
        "groups: its smoothing groups, else the angle; angle: hard where an edge folds by more; smooth; flat",
    )
    angle: float = Field(
        38.0,
        ge=0.0,
        le=180.0,
        description="edges folded by more than this many degrees are hard",
        json_schema_extra={"unit": "°"},
    )
    weighting: Weighting = Field(
        "angle",
        description="how faces count in a corner's normal: by the corner's angle, by the face's area, by both, "
        "or only the largest faces around it",
    )
    large_face_ratio: float = Field(
        0.5, gt=0.0, le=1.0, description="for large: faces of this share of the largest count"
    )
    large_face_strength: float = Field(1.0, ge=0.0, le=1.0, description="for large: 0 is as by angle")
    recomputed_parts: tuple[str, ...] = Field(
        (), description="paths of parts whose own normals are not kept", json_schema_extra={"by_hand": True}
    )
    hard: tuple[Edge, ...] = Field(
        (), max_length=50_000, description="edges marked hard: their two ends", json_schema_extra={"by_hand": True}
    )
    soft: tuple[Edge, ...] = Field(
        (), max_length=50_000, description="edges marked soft: their two ends", json_schema_extra={"by_hand": True}
    )
    patches: tuple[Patch, ...] = Field(
        (), max_length=2_000, description="patches shaded as a whole", json_schema_extra={"by_hand": True}
    )
