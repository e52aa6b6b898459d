"""Schemas of lines, destinations, rules, and of drafts and trials of them."""

from datetime import datetime
from typing import Any, Literal

from ninja import Schema

from plindro.web.schemas import FindingOut

Kind = Literal["line", "destination"]


class DifferenceOut(Schema):
    """A field that differs, by its path with dots; null where it was not there."""

    field: str
    before: Any
    after: Any


class VersionOut(Schema):
    """A version and what it changed; number 0 is as it came with the product."""

    number: int
    by: str
    created: datetime | None
    changes: list[DifferenceOut]


class EntryRow(Schema):
    """A line or a destination; ``users`` counts the props on a line, ``stale`` those of them to be built anew."""

    name: str
    title: str
    number: int
    is_ours: bool
    users: int
    stale: int


class UserOut(Schema):
    """A prop on a line, and the settings of its own that differ from it."""

    id: int
    name: str
    is_stale: bool
    overrides: list[DifferenceOut]


class EntryOut(Schema):
    """A line or a destination with its history, and the props that use it. ``came`` is as it came with the product."""

    kind: Kind
    name: str
    title: str
    number: int
    is_ours: bool
    data: dict[str, Any]
    came: dict[str, Any] | None
    versions: list[VersionOut]
    users: list[UserOut]


class SaveIn(Schema):
    """``seen`` is the version that was edited; none where it is a new one."""

    data: dict[str, Any]
    seen: int | None = None
    by: str = ""


class RestoreIn(Schema):
    number: int
    seen: int
    by: str = ""


class DraftIn(Schema):
    data: dict[str, Any]


class FaultOut(Schema):
    """What is wrong with a field, by its path with dots; ``place`` is the character of a template, from 0."""

    field: str
    message: str
    place: int | None = None


class FaultyOut(Schema):
    detail: str
    faults: list[FaultOut]


class ByIn(Schema):
    by: str = ""


class FieldsIn(Schema):
    """Settings as ``station.setting``, of these props."""

    props: list[int]
    fields: list[str]


class TakeOverIn(Schema):
    """``seen`` is the version of the line that was looked at."""

    prop: int
    fields: list[str]
    seen: int
    by: str = ""


class RuleRow(Schema):
    """A rule: a pattern with * and ? for the name or the folder of a source, and the line that such a prop gets."""

    of: Literal["name", "folder"]
    pattern: str
    line: str


class RulesIn(Schema):
    rules: list[RuleRow]


class RuleOut(RuleRow):
    """A rule with the props of the board that it would choose the line for, as they are called."""

    fits: list[str]


class TrialIn(DraftIn):
    props: list[int]


class FileOut(Schema):
    """A file that would be written; ``address`` has its bytes."""

    path: str
    bytes: int
    sha256: str
    address: str


class LevelFigures(Schema):
    """A level: counts, and the largest distance from LOD0 in metres."""

    name: str
    triangles: int
    vertices: int
    deviation: float


class FiguresOut(Schema):
    """What a result comes to."""

    status: Literal["shipped", "held"]
    levels: list[LevelFigures]
    bytes: int
    picture: str | None
    findings: list[FindingOut]


class TrialRow(Schema):
    """A prop of a trial: before, and as the draft makes it."""

    prop: int
    name: str
    state: Literal["waiting", "done", "failed", "cancelled"]
    error: str
    before: FiguresOut | None
    after: FiguresOut | None
    files: list[FileOut]


class TrialOut(Schema):
    id: int
    fraction: float
    doing: str
    rows: list[TrialRow]


class PropFigures(Schema):
    """What a prop costs, as it was built: of the largest level, of the largest image in pixels, of textures in MiB."""

    vertices: int
    triangles: list[int]
    materials: int
    channels: int
    proxies: int
    texture_mib: float
    largest_image: int


class NamedProp(Schema):
    """The names of a prop under a draft. ``clash`` is the prop that would write the same file, ``left`` are the files
    of its last shipment there that it would write no more."""

    id: int
    name: str
    files: list[str]
    nodes: list[str]
    materials: list[str]
    clash: str
    left: list[str]
    figures: PropFigures | None


class DraftOut(Schema):
    """What is wrong with a draft, what differs from the version that stands, and the props under it."""

    faults: list[FaultOut]
    changes: list[DifferenceOut]
    props: list[NamedProp]
