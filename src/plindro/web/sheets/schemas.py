"""Schemas of shared sheets."""

from typing import Literal

from ninja import Schema
from pydantic import Field

from plindro.core.sheets.placing import Density
from plindro.core.sheets.shared import Tiling


class SheetIn(Schema):
    """Props for a sheet, and how they go onto it; ``size`` and ``padding`` in pixels."""

    ids: list[int] = Field(max_length=500)
    name: str = Field("sheet", min_length=1, max_length=60)
    size: int = Field(2048, ge=64, le=8192)
    padding: int = Field(8, ge=0, le=64)
    tiling: Tiling = "out"
    density: Density = "even"


class SheetCosts(Schema):
    """Draw calls, bytes of textures with mips, pixels a metre that half the surface is under."""

    draw_calls: int
    texture_bytes: int
    density: float


class SheetOut(Schema):
    """A sheet and what came of it: ``before`` and ``after`` are told when it is done, ``doing`` while it is made;
    ``picture`` is where its colours are."""

    id: int
    name: str
    state: Literal["running", "done", "failed", "cancelled"]
    error: str
    fraction: float
    doing: str
    members: list[str]
    before: SheetCosts | None
    after: SheetCosts | None
    messages: list[str]
    props: list[int]
    picture: str | None
