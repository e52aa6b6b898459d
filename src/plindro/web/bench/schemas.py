"""Schemas of the Bench."""

from typing import Any, Literal, Self

from ninja import Schema
from pydantic import Field

from plindro.core.line import StationsFacts, StationsSettings
from plindro.core.stations.levels import LevelFacts, StateFacts
from plindro.core.stations.source import PartFact
from plindro.core.textures.rules import BANDS
from plindro.web.schemas import FindingOut, WaiverOut
from plindro.web.yard.schemas import Readiness, RefusedFile


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


class StateOut(StateFacts):
    """Another state of the prop, as damaged, with the address of its model."""

    model: str


class NamesOut(Schema):
    """Names under which the prop or a state of it ships."""

    root: str
    files: list[str]
    levels: list[str]


class ReplaceOut(Schema):
    """Props that have the new source now, and files that were of no use."""

    props: list[int]
    refused: list[RefusedFile]


class UndoOut(Schema):
    """The decision that undo would take back, and whether it was made in the browser that asks."""

    label: str
    is_own: bool


class Company(Schema):
    """What of a prop depends on the others of the board, and on the browser that asks."""

    peers: list[PeerOut]
    undo: UndoOut | None
    redo: str | None

    @classmethod
    def nobody(cls) -> Self:
        """That of a prop alone."""
        return cls(peers=[], undo=None, redo=None)


class PropDetail(Company):
    """Everything the Bench shows of one prop; the parts and plans of its source stand apart from the facts.

    ``waivable`` are the codes of stops that hold it back and that somebody may answer for.

    ``overridden`` are the settings that are the prop's own and not its line's, by station; ``textures`` are the
    addresses of its GPU textures, as DDS, by their paths.
    """

    id: int
    name: str
    source_name: str
    line: str
    readiness: Readiness
    error: str
    is_stale: bool
    model: str | None
    sheet: str | None
    descent: str | None
    source_model: str | None
    textures: dict[str, str]
    parts: list[PartFact]
    split: list[SplitRow]
    source_changes: SourceChanges | None
    facts: StationsFacts  # type: ignore[valid-type]
    levels: list[LevelFacts]
    states: list[StateOut]
    findings: list[FindingOut]
    waivers: list[WaiverOut]
    waivable: list[str]
    settings: StationsSettings  # type: ignore[valid-type]
    overridden: dict[str, list[str]]
    names: list[NamesOut]
    version: int
    triangle_budget: int | None
    material_budget: int | None
    vertex_limit: int


class PreviewOut(Schema):
    """A level as it would ship: its figures and the address of its shape, once it is there; else why it is not."""

    state: Literal["ready", "working", "failed"]
    model: str | None = None
    level: LevelFacts | None = None
    error: str = ""


class Versioned(Schema):
    """A decision made in view of a version of the prop; one without overrules whatever was decided since."""

    version: int | None = None


class SettingsIn(Versioned):
    """Changes by station and setting."""

    changes: dict[str, dict[str, Any]]


class NameIn(Versioned):
    name: str


class HeightsIn(Schema):
    """How normals are made of heights: pixels that a height of 1 stands for, and the share of each band of detail."""

    strength: float = Field(gt=0.0, le=256.0)
    shares: list[float] = Field(min_length=BANDS, max_length=BANDS)


class LineIn(Versioned):
    line: str


class StaleRowOut(Schema):
    """A value that another decided meanwhile, as both sides have it."""

    key: str
    label: str
    theirs: str
    yours: str


class StaleOut(Schema):
    """Why a decision was refused, and the version with which it can be made all the same."""

    detail: str
    version: int
    rows: list[StaleRowOut]
