"""Small props with textures, made up, whose colours and bumps are smooth."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from plindro.core.files.gltf.writer import write_glb
from plindro.core.mesh.mesh import Mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.scene import Image, Material, Part, Texture, TextureSlot
from plindro.core.textures.images import encode
from tests.core.made_images import IMAGES
from tests.shapes import wavy_sheet


def ramp(name: str, size: int, seed: int, low: int = 40, high: int = 215) -> Image:
    """A smooth picture that tiles, another for each seed."""
    y, x = np.mgrid[0:size, 0:size] * (2 * np.pi / size)
    phase = np.random.default_rng(seed).uniform(0, 6, 6)
    waves = [np.sin(x + phase[c]) * np.cos(y + phase[3 + c]) for c in range(3)]
    values = (low + high) / 2 + (high - low) / 2 * np.stack(waves, axis=2)
    return encode(name, values.round().astype(np.uint8))


def bumps(name: str, size: int) -> Image:
    """Normals of waves that tile."""
    y, x = np.mgrid[0:size, 0:size] * (2 * np.pi / size)
    normal = np.stack([0.5 * np.sin(x), 0.3 * np.cos(y), np.ones_like(x)], axis=2)
    normal /= np.linalg.norm(normal, axis=2, keepdims=True)
    return encode(name, (127.5 + 127.5 * normal).round().astype(np.uint8))


def from_above(mesh: Mesh, scale: float) -> Mesh:
    at = mesh.positions[mesh.corner_vertex][:, [0, 2]]
    return replace(mesh, uvs=(((at - at.min(axis=0)) / np.ptp(at, axis=0) * scale).astype(np.float32),))


def painted(name: str, seed: int, scale: float = 0.9, **maps: Image) -> Prop:
    """A wavy sheet, seen from above, with a colour map and others."""
    mesh = from_above(triangulate(wavy_sheet(8, seed=seed)).mesh, scale)
    images = (ramp(f"{name}_color", 128, seed), *maps.values())
    slots: dict[str, TextureSlot] = {"normal": "normal", "surface": "metallic_roughness"}
    textures = (("base_color", Texture(0)), *((slots[kind], Texture(1 + k)) for k, kind in enumerate(maps)))
    return Prop(name, mesh, (Part(name, name),), (Material(name, textures=textures),), images)  # type: ignore[arg-type]


def painted_glb(
    *, factors: Mapping[str, Any] | None = None, transform: Mapping[str, Any] | None = None, rings: int = 6
) -> bytes:
    """A wavy sheet as GLB with a colour, a normal and a metallic-roughness map of 96 × 96."""
    maps: dict[TextureSlot, Image] = {
        "base_color": encode("color.png", np.ascontiguousarray(IMAGES["colours"][..., :3])),
        "normal": encode("normal.png", np.ascontiguousarray(IMAGES["normals"][..., :3])),
        "metallic_roughness": encode("rough.png", np.ascontiguousarray(IMAGES["colours"][..., [0, 1, 0]])),
    }
    move = tuple(sorted((key, tuple(value)) for key, value in (transform or {}).items()))
    textures = tuple((slot, Texture(number, transform=move)) for number, slot in enumerate(maps))
    given = factors or {}
    material = Material(
        "painted",
        base_color=tuple(given.get("baseColorFactor", (1.0, 1.0, 1.0, 1.0))),
        roughness=given.get("roughnessFactor", 1.0),
        textures=textures,
    )
    mesh = from_above(triangulate(wavy_sheet(rings, seed=3)).mesh, 0.9)
    prop = Prop("painted", mesh, (Part("painted", "painted"),), (material,), tuple(maps.values()))
    return write_glb(replace(prop, levels=(Level(0, mesh, "painted_LOD0"),)))
