"""Errors of the web's services, told to the browser as one sentence."""

import errno
from dataclasses import dataclass

from django.db import DatabaseError

from plindro.core.errors import PlindroError

UNEXPECTED = "something went wrong; the server's log has the details"


class NotFound(PlindroError):
    """Something named by an address does not exist (any more)."""


class NotPossible(PlindroError):
    """A request that makes no sense as things stand."""


@dataclass(frozen=True, slots=True)
class StaleRow:
    """One value that was decided by two: its key, what it is called, and how each side has it."""

    key: str
    label: str
    theirs: str
    yours: str


class Stale(PlindroError):
    """A decision made in view of values that another has changed since; ``version`` is the one that stands now."""

    def __init__(self, version: int, rows: list[StaleRow]) -> None:
        told = "; ".join(f"{row.label} {row.theirs} there, {row.yours} here" for row in rows)
        super().__init__(f"decided in another browser meanwhile: {told}; keep that, or decide again")
        self.version = version
        self.rows = rows


def storage_words(error: OSError | DatabaseError) -> str:
    """What to do about a disk or a database that does not take what is to be written."""
    text = str(error)
    if (isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)) or "full" in text:
        return "the disk that Plindro keeps its files on is full; make room and try again"
    if isinstance(error, DatabaseError) and ("locked" in text or "busy" in text):
        return "the database is in use by another program; close that and try again"
    if isinstance(error, OSError):
        reason = f" ({error.strerror})" if error.strerror else ""
        return f"the folder that Plindro keeps its files in cannot be written{reason}; look at its disk and try again"
    return "the database cannot be written; look at the disk that it lies on and try again"
