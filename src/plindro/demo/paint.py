"""Painting texture sets with NumPy: colour, roughness and a height from which the normal map comes. All tile."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from PIL import Image as Pillow
from PIL import ImageDraw, ImageFilter, ImageFont

Field = NDArray[np.float64]
SIZE = 512


@dataclass(frozen=True, slots=True)
class Paint:
    """A material: (n, n, 3) sRGB colour in 0..1, (n, n) roughness and height, metal, opacity, metres a tile.

    alpha : (n, n) that the colour map carries; ``holes``, (n, n), is a map of its own, as is ``metal``
    green_down : the normal map is made for another engine; ``is_bump``: the height is handed over as it is, in 16 bits
    pixels : (width, height) of the maps where they are not square
    shared : what its files are called where several props have them
    """

    color: Field
    roughness: Field | None = None
    height: Field | None = None
    metallic: float = 0.0
    opacity: float = 1.0
    tile: float = 0.5
    glow: tuple[float, float, float] = (0.0, 0.0, 0.0)
    relief: float = 4.0
    extras: dict[str, str] = field(default_factory=dict)
    alpha: Field | None = None
    holes: Field | None = None
    metal: Field | None = None
    green_down: bool = False
    is_bump: bool = False
    pixels: tuple[int, int] | None = None
    shared: str = ""


def noise(cells: int, seed: int, *, octaves: int = 5, size: int = SIZE, stretch: tuple[int, int] = (1, 1)) -> Field:
    """Tiling fractal value noise in 0..1; ``stretch`` multiplies the cells along y and x."""
    rng = np.random.default_rng(seed)
    total, weight, result = 0.0, 1.0, np.zeros((size, size))
    for octave in range(octaves):
        ny, nx = (min(cells * 2**octave * s, size) for s in stretch)
        lattice = rng.random((ny, nx))
        y, x = np.arange(size) * ny / size, np.arange(size) * nx / size
        y0, x0 = y.astype(int), x.astype(int)
        fy, fx = (t * t * (3 - 2 * t) for t in (y - y0, x - x0))
        y1, x1 = (y0 + 1) % ny, (x0 + 1) % nx
        rows = lattice[:, x0] * (1 - fx) + lattice[:, x1] * fx
        result += weight * (rows[y0] * (1 - fy)[:, None] + rows[y1] * fy[:, None])
        total += weight
        weight *= 0.5
    return np.clip((result / total - 0.5) * 1.6 + 0.5, 0, 1)


def mix(a: Field | tuple[float, ...], b: Field | tuple[float, ...], t: Field) -> Field:
    """Colours ``a`` to ``b`` by a (n, n) field."""
    return np.asarray(a) * (1 - t[..., None]) + np.asarray(b) * t[..., None]


def steps(value: Field, low: float, high: float) -> Field:
    """0 below ``low``, 1 above ``high``, smooth between."""
    t = np.clip((value - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def normal_map(height: Field, relief: float) -> NDArray[np.uint8]:
    """Tangent-space normals of a tiling height, green upwards."""
    dx = (np.roll(height, -1, axis=1) - np.roll(height, 1, axis=1)) * relief
    dy = (np.roll(height, -1, axis=0) - np.roll(height, 1, axis=0)) * relief
    normal = np.stack([-dx, dy, np.ones_like(dx)], axis=-1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    return np.round(normal * 127.5 + 127.5).astype(np.uint8)


def netting() -> Paint:
    """Twine in a square mesh, with nothing between."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE * 8
    along, across = np.abs(x % 1.0 - 0.5), np.abs(y % 1.0 - 0.5)
    knot = np.hypot(along, across)
    there = np.clip((0.11 - np.minimum(np.minimum(along, across), knot * 0.55)) * 40 + 0.5, 0, 1)
    yarn = 0.5 + 0.5 * np.cos(2 * np.pi * (x * 6 + y * 6))
    return Paint(mix((0.30, 0.26, 0.18), (0.62, 0.55, 0.40), yarn), 0.9 + 0.0 * yarn, None, tile=0.29, holes=there)


def brass(seed: int, *, verdigris: float = 0.35) -> Paint:
    wear, spots, fine = noise(3, seed), noise(9, seed + 1), noise(40, seed + 2, octaves=3)
    color = mix((0.66, 0.50, 0.22), (0.45, 0.32, 0.13), wear)
    green = steps(spots, 0.78 - verdigris * 0.5, 0.98 - verdigris * 0.3)
    color = mix(color, (0.32, 0.47, 0.40), green * 0.8) * (0.92 + 0.16 * fine[..., None])
    return Paint(color, 0.28 + 0.35 * wear + 0.3 * green, 0.5 * fine + 0.4 * green, metallic=0.85, relief=0.9)


def iron(seed: int, tint: tuple[float, float, float], *, rust: float = 0.4) -> Paint:
    """Painted iron with chipped edges and rust running down."""
    spread, runs, fine = noise(4, seed), noise(3, seed + 1, stretch=(1, 6)), noise(48, seed + 2, octaves=3)
    chipped = steps(0.55 * spread + 0.3 * runs + 0.15 * fine, 0.82 - 0.26 * rust, 0.90 - 0.26 * rust)
    rusty = mix((0.32, 0.15, 0.07), (0.52, 0.28, 0.12), fine)
    stained = mix(np.asarray(tint) * (0.88 + 0.2 * runs[..., None]), (0.36, 0.24, 0.16), 0.35 * steps(runs, 0.5, 0.9))
    color = mix(stained, rusty, chipped)
    return Paint(
        color, 0.42 + 0.4 * chipped + 0.1 * fine, 0.35 * fine * chipped - 0.5 * chipped, metallic=0.0, relief=3.0
    )


def steel(seed: int) -> Paint:
    """Galvanised steel with its crystals."""
    crystals, fine = noise(14, seed, octaves=1), noise(60, seed + 1, octaves=2)
    color = mix((0.52, 0.55, 0.57), (0.70, 0.72, 0.73), np.round(crystals * 6) / 6)
    return Paint(color * (0.94 + 0.1 * fine[..., None]), 0.38 + 0.25 * crystals, 0.3 * fine, metallic=0.9, relief=1.0)


def wood(seed: int, tint: tuple[float, float, float] = (0.48, 0.36, 0.24)) -> Paint:
    """Weathered planks, grain along u."""
    warp, grain = noise(3, seed, stretch=(2, 1)), noise(4, seed + 1, stretch=(16, 1), octaves=4)
    rows = (np.arange(SIZE) / SIZE)[:, None]
    rings = 0.5 + 0.5 * np.sin(2 * np.pi * (rows * 9 + warp * 2.5))
    color = mix(np.asarray(tint) * 0.62, np.asarray(tint) * 1.18, 0.55 * grain + 0.45 * rings)
    grey = steps(noise(5, seed + 3), 0.45, 0.8)
    color = mix(color, (0.50, 0.48, 0.45), 0.55 * grey)
    return Paint(color, 0.72 + 0.2 * grain, 0.8 * grain + 0.3 * rings, relief=2.6)


def manila() -> Paint:
    """The rope of which all tackle is made, one texture set for every prop."""
    return replace(rope(153), shared="manila_rope")


def rope(seed: int, tint: tuple[float, float, float] = (0.66, 0.56, 0.38)) -> Paint:
    """Twisted yarn, strands across u."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    strands = 0.5 + 0.5 * np.cos(2 * np.pi * (x * 6 + y * 6))
    yarn = 0.5 + 0.5 * np.cos(2 * np.pi * (x * 42 - y * 18))
    dirt = noise(5, seed)
    color = mix(np.asarray(tint) * 0.5, np.asarray(tint) * 1.15, 0.6 * strands + 0.4 * yarn) * (
        0.75 + 0.4 * dirt[..., None]
    )
    return Paint(color, 0.85 + 0.1 * dirt, strands + 0.25 * yarn, tile=0.25, relief=5.0)


def rubber(seed: int) -> Paint:
    fine = noise(30, seed)
    return Paint(mix((0.07, 0.07, 0.08), (0.14, 0.14, 0.15), fine), 0.6 + 0.25 * fine, fine, relief=1.0)


def bands(seed: int, colors: list[tuple[float, float, float]], *, tile: float) -> Paint:
    """Painted bands along v, weathered."""
    rows = np.floor(np.arange(SIZE) / SIZE * len(colors)).astype(int)
    flat = np.asarray(colors)[rows][:, None, :].repeat(SIZE, axis=1)
    wear, fine = noise(5, seed), noise(50, seed + 1, octaves=3)
    color = mix(flat * (0.9 + 0.12 * fine[..., None]), (0.42, 0.30, 0.22), 0.7 * steps(wear, 0.68, 0.86))
    return Paint(color, 0.5 + 0.3 * wear, 0.4 * fine - 0.6 * steps(wear, 0.68, 0.86), tile=tile, relief=2.0)


def glass(seed: int, tint: tuple[float, float, float] = (0.80, 0.90, 0.90), opacity: float = 0.35) -> Paint:
    dust = noise(6, seed)
    return Paint(mix(tint, np.asarray(tint) * 0.85, dust), 0.06 + 0.2 * dust, None, opacity=opacity)


def flame() -> Paint:
    color = np.broadcast_to(np.array([1.0, 0.82, 0.45]), (64, 64, 3)).copy()
    return Paint(color, None, None, glow=(1.0, 0.72, 0.3))


def drawn(
    size: int, ground: tuple[int, int, int], draw: Callable[[ImageDraw.ImageDraw, int], None], seed: int
) -> Paint:
    """A picture drawn once over the unit square (a dial, a scale), slightly aged."""
    picture = Pillow.new("RGB", (size * 2, size * 2), ground)
    draw(ImageDraw.Draw(picture), size * 2)
    small = picture.resize((size, size), Pillow.Resampling.LANCZOS)
    color = np.asarray(small, float) / 255
    clouds = Pillow.fromarray((noise(4, seed) * 255).astype(np.uint8)).resize((size, size))
    age = np.asarray(clouds.filter(ImageFilter.GaussianBlur(1)), float) / 255
    return Paint(color * (0.86 + 0.16 * age[..., None]), 0.55 + 0.2 * age, None, tile=1.0)


def lettering(size: float) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    """A plain face at a size in pixels; it ships with Pillow."""
    return ImageFont.load_default(size)
