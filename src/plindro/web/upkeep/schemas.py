"""Schemas of the store's upkeep."""

from ninja import Schema


class ShareOut(Schema):
    """``name`` is sources, results, shipments, unused or database."""

    name: str
    files: int
    bytes: int


class StorageOut(Schema):
    """What fills the disk; ``removable`` bytes of the unused files are older than ``grace_days``."""

    folder: str
    bytes: int
    removable: int
    grace_days: float
    shares: list[ShareOut]


class FreedOut(Schema):
    files: int
    bytes: int
    storage: StorageOut
