"""Schemas of the Yard."""

from datetime import datetime
from typing import Literal

from ninja import Schema

from plindro.core.stations.textures import TextureFacts

Readiness = Literal["ready", "warning", "held", "failed", "cancelled", "working"]


class PropRow(Schema):
    """A row of the board. Sizes in metres; counts before and after cutting to engine vertices."""

    id: int
    changed: datetime
    name: str
    source_name: str
    source_bytes: int
    line: str
    readiness: Readiness
    error: str
    is_stale: bool
    picture: str | None
    format: str | None
    polygons: int | None
    triangles: int | None
    engine_vertices: int | None
    levels: int | None
    last_triangles: int | None
    materials: int | None
    textures: int | None
    size: list[float] | None
    stops: int
    warnings: int
    infos: int
    triangle_budget: int | None
    material_budget: int | None
    vertex_limit: int


class BoardChanges(Schema):
    """The board's props in their order, and the rows that changed."""

    order: list[int]
    rows: list[PropRow]


class RefusedFile(Schema):
    name: str
    message: str


class UploadOut(Schema):
    props: list[int]
    refused: list[RefusedFile]


class TextureUser(Schema):
    """A prop that uses a texture."""

    id: int
    name: str


class TextureOfBoard(Schema):
    """A texture, once for all props that use it."""

    texture: TextureFacts
    props: list[TextureUser]


class TexturesOut(Schema):
    """The textures of all props, and their sums in bytes: as files, on the GPU, and there as RGBA8."""

    textures: list[TextureOfBoard]
    bytes: int
    gpu_bytes: int
    source_gpu_bytes: int


class PropIds(Schema):
    ids: list[int]


class Changed(Schema):
    count: int


class LineOut(Schema):
    name: str
    title: str


class DestinationOut(Schema):
    name: str
    title: str
    max_engine_vertices: int


class ProjectIn(Schema):
    name: str


class ProjectOut(Schema):
    """``name`` is empty until the user gives one."""

    name: str
    has_demo: bool
    lines: list[LineOut]
    destinations: list[DestinationOut]
