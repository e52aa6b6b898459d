"""A source as it was read: one polygon mesh with parts, materials, images, and what else the file holds."""

import hashlib
from dataclasses import dataclass, field
from typing import Any, Literal

from plindro.core.findings import Finding
from plindro.core.mesh.mesh import Mesh

TextureSlot = Literal["base_color", "normal", "metallic_roughness", "occlusion", "emissive"]
TEXTURE_SLOTS: tuple[TextureSlot, ...] = ("base_color", "normal", "metallic_roughness", "occlusion", "emissive")


@dataclass(frozen=True, slots=True)
class Image:
    """An image as the source holds it: encoded bytes, media type and pixel size."""

    name: str
    data: bytes = field(repr=False)
    media_type: str
    width: int
    height: int

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
class Material:
    """A metallic-roughness material; colours linear, as in glTF 2.0."""

    name: str
    base_color: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    metallic: float = 1.0
    roughness: float = 1.0
    emissive: tuple[float, float, float] = (0.0, 0.0, 0.0)
    alpha_mode: Literal["OPAQUE", "MASK", "BLEND"] = "OPAQUE"
    alpha_cutoff: float = 0.5
    double_sided: bool = False
    textures: tuple[tuple[TextureSlot, Texture], ...] = ()

    def texture(self, slot: TextureSlot) -> Texture | None:
        return dict(self.textures).get(slot)


@dataclass(frozen=True, slots=True)
class Part:
    """A named piece of the source; ``path`` leads to it through parents and groups."""

    name: str
    path: str


@dataclass(frozen=True, slots=True)
class Scene:
    """What a file holds. ``unused`` counts what is there and not used (cameras, lights, animations, lines ...)."""

    name: str
    format: str
    mesh: Mesh
    parts: tuple[Part, ...]
    materials: tuple[Material, ...]
    images: tuple[Image, ...] = ()
    unused: tuple[tuple[str, int], ...] = ()
    findings: tuple[Finding, ...] = ()
