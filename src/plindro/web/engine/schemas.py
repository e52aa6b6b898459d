"""Schemas of the simulated engine."""

from typing import Literal

from ninja import Schema

from plindro.core.rehearsal import SeenProp
from plindro.web.schemas import FindingOut


class AssetOut(Schema):
    """An imported prop and how its file stands now; ``model`` is the address of its GLB or glTF, which the walk draws;
    other formats are read and not drawn. ``distances`` are metres from which its levels are drawn."""

    id: int
    path: str
    change: Literal["changed", "vanished", "same"]
    seen: SeenProp | None
    findings: list[FindingOut]
    error: str
    distances: list[float]
    model: str | None
    x: float
    z: float
    turn: float


class EngineOut(Schema):
    """A project of the simulated engine; ``noticed`` are files that are new."""

    id: int
    root: str
    folder: str
    destination: str
    indices: int
    vertex_limit: int
    is_importing: bool
    error: str
    imports: int
    noticed: list[str]
    assets: list[AssetOut]


class EngineIn(Schema):
    destination: str
    indices: int


class PlaceIn(Schema):
    """Metres on the floor, and degrees about the upright."""

    x: float
    z: float
    turn: float
