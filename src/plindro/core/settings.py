"""The bases of what a station is told and of what it tells: settings and facts, both closed and immutable."""

from pydantic import BaseModel, ConfigDict


class StationSettings(BaseModel):
    """Settings of one station. Unknown names are refused, so that a typing error is not a silent default."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class StationFacts(BaseModel):
    """What a station found out about a prop, in plain values; lengths in metres."""

    model_config = ConfigDict(extra="forbid", frozen=True)
