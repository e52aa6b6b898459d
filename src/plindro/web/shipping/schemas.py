"""Schemas of shipments."""

from datetime import datetime
from typing import Literal

from ninja import Schema

from plindro.web.schemas import FindingOut


class ShipmentIn(Schema):
    ids: list[int]
    destination: str


class PreviewRow(Schema):
    """What one prop would write."""

    prop: int
    name: str
    files: list[str]
    levels: list[str]
    held: bool
    note: str
    left: list[str]


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
    state: Literal["waiting", "shipped", "held", "failed", "cancelled"]
    error: str
    files: list[ShippedFileOut]
    levels: list[ShippedLevelOut]
    findings: list[FindingOut]
    seconds: float | None


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
    state: Literal["running", "done", "failed"]
    error: str = ""
    made: int = 0
    replaced: int = 0
    same: int = 0
    foreign: int = 0


class ShipmentOut(ShipmentRow):
    items: list[ItemOut]
    delivery: DeliveryState | None
