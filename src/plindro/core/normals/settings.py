"""Settings of Normals."""

from typing import Literal

from pydantic import Field

from plindro.core.settings import StationSettings


class NormalsSettings(StationSettings):
    """Where normals come from, and from which fold on an edge is hard."""

    source: Literal["imported", "angle"] = Field(
        "imported",
        description="imported: keep the source's normals, else its smoothing groups, else the angle; "
        "angle: compute all by the angle",
    )
    angle: float = Field(38.0, ge=0.0, le=180.0, description="edges folded by more than this many degrees are hard")
