"""Schemas of the Bench."""

from typing import Any

from ninja import Schema

from plindro.web.schemas import FindingOut, LevelOut
from plindro.web.yard.schemas import Readiness, RefusedFile


class PartOut(Schema):
    """A part of the source, and whether it ships."""

    name: str
    path: str
    hidden: bool
    triangles: int
    ships: bool
    reason: str


class SplitRow(Schema):
    """A prop that the split would make."""

    key: str
    name: str
    file: str
    renamed_from: str | None
    parts: int
    triangles: int
    instances: int


class ChangedRow(Schema):
    what: str
    before: str
    after: str


class SourceChanges(Schema):
    """What the last replacement of the source changed."""

    before: str
    after: str
    rows: list[ChangedRow]


class PeerOut(Schema):
    """Another prop of the board and its longest side in metres."""

    name: str
    longest: float


class StateOut(Schema):
    """Another state of the prop, as damaged: its levels, the last ``fallen_back`` of which are the base state's."""

    name: str
    prop: str
    model: str
    levels: list[LevelOut]
    fallen_back: int
    last_distance: float | None
    radius: float


class ReplaceOut(Schema):
    """Props that have the new source now, and files that were of no use."""

    props: list[int]
    refused: list[RefusedFile]


class PropDetail(Schema):
    """Everything the Bench shows of one prop."""

    id: int
    name: str
    source_name: str
    line: str
    readiness: Readiness
    error: str
    model: str | None
    sheet: str | None
    descent: str | None
    source_model: str | None
    parts: list[PartOut]
    split: list[SplitRow]
    source_changes: SourceChanges | None
    peers: list[PeerOut]
    facts: dict[str, Any]
    levels: list[LevelOut]
    states: list[StateOut]
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
