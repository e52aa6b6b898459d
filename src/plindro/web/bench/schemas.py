"""Schemas of the Bench."""

from typing import Any

from ninja import Schema

from plindro.web.schemas import FindingOut, LevelOut
from plindro.web.yard.schemas import Readiness


class PropDetail(Schema):
    """Everything the Bench shows of one prop."""

    id: int
    name: str
    source_name: str
    line: str
    readiness: Readiness
    error: str
    model: str | None
    facts: dict[str, Any]
    levels: list[LevelOut]
    findings: list[FindingOut]
    settings: dict[str, dict[str, Any]]
    overrides: dict[str, dict[str, Any]]
    undo: str | None
    redo: str | None
    triangle_budget: int | None
    material_budget: int | None
    vertex_limit: int


class SettingsIn(Schema):
    """Changes by station and setting."""

    changes: dict[str, dict[str, Any]]


class NameIn(Schema):
    name: str


class LineIn(Schema):
    line: str
