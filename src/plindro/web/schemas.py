"""What the API says and takes, shared by the routers."""

from typing import Any, Literal

from ninja import Field, Schema


class Problem(Schema):
    """Every error of the API: one sentence."""

    detail: str


class PlacesOut(Schema):
    kind: Literal["vertices", "edges", "triangles"]
    points: list[list[list[float]]]


class FindingOut(Schema):
    code: str
    severity: Literal["stop", "watch", "info"]
    message: str
    count: int
    level: int | None
    part: str | None
    places: PlacesOut | None = None


class ChangeOut(Schema):
    """What changes from one level to another, in metres; its share of the outline's area, and degrees."""

    surface: float = 0.0
    mean: float = 0.0
    outline: float = 0.0
    shading: float = 0.0
    outline_share: float = 0.0
    normal_angle: float = 0.0


class LevelOut(Schema):
    index: int
    name: str
    triangles: int
    vertices: int
    deviation: float
    mean_deviation: float
    screen_size: float
    distance: float = 0.0
    proposed: float = 0.0
    change: ChangeOut = ChangeOut()
    step: ChangeOut = ChangeOut()
    materials: int = 0
    bytes: int = 0
    texture_bytes: int = 0
    normal_angle: float = 0.0
    normals: str = ""
    dropped: list[str] = Field(default_factory=list)
    target: int = -1


class JobOut(Schema):
    id: int
    kind: Literal["build", "ship", "rock"]
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    fraction: float
    doing: str
    prop: int | None
    item: int | None
    shipment: int | None


Facts = dict[str, Any]
