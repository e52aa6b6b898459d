"""Errors of the web's services, told to the browser as one sentence."""

import errno
from dataclasses import dataclass

from django.db import DatabaseError, OperationalError

from plindro.core.errors import PlindroError

FULL = "the disk that Plindro keeps its files on is full; make room and try again"
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


def storage_words(error: BaseException | None) -> str | None:
    """What to do about a disk or a database that does not take what is to be written; None where it is another error.

    A database that refuses what is said to it, as a row that is there twice, is an error of ours.
    """
    text = str(error)
    if isinstance(error, OSError):
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return FULL
        reason = f" ({error.strerror})" if error.strerror else ""
        return f"the folder that Plindro keeps its files in cannot be written{reason}; look at its disk and try again"
    if not isinstance(error, DatabaseError):
        return None
    if "full" in text:
        return FULL
    if "locked" in text or "busy" in text:
        return "the database is in use by another program; close that and try again"
    if "malformed" in text or "not a database" in text:
        return "the database is damaged; put back a copy of it"
    if isinstance(error, OperationalError):
        return f"the database cannot be used ({text}); look at the disk that it lies on and try again"
    return None
