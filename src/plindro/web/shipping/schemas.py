"""Schemas of shipments."""

from datetime import datetime
from typing import Literal

from ninja import Schema

from plindro.core.rehearsal import SeenProp
from plindro.web.schemas import FindingOut, WaiverOut

State = Literal["waiting", "shipped", "held", "failed", "cancelled"]


class ShipmentIn(Schema):
    """Props and a destination; with a ``folder`` it is delivered into that as soon as it is done, and ``removes`` what
    is left behind there."""

    ids: list[int]
    destination: str
    folder: str = ""
    removes: bool = False


class PreviewFile(Schema):
    """A file that a prop would write: its bytes where it is built already, and what becomes of it in the folder;
    unknown: a file is there, and whether it would be another is not known yet."""

    path: str
    bytes: int | None
    change: Literal["made", "replaced", "same", "foreign", "unknown"] | None


class PreviewRow(Schema):
    """What one prop would write, the findings that hold it back, and how it stands to its last shipment."""

    prop: int
    name: str
    files: list[PreviewFile]
    levels: list[str]
    held: bool
    stops: list[FindingOut]
    note: str
    left: list[str]
    since: Literal["new", "changed", "same", "failed"]
    is_built: bool


class ShipmentPreview(Schema):
    """What a shipment would write. ``left`` are files in the folder that its props write no more, ``changed`` those of
    them that somebody has changed since."""

    root: str
    rows: list[PreviewRow]
    left: list[str]
    changed: list[str]


class SelectionIn(Schema):
    name: str
    props: list[int]


class SelectionOut(Schema):
    """Props that are shipped together, by the name that they have as such."""

    name: str
    props: list[int]


class ComparedSide(Schema):
    """A prop in one of two shipments: the triangles of its levels, the bytes of its files."""

    state: State
    triangles: list[int]
    bytes: int
    files: list[str]
    picture: str | None


class ComparedProp(Schema):
    """A prop in two shipments, with the findings that only one of them has."""

    prop: int
    name: str
    change: Literal["same", "changed", "added", "gone"]
    before: ComparedSide | None
    after: ComparedSide | None
    appeared: list[str]
    gone: list[str]


class ComparedOut(Schema):
    """A shipment beside another: the props that differ, and how many do not. ``other`` is None where there is none."""

    other: int | None
    props: list[ComparedProp]
    same: int


class LeftOut(Schema):
    """Files that an earlier shipment to a destination wrote, and another would write no more."""

    destination: str
    files: list[str]


class ShippedFileOut(Schema):
    path: str
    bytes: int
    sha256: str


class ShippedLevelOut(Schema):
    index: int
    name: str
    triangles: int
    vertices: int
    screen_size: float
    deviation: float


class ItemOut(Schema):
    id: int
    prop: int
    prop_name: str
    name: str
    state: State
    error: str
    files: list[ShippedFileOut]
    levels: list[ShippedLevelOut]
    findings: list[FindingOut]
    waivers: list[WaiverOut]
    picture: str | None
    is_seen: bool
    seconds: float | None


class RehearsalOut(Schema):
    """What a receiving engine sees of an item's files."""

    item: int
    prop: int
    name: str
    destination: str
    seen: SeenProp
    findings: list[FindingOut]
    vertex_limit: int
    wants_light_map: bool


class ShipmentRow(Schema):
    """One line of the ledger."""

    id: int
    destination: str
    state: Literal["running", "done", "failed", "cancelled"]
    error: str
    created: datetime
    seconds: float | None
    waiting: int
    shipped: int
    held: int
    failed: int
    cancelled: int
    bytes: int
    triangles: int
    archive: str | None
    is_packing: bool
    report: str | None
    contact_sheet: str | None
    folder: str


class DeliveryFile(Schema):
    """A file and what becomes of it; foreign: it is there, is other, and no delivery wrote it."""

    path: str
    change: Literal["made", "replaced", "same", "foreign"]
    bytes: int
    bytes_before: int


class DeliveryOut(Schema):
    """What a delivery into a folder does. ``left`` are files of earlier deliveries that these props write no more;
    ``changed`` those of them that somebody has changed, which are never removed."""

    root: str
    folder: str
    files: list[DeliveryFile]
    left: list[str]
    changed: list[str]


class DeliverIn(Schema):
    folder: str
    removes: bool = False


class DeliveryState(Schema):
    """How the last delivery of a shipment went."""

    folder: str
    state: Literal["waiting", "running", "done", "failed"]
    error: str = ""
    rolls_back: bool = False
    made: int = 0
    replaced: int = 0
    same: int = 0
    foreign: int = 0
    removed: int = 0


class ShipmentOut(ShipmentRow):
    items: list[ItemOut]
    delivery: DeliveryState | None
    before: int | None
    goes_back_to: int | None
