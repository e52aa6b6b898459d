"""Settings of Levels."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from plindro.core.settings import StationSettings

MAX_LEVELS = 8
Ratio = Annotated[float, Field(gt=0.0, lt=1.0)]


class LevelsSettings(StationSettings):
    """Which levels follow LOD0, as shares of its triangles; none means a prop without levels."""

    ratios: tuple[Ratio, ...] = Field(
        (0.5, 0.25, 0.1), max_length=MAX_LEVELS - 1, description="triangles of LOD1, LOD2 ... as shares of LOD0"
    )
    smooth_angle: float = Field(
        60.0,
        ge=0.0,
        le=180.0,
        description="normals of a level that had to give up hard edges: folds above this many degrees are hard",
    )

    normals: Literal["closest", "kept", "rule", "carried"] = Field(
        "closest",
        description="kept: those of LOD0's vertices; rule: made anew as at Normals; carried: from the nearest place of "
        "LOD0 that faces the same way; closest: whichever looks closest to LOD0 by mean angle",
    )

    @model_validator(mode="after")
    def _fall(self) -> "LevelsSettings":
        if any(b >= a for a, b in zip(self.ratios, self.ratios[1:], strict=False)):
            raise ValueError("ratios must fall from level to level, for example 0.5, 0.25, 0.1")
        return self
