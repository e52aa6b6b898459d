"""A source as it was read: one polygon mesh with parts, materials, images, and what else the file holds."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from plindro.core.findings import Finding
from plindro.core.mesh.mesh import F64, Mesh

Y_UP = {
    "y": np.eye(3),
    "z": np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]]),
    "x": np.array([[0.0, -1.0, 0.0], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0]]),
}
"""Rotations that bring an axis that points up to Y."""
HARDLY_SEEN = 0.02
"""Alpha of a blended material up to which next to nothing of it is seen, which nobody means."""
TextureSlot = Literal["base_color", "normal", "metallic_roughness", "occlusion", "emissive"]


@dataclass(frozen=True, slots=True)
class Image:
    """An image as the source holds it: encoded bytes, media type and pixel size.

    ``smaller_of`` is the name of the image that it was made from, where it is a smaller one for far levels.
    """

    name: str
    data: bytes = field(repr=False)
    media_type: str
    width: int
    height: int
    smaller_of: str = ""

    @property
    def digest(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


@dataclass(frozen=True, slots=True)
class Texture:
    """A use of an image: UV channel, wrap modes (glTF codes), strength, and a KHR_texture_transform where given."""

    image: int
    channel: int = 0
    wrap: tuple[int, int] = (10497, 10497)
    filters: tuple[int | None, int | None] = (None, None)
    strength: float = 1.0
    transform: tuple[tuple[str, Any], ...] = ()


@dataclass(frozen=True, slots=True)
class MaterialExtension:
    """A material extension of glTF carried through: its name, its values as JSON text, its textures by their key."""

    name: str
    values: str
    textures: tuple[tuple[str, Texture], ...] = ()


@dataclass(frozen=True, slots=True)
class Material:
    """A metallic-roughness material; colours linear, as in glTF 2.0.

    One that is not known is but a name: its values stand in for those of a library that is not there.
    """

    name: str
    base_color: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    metallic: float = 1.0
    roughness: float = 1.0
    emissive: tuple[float, float, float] = (0.0, 0.0, 0.0)
    alpha_mode: Literal["OPAQUE", "MASK", "BLEND"] = "OPAQUE"
    alpha_cutoff: float = 0.5
    double_sided: bool = False
    textures: tuple[tuple[TextureSlot, Texture], ...] = ()
    extensions: tuple[MaterialExtension, ...] = ()
    is_known: bool = True

    @property
    def is_invisible(self) -> bool:
        """Whether its alpha alone leaves next to nothing of it to be seen."""
        alpha = self.base_color[3]
        return (self.alpha_mode == "BLEND" and alpha <= HARDLY_SEEN) or (
            self.alpha_mode == "MASK" and alpha < self.alpha_cutoff
        )

    def all_textures(self) -> tuple[Texture, ...]:
        """Every texture of the material, those of its extensions included."""
        return tuple(t for _, t in (*self.textures, *(pair for x in self.extensions for pair in x.textures)))

    def with_textures(self, change: Callable[[Texture], Texture | None]) -> "Material":
        """The material with every texture changed, and without those for which ``change`` gives None."""
        slots = tuple((slot, new) for slot, t in self.textures if (new := change(t)) is not None)
        extensions = tuple(
            replace(x, textures=tuple((key, new) for key, t in x.textures if (new := change(t)) is not None))
            for x in self.extensions
        )
        return replace(self, textures=slots, extensions=extensions)

    def texture(self, slot: TextureSlot) -> Texture | None:
        return dict(self.textures).get(slot)


@dataclass(frozen=True, slots=True)
class Part:
    """A named piece of the source with faces.

    ``path`` leads to it through parents and groups and is its own alone; ``object``, ``parent`` and ``group`` name what
    it goes with when a scene is split by objects, by parents or by groups. ``source_mesh`` is the same for instances of
    one mesh; ``is_flattened``: its node has a scale of 0 along an axis. ``origin`` is the object's own origin, in the
    scene's units and axes.
    """

    name: str
    path: str
    object: str = ""
    parent: str = ""
    group: str = ""
    is_hidden: bool = False
    source_mesh: str = ""
    is_mirrored: bool = False
    is_flattened: bool = False
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)


COLLISION_PROXY = "collision proxy"
"""Kind of a bystander that a prop was shipped with for physics."""


@dataclass(frozen=True, slots=True)
class Bystander:
    """Something in the source without faces: a light, a camera, an empty node ..."""

    name: str
    path: str
    kind: str


Axis = Literal["x", "y", "z"]


@dataclass(frozen=True, slots=True)
class Scene:
    """What a file holds, in its own units and axes.

    ``unit`` is metres per unit and ``up`` the axis that points up; ``says_unit`` tells whether the file says so itself.
    ``unused`` counts what is there and not used (cameras, lights, animations, lines ...).
    """

    name: str
    format: str
    mesh: Mesh
    parts: tuple[Part, ...]
    materials: tuple[Material, ...]
    images: tuple[Image, ...] = ()
    unused: tuple[tuple[str, int], ...] = ()
    findings: tuple[Finding, ...] = ()
    bystanders: tuple[Bystander, ...] = ()
    unused_materials: tuple[str, ...] = ()
    unit: float = 1.0
    up: Axis = "y"
    says_unit: bool = False


def is_flattening(linear: F64) -> bool:
    """Whether a (3, 3) matrix takes everything to a plane, a line or a point."""
    scales = np.linalg.svd(linear, compute_uv=False)
    return bool(scales[2] <= 1e-12 * scales[0])


def with_own_paths(parts: list[Part]) -> tuple[Part, ...]:
    """The parts with paths that are never the same: a repeated one is numbered."""
    seen: dict[str, int] = {}
    result = []
    for part in parts:
        seen[part.path] = seen.get(part.path, 0) + 1
        path = part.path if seen[part.path] == 1 else f"{part.path}#{seen[part.path]}"
        result.append(replace(part, path=path, object=path if part.object in ("", part.path) else part.object))
    return tuple(result)
