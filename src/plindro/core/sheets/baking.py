"""The maps of a sheet: every kind together, each pixel what its piece's material shows there."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F32, I64, Mask
from plindro.core.numeric.srgb import to_linear, to_srgb
from plindro.core.scene import Image, Material, Texture, TextureSlot
from plindro.core.sheets.filling import nearest_covered
from plindro.core.sheets.placing import Placement
from plindro.core.sheets.sampling import sample
from plindro.core.textures.images import decode, encode
from plindro.core.textures.pixels import to_bytes


@dataclass(frozen=True, slots=True)
class Painter:
    """Whose texture a piece has: the material, the images of its prop, and whether its maps repeat."""

    material: Material
    images: tuple[Image, ...]
    repeats: bool


@dataclass(frozen=True, slots=True)
class Baked:
    """The sheet's maps, and the material that reads them, whose textures number these."""

    images: tuple[Image, ...]
    material: Material


class _Canvas:
    """A sheet on which one kind of map after the other is drawn."""

    def __init__(self, placement: Placement, painters: Sequence[Painter]) -> None:
        self.placement, self.painters = placement, painters
        self.owner = placement.owner
        self.covered: Mask = self.owner >= 0
        self._nearest: tuple[I64, I64] | None = None
        self._to_uv = np.array([placed.to_uv for placed in placement.placed]).reshape(-1, 2, 3)
        self.turn = np.array([placed.turn for placed in placement.placed]).reshape(-1, 2)

    def filled(self, values: F32) -> F32:
        """The values with pixels of no piece like the nearest of one."""
        if self._nearest is None:
            self._nearest = nearest_covered(self.covered)
        return values[self._nearest]

    def per_piece(self, value: Callable[[Material], object]) -> F32:
        """(N, C) a value of each piece's material."""
        return np.array([value(painter.material) for painter in self.painters], np.float32).reshape(
            len(self.painters), -1
        )

    def spread(self, values: F32) -> F32:
        """(H, W, C) values of pieces at their pixels."""
        return values[np.maximum(self.owner, 0)]

    def drawn(self, slot: TextureSlot, default: F32, prepare: Callable[[F32, Texture], F32]) -> F32:
        """(H, W, C) a slot's textures, or the default where a material has none. ``prepare`` makes C numbers of what an
        image holds, 0 to 1."""
        out = np.zeros((*self.owner.shape, len(default)), np.float32)
        users: dict[tuple[bytes, Texture], list[int]] = {}
        bare = []
        for number, painter in enumerate(self.painters):
            texture = painter.material.texture(slot)
            if texture is None:
                bare.append(number)
            else:
                users.setdefault((painter.images[texture.image].data, texture), []).append(number)
        for (_, texture), numbers in users.items():
            painter = self.painters[numbers[0]]
            values = decode(painter.images[texture.image])
            numbers_read = values.astype(np.float32) / np.float32(np.iinfo(values.dtype).max)
            chosen = np.zeros(len(self.painters), bool)
            chosen[numbers] = True
            sample(self.owner, chosen, self._to_uv, prepare(numbers_read, texture), painter.repeats, out)
        if bare:
            out[np.isin(self.owner, bare)] = default
        return out


def _channels(values: F32, count: int) -> F32:
    """(h, w, count) of grey, grey with alpha, RGB or RGBA; alpha is 1 where there is none."""
    height, width, has = values.shape
    colour = np.repeat(values[:, :, :1], 3, axis=2) if has < 3 else values[:, :, :3]
    if count == 3:
        return colour
    alpha = values[:, :, -1:] if has in (2, 4) else np.ones((height, width, 1), np.float32)
    return np.concatenate([colour, alpha], axis=2)


def _differs(values: F32) -> bool:
    return bool(np.ptp(values, axis=0).max(initial=0.0) > 0)


def _has(painters: Sequence[Painter], slot: TextureSlot) -> bool:
    return any(painter.material.texture(slot) is not None for painter in painters)


def _base_color(canvas: _Canvas, has_alpha: bool) -> F32:
    """(H, W, 3 or 4) sRGB with straight alpha. Colours are averaged by how much of them is seen."""

    def prepare(values: F32, texture: Texture) -> F32:
        rgba = _channels(values, 4)
        alpha = rgba[:, :, 3:] if has_alpha else np.ones_like(rgba[:, :, 3:])
        return np.concatenate([to_linear(rgba[:, :, :3]) * alpha, alpha], axis=2)

    drawn = canvas.drawn("base_color", np.ones(4, np.float32), prepare)
    factor = canvas.spread(canvas.per_piece(lambda material: material.base_color))
    alpha = np.maximum(drawn[:, :, 3:], 0.0)
    colour = np.where(alpha > 1e-4, drawn[:, :, :3] / np.maximum(alpha, 1e-4), 0.0) * factor[:, :, :3]
    rgb = to_srgb(colour.astype(np.float32))
    made = np.concatenate([rgb, alpha * factor[:, :, 3:]], axis=2) if has_alpha else rgb
    return canvas.filled(made.astype(np.float32))


def _normals(canvas: _Canvas) -> F32:
    """(H, W, 3) normals turned with their pieces, of unit length."""

    def prepare(values: F32, texture: Texture) -> F32:
        normal = 2.0 * _channels(values, 3) - 1.0
        normal[:, :, :2] *= texture.strength
        return normal / np.maximum(np.linalg.norm(normal, axis=2, keepdims=True), 1e-6)

    drawn = canvas.drawn("normal", np.array([0.0, 0.0, 1.0], np.float32), prepare)
    turn = canvas.spread(canvas.turn.astype(np.float32))
    x, y = drawn[:, :, 0], drawn[:, :, 1]
    turned = np.stack(
        [turn[:, :, 0] * x - turn[:, :, 1] * y, turn[:, :, 1] * x + turn[:, :, 0] * y, drawn[:, :, 2]], axis=2
    )
    unit = turned / np.maximum(np.linalg.norm(turned, axis=2, keepdims=True), 1e-6)
    return canvas.filled((0.5 + 0.5 * unit).astype(np.float32))


def _surface(canvas: _Canvas) -> F32:
    """(H, W, 3) occlusion, roughness, metallic."""

    def occlusion(values: F32, texture: Texture) -> F32:
        return 1.0 + np.float32(texture.strength) * (values[:, :, :1] - 1.0)

    def rough(values: F32, texture: Texture) -> F32:
        return _channels(values, 3)[:, :, 1:]

    occluded = canvas.drawn("occlusion", np.ones(1, np.float32), occlusion)
    drawn = canvas.drawn("metallic_roughness", np.ones(2, np.float32), rough)
    factor = canvas.spread(canvas.per_piece(lambda material: (material.roughness, material.metallic)))
    return canvas.filled(np.concatenate([occluded, drawn * factor], axis=2).astype(np.float32))


def _emissive(canvas: _Canvas) -> F32:
    """(H, W, 3) sRGB; what is brighter than 1 is cut off there."""

    def prepare(values: F32, texture: Texture) -> F32:
        return to_linear(_channels(values, 3))

    drawn = canvas.drawn("emissive", np.ones(3, np.float32), prepare)
    factor = canvas.spread(canvas.per_piece(lambda material: material.emissive))
    return canvas.filled(to_srgb((drawn * factor).astype(np.float32)))


def bake(name: str, placement: Placement, painters: Sequence[Painter], step: Callable[[float, str], None]) -> Baked:
    """The maps of a sheet and its material. A kind of map that says the same everywhere is left out."""
    canvas = _Canvas(placement, painters)
    first = painters[0].material
    images: list[Image] = []
    textures: list[tuple[TextureSlot, Texture]] = []

    def add(kind: str, values: F32, *slots: TextureSlot) -> None:
        images.append(encode(f"{name}_{kind}.png", to_bytes(values)))
        textures.extend((slot, Texture(len(images) - 1)) for slot in slots)

    values = {
        "base_color": first.base_color, "emissive": first.emissive, "metallic": first.metallic,
        "roughness": first.roughness,
    }  # fmt: skip
    step(0.0, "colour")
    if _has(painters, "base_color") or _differs(canvas.per_piece(lambda m: m.base_color)):
        has_alpha = any(painter.material.alpha_mode != "OPAQUE" for painter in painters)
        add("color", _base_color(canvas, has_alpha), "base_color")
        values["base_color"] = (1.0, 1.0, 1.0, 1.0)
    step(0.4, "normals")
    if _has(painters, "normal"):
        add("normal", _normals(canvas), "normal")
    step(0.6, "surface")
    has_occlusion = _has(painters, "occlusion")
    factors = canvas.per_piece(lambda m: (m.metallic, m.roughness))
    if has_occlusion or _has(painters, "metallic_roughness") or _differs(factors):
        slots: tuple[TextureSlot, ...] = (
            ("occlusion", "metallic_roughness") if has_occlusion else ("metallic_roughness",)
        )
        add("surface", _surface(canvas), *slots)
        values["metallic"] = values["roughness"] = 1.0
    step(0.8, "light")
    emissive = canvas.per_piece(lambda m: m.emissive)
    if emissive.any() and (_has(painters, "emissive") or _differs(emissive)):
        add("emissive", _emissive(canvas), "emissive")
        values["emissive"] = (1.0, 1.0, 1.0)
    step(1.0, "light")
    return Baked(tuple(images), Material(name=name, textures=tuple(textures), **values))  # type: ignore[arg-type]
