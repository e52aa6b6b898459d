"""The base of every station's settings: closed, immutable, validated on the way in."""

from pydantic import BaseModel, ConfigDict


class StationSettings(BaseModel):
    """Settings of one station. Unknown names are refused, so that a typing error is not a silent default."""

    model_config = ConfigDict(extra="forbid", frozen=True)
