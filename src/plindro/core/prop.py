"""A prop on its way through the line: one mesh with parts and materials, and after Levels its chain."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from plindro.core.collision.proxy import Proxy
from plindro.core.measure.change import NO_CHANGE, Change
from plindro.core.measure.deviation import Deviation
from plindro.core.mesh.mesh import I32, Mesh
from plindro.core.reduction import Sequence
from plindro.core.scene import Axis, Image, Material, Part, Scene
from plindro.core.shading.rule import ShadingRule


@dataclass(frozen=True, slots=True)
class Level:
    """One detail of a prop.

    change, step : all that changes from LOD0 and from the level above
    distance : metres from which it is drawn, proposed : those that were proposed, screen_size : the share of the view's
        height that the prop's bounding sphere covers there
    normal_angle : the mean angle in degrees between its shading and LOD0's, normals : how its normals were made
    dropped : paths of the parts that are excluded from it, vanished : of those it has no triangle of all the same
    target : which of the settings' levels it is
    pieces : (F,) the mesh that each face ships in, where the level has more vertices than an engine's mesh holds
    """

    index: int
    mesh: Mesh
    name: str = ""
    change: Change = NO_CHANGE
    step: Change = NO_CHANGE
    distance: float = 0.0
    proposed: float = 0.0
    screen_size: float = 1.0
    normal_angle: float = 0.0
    normals: str = ""
    dropped: tuple[str, ...] = ()
    vanished: tuple[str, ...] = ()
    target: int = -1
    pieces: I32 | None = None

    @property
    def is_split(self) -> bool:
        """Whether it ships as several meshes."""
        return self.pieces is not None and bool(len(self.pieces)) and int(self.pieces.max()) > 0

    @property
    def deviation(self) -> float:
        """Largest distance from LOD0 in metres."""
        return self.change.surface

    @property
    def mean_deviation(self) -> float:
        """Mean distance from LOD0 in metres."""
        return self.change.mean


@dataclass(frozen=True, slots=True)
class GpuFile:
    """A GPU texture: its path below the folder that is shipped to, and its bytes.

    ``image`` is the number of the image that it was made of, None where several were packed.
    """

    image: int | None
    path: str
    container: Literal["dds", "ktx2"]
    data: bytes = field(repr=False)


@dataclass(frozen=True, slots=True)
class ImageFile:
    """An image beside the prop's file: its number, its path below the folder that is shipped to, its bytes."""

    image: int
    path: str
    data: bytes = field(repr=False)


@dataclass(frozen=True, slots=True)
class Polygons:
    """What was triangulated: the mesh before, and (3 T,) the polygon corner of each triangle corner after.

    Polygons of fewer than ``min_sides`` sides stay whole where a format holds them.
    """

    mesh: Mesh
    corners: I32
    min_sides: int = 4


@dataclass(frozen=True, slots=True)
class Prop:
    """One deliverable. ``mesh`` is what the stations work on; ``levels`` are what ships.

    Until Placement, lengths are in ``unit`` metres and ``up`` points up. ``place`` is where the prop stands in its
    scene, in metres; zero where its pivot went to the origin. With ``keeps_parts`` its parts ship as nodes.
    ``material_slots`` says which material each of the source's names became, where they were merged or named anew.
    ``from_source`` is the row-major matrix that took the source's places to the mesh; ``shading`` the rule by which its
    normals were made; ``sequence`` the way from LOD0 down, from which its levels were taken, ``measured`` what was
    measured of it by step. Past ``last_distance`` metres the prop is not drawn. Without ``had_polygons`` the source is
    of triangles alone: what Cleanup puts a vertex into is no polygon that an engine could have met.
    """

    name: str
    mesh: Mesh
    parts: tuple[Part, ...]
    materials: tuple[Material, ...]
    images: tuple[Image, ...] = ()
    gpu_files: tuple[GpuFile, ...] = ()
    image_files: tuple[ImageFile, ...] = ()
    levels: tuple[Level, ...] = ()
    proxies: tuple[Proxy, ...] = ()
    unused_materials: tuple[str, ...] = ()
    unit: float = 1.0
    up: Axis = "y"
    material_slots: tuple[tuple[str, int], ...] = ()
    place: tuple[float, float, float] = (0.0, 0.0, 0.0)
    keeps_parts: bool = False
    from_source: tuple[float, ...] = (1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0)
    polygons: Polygons | None = None
    shading: ShadingRule | None = None
    sequence: Sequence | None = None
    measured: Mapping[int, Deviation] = field(default_factory=dict)
    last_distance: float = math.inf
    had_polygons: bool = True


def prop_from_scene(scene: Scene, name: str | None = None) -> Prop:
    """The whole scene as one prop, its parts joined into one mesh."""
    return Prop(
        name or scene.name,
        scene.mesh,
        scene.parts,
        scene.materials,
        scene.images,
        unused_materials=scene.unused_materials,
        unit=scene.unit,
        up=scene.up,
        had_polygons=not scene.mesh.is_triangles,
    )
