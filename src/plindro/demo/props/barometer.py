"""The barometer from the keeper's room."""

from dataclasses import replace

import numpy as np
from PIL import ImageDraw

from plindro.demo import paint
from plindro.demo.shapes import Model, Shape, arc, disc, lathe, prism, tube

FAULT = "the dial is 500 × 500 pixels, no power of two"

_WORDS = ("STORM", "RAIN", "CHANGE", "FAIR", "DRY")


def _dial(draw: ImageDraw.ImageDraw, size: int) -> None:
    ink = (28, 30, 40)
    middle = size / 2
    for i in range(61):
        angle = np.radians(225 - i * 4.5)
        length = 0.045 if i % 5 else 0.085
        inner, outer = 0.42 * size, (0.42 - length) * size
        ends = [(middle + r * np.cos(angle), middle - r * np.sin(angle)) for r in (inner, outer)]
        draw.line([*ends[0], *ends[1]], fill=ink, width=size // (300 if i % 5 else 150))
    figures = paint.lettering(size * 0.045)
    for i in range(0, 61, 10):
        angle = np.radians(225 - i * 4.5)
        at = (middle + 0.295 * size * np.cos(angle), middle - 0.295 * size * np.sin(angle))
        draw.text(at, str(950 + i * 2), fill=ink, font=figures, anchor="mm")
    words = paint.lettering(size * 0.036)
    for i, word in enumerate(_WORDS):
        angle = np.radians(205 - i * 57.5)
        at = (middle + 0.185 * size * np.cos(angle), middle - 0.185 * size * np.sin(angle))
        draw.text(at, word, fill=(120, 30, 30), font=words, anchor="mm")
    draw.text((middle, size * 0.70), "SKERRY LIGHT", fill=ink, font=paint.lettering(size * 0.042), anchor="mm")
    draw.ellipse([size * 0.06, size * 0.06, size * 0.94, size * 0.94], outline=ink, width=size // 160)


def _face(radius: float, sides: int) -> Shape:
    """The dial as one n-gon whose UVs fill the square once."""
    shape = disc(radius, sides).turned("x", 90)
    uv = shape.points[:, :2] / (2 * radius) + 0.5
    return Shape(shape.points, shape.faces, [uv], shape.groups)


def model() -> Model:
    barometer = Model("barometer")
    case = [
        (0.0, -0.03),
        (0.112, -0.03),
        (0.125, -0.022),
        (0.13, 0.0),
        (0.126, 0.03),
        (0.115, 0.042),
        (0.104, 0.044),
        (0.100, 0.034),
        (0.098, 0.012),
    ]
    barometer.add("case", "brass", lathe(case, 80).turned("x", 90))
    barometer.add("dial", "dial", _face(0.099, 80).moved(z=0.013))
    hand = [
        (-0.035, -0.004),
        (0.0, -0.003),
        (0.062, -0.002),
        (0.085, 0.0),
        (0.062, 0.002),
        (0.0, 0.003),
        (-0.035, 0.004),
        (-0.045, 0.010),
        (-0.050, 0.0),
        (-0.045, -0.010),
    ]
    barometer.add("hand", "blued", prism(hand, 0.0015).turned("z", 118).moved(z=0.020))
    barometer.add("hand_set", "brass", prism(hand, 0.0015).scaled(0.95).turned("z", 72).moved(z=0.025))
    barometer.add(
        "knob",
        "brass",
        lathe([(0.0, 0.0), (0.007, 0.0), (0.007, 0.012), (0.0, 0.014)], 24).turned("x", 90).moved(z=0.018),
    )
    barometer.add("glass", "glass", lathe([(0.0, 0.046), (0.05, 0.0435), (0.100, 0.036)][::-1], 64).turned("x", 90))
    barometer.add("loop", "brass", tube(arc(0.02, 0, 360, 33)[:-1] + (0, 0.148, 0), 0.004, 12, closed=True))
    barometer.add("lug", "brass", tube(np.array([[0, 0.122, 0], [0, 0.128, 0], [0, 0.134, 0]]), 0.008, 16))
    t = np.linspace(0, 2 * np.pi, 49)[:-1]
    shield = np.stack(
        [0.165 * np.cos(t) * (1 + 0.03 * np.cos(6 * t)), 0.165 * np.sin(t) * (1 + 0.03 * np.cos(6 * t))], axis=1
    )
    barometer.add("board", "mahogany", prism(shield, 0.02).moved(z=-0.036))
    barometer.add("beading", "mahogany", tube(arc(0.145, 0, 360, 97)[:-1] + (0, 0, -0.024), 0.006, 10, closed=True))
    barometer.objects = [(n, m, s.moved(y=0.175)) for n, m, s in barometer.objects]
    return barometer


def paints() -> dict[str, paint.Paint]:
    mahogany = paint.wood(114, (0.36, 0.17, 0.10))
    return {
        "brass": paint.brass(111, verdigris=0.0),
        "dial": paint.drawn(500, (238, 230, 208), _dial, 112),
        "blued": paint.Paint(np.full((64, 64, 3), (0.05, 0.07, 0.16)), np.full((64, 64), 0.3), metallic=0.6),
        "glass": paint.glass(113, opacity=0.18),
        "mahogany": replace(mahogany, alpha=np.ones_like(mahogany.color[..., 0])),
    }
