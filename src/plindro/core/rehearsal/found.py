"""What a reader finds in shipped files, in metres, Y up, right-handed, corners counterclockwise."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]
I64 = NDArray[np.int64]
State = Literal["found", "missing", "damaged"]


@dataclass(frozen=True, slots=True)
class FoundImage:
    """An image as its header tells: format, pixels, levels with mips, and what is wrong with it."""

    path: str
    state: State
    format: str = ""
    width: int = 0
    height: int = 0
    levels: int = 1
    fault: str = ""


@dataclass(frozen=True, slots=True)
class FoundMap:
    """A map of a material: its slot, the UV channel that it is laid by, and its images; the first is drawn."""

    slot: str
    channel: int
    images: tuple[FoundImage, ...]


@dataclass(frozen=True, slots=True)
class FoundMaterial:
    """A material with its maps."""

    name: str
    maps: tuple[FoundMap, ...] = ()

    @property
    def has_normal_map(self) -> bool:
        return any(row.slot == "normal" for row in self.maps)


@dataclass(frozen=True, slots=True)
class Primitive:
    """Triangles of one material: ``positions`` (V, 3), ``triangles`` (T, 3); ``normals`` (V, 3), ``tangents`` (V, 4)
    and the ``uvs`` (V, 2) by channel are there or not. ``wide``: indices have 32 bits; None where a format has no
    word for it. ``restarts``: an index is the one that restarts a strip; ``beyond``: one names a vertex that is
    not there."""

    positions: F64
    triangles: I64
    normals: F64 | None = None
    tangents: F64 | None = None
    uvs: dict[int, F64] = field(default_factory=dict)
    material: int | None = None
    wide: bool | None = None
    restarts: bool = False
    beyond: bool = False


@dataclass(slots=True)
class FoundNode:
    """A node with what is drawn at it, and those below it; ``is_placed``: it moves, turns or scales what it holds."""

    name: str
    is_placed: bool = False
    primitives: list[Primitive] = field(default_factory=list)
    children: list["FoundNode"] = field(default_factory=list)


@dataclass(slots=True)
class Found:
    """A file as it was read: its roots, its materials in their order, its own word on axes and unit, if it has one.

    ``is_flat``: the format has no node above its meshes, as OBJ; the roots are those meshes. ``place`` is where the
    root stands in its scene, in metres.
    """

    roots: list[FoundNode]
    materials: list[FoundMaterial] = field(default_factory=list)
    up: str | None = None
    metres: float | None = None
    is_flat: bool = False
    place: tuple[float, float, float] = (0.0, 0.0, 0.0)
