"""What the API says and takes, shared by the routers."""

from typing import Literal

from ninja import Schema


class PlacesOut(Schema):
    kind: Literal["vertices", "edges", "triangles"]
    points: list[list[list[float]]]


class FindingOut(Schema):
    """A finding; ``station`` is None where it is about the shipped file."""

    station: str | None = None
    code: str
    severity: Literal["stop", "warning", "info"]
    message: str
    count: int
    level: int | None
    part: str | None
    places: PlacesOut | None = None


class JobOut(Schema):
    """A job; ``subject`` is the number of the prop it builds, of the shipment's item it ships."""

    id: int
    kind: str
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    fraction: float
    doing: str
    subject: int | None


class WaiverOut(Schema):
    """That findings of a code do not hold a prop back, who said so, and why."""

    code: str
    by: str
    reason: str
