"""What Source found out: the whole of what the source holds, and the counts of the prop taken from it."""

from pydantic import Field

from plindro.core.scene import Axis
from plindro.core.settings import StationFacts


class PartFact(StationFacts):
    """A part of the source, and whether it ships."""

    name: str
    path: str
    object: str
    parent: str
    group: str
    source_mesh: str
    hidden: bool
    flattened: bool = Field(False, description="its node has a scale of 0")
    triangles: int
    ships: bool
    reason: str = Field(description="why it ships or stays behind; empty where no rule names it")


class BystanderFact(StationFacts):
    """Something of the source without faces."""

    name: str
    path: str
    kind: str


class PlanFact(StationFacts):
    """A prop that the split would give."""

    key: str
    name: str
    parts: int
    triangles: int
    instances: int


class TextureFact(StationFacts):
    """An image of the prop; its size in pixels, its file's in bytes."""

    name: str
    width: int
    height: int
    bytes: int
    digest: str


class SourceFacts(StationFacts):
    """The source, and its prop before anything was done to it."""

    format: str
    unit: float = Field(description="metres per unit of the file")
    up: Axis
    says_unit: bool = Field(description="the file itself says its unit and axis")
    unused: dict[str, int]
    parts: list[PartFact]
    bystanders: list[BystanderFact]
    plan: list[PlanFact]
    own: list[int] = Field(description="numbers of this prop's parts")
    polygons: int
    triangles: int
    points: int
    engine_vertices: int
    sides: dict[int, int] = Field(description="faces by their number of sides")
    size: list[float] = Field(description="metres along X, Y and Z, as the file says")
    uv_channels: int
    has_normals: bool
    has_colors: bool
    materials: list[str]
    textures: list[TextureFact]
