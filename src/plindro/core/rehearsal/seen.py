"""What a receiving engine sees of a prop, as it is shown and recorded."""

from typing import Literal

from plindro.core.settings import StationFacts


class SeenLevel(StationFacts):
    """A level that the engine draws. ``number`` is None where its name says none; ``pieces`` are the meshes that the
    engine makes of it past its vertex limit, ``pieces_16`` those past 65 535 vertices."""

    name: str
    number: int | None
    triangles: int
    vertices: int
    draws: int
    parts: list[str]
    pieces: int
    pieces_16: int
    wide: bool | None


class SeenMap(StationFacts):
    """A map of a material, and where its image is."""

    slot: str
    path: str
    state: Literal["found", "missing", "damaged"]
    format: str
    width: int
    height: int
    levels: int


class SeenMaterial(StationFacts):
    """A material, in the file's order, with its maps and the levels that use it."""

    name: str
    maps: list[SeenMap]
    levels: list[int]


class SeenProxy(StationFacts):
    """A collision proxy; ``fault`` is empty where a physics engine takes it."""

    name: str
    number: int
    triangles: int
    fault: str


class SeenLightMap(StationFacts):
    """The UV channel that the engine lights by: ``covered_twice`` is the share of its covered texels that more than one
    triangle covers, ``outside`` the share of its vertices beyond the square."""

    channel: int
    state: Literal["absent", "holds", "overlaps", "outside"]
    covered_twice: float
    outside: float


class SeenProp(StationFacts):
    """A prop as the engine sees it, in metres, Y up, its pivot in the origin. ``tangents``: whether levels with a
    normal map have them."""

    prop: str
    levels: list[SeenLevel]
    materials: list[SeenMaterial]
    proxies: list[SeenProxy]
    size: list[float]
    lowest: list[float]
    place: list[float]
    up: str
    metres: float
    uv_channels: list[int]
    light_map: SeenLightMap
    tangents: Literal["there", "missing", "not needed"]
    drawn_from_behind: float
