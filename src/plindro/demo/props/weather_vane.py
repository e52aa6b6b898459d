"""The weather vane: a fish over the four letters."""

from dataclasses import replace

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, Shape, lathe, prism, tube

FAULT = "deeply notched n-gons that a plain fan would cut outside the outline; its eyes have a fifth of the texture"

_N = [(0, 0), (0.2, 0), (0.2, 0.55), (0.6, 0), (0.8, 0), (0.8, 1), (0.6, 1), (0.6, 0.45), (0.2, 1), (0, 1)]
_E = [
    (0, 0),
    (0.7, 0),
    (0.7, 0.2),
    (0.2, 0.2),
    (0.2, 0.4),
    (0.6, 0.4),
    (0.6, 0.6),
    (0.2, 0.6),
    (0.2, 0.8),
    (0.7, 0.8),
    (0.7, 1),
    (0, 1),
]
_S = [
    (0, 0),
    (0.7, 0),
    (0.7, 0.6),
    (0.2, 0.6),
    (0.2, 0.8),
    (0.7, 0.8),
    (0.7, 1),
    (0, 1),
    (0, 0.4),
    (0.5, 0.4),
    (0.5, 0.2),
    (0, 0.2),
]
_W = [
    (0.25, 0),
    (0.42, 0),
    (0.5, 0.4),
    (0.58, 0),
    (0.75, 0),
    (1, 1),
    (0.8, 1),
    (0.66, 0.4),
    (0.56, 0.8),
    (0.44, 0.8),
    (0.34, 0.4),
    (0.2, 1),
    (0, 1),
]


def _fish() -> list[tuple[float, float]]:
    """A cod's outline, counter-clockwise from the lower lip."""
    t = np.linspace(0, 1, 26)
    back = 0.115 * np.sin(np.pi * t**0.8) * (1 - 0.25 * t)
    x = 0.46 - 0.80 * t
    belly = [(float(a), float(-0.95 * b)) for a, b in zip(x, back, strict=True)]
    top = [(float(a), float(b)) for a, b in zip(x, back, strict=True)][::-1]
    tail = [(-0.44, -0.15), (-0.405, 0.0), (-0.44, 0.15)]
    upper = []
    for a, b in top[1:-1]:
        fin = 0.07 if -0.22 < a < -0.08 or 0.0 < a < 0.16 else 0.0
        upper.append((a, b + fin * (0.6 + 0.4 * np.sin(a * 60))))
    outline = [*belly[:-1], *tail, *upper, (0.46, 0.012), (0.40, 0.0)]
    return outline[::-1]


def _coarse(shape: Shape) -> Shape:
    """UVs a fifth of their size: made last, and never scaled to the others."""
    return Shape(shape.points, shape.faces, [uv * 0.2 for uv in shape.uvs], shape.groups)


def model() -> Model:
    vane = Model("weather_vane")
    pole = [(0.0, 0.0), (0.12, 0.0), (0.12, 0.02), (0.05, 0.05), (0.022, 0.12), (0.020, 0.55)]
    pole += [(0.020 + 0.032 * np.sin(t), 0.59 - 0.04 * np.cos(t)) for t in np.linspace(0.2, 2.9, 12)]
    pole += [(0.018, 0.64), (0.016, 1.02)]
    pole += [(0.016 + 0.02 * np.sin(t), 1.04 - 0.02 * np.cos(t)) for t in np.linspace(0.2, 2.9, 8)]
    pole += [(0.012, 1.07), (0.010, 1.28), (0.0, 1.30)]
    vane.add("pole", "iron", lathe(pole, 32))
    for letter, outline, turn in (("E", _E, 0), ("N", _N, 90), ("W", _W, 180), ("S", _S, 270)):
        arm = np.stack([np.linspace(0.02, 0.36, 6), np.full(6, 0.80), np.zeros(6)], axis=1)
        vane.add(f"arm_{letter}", "iron", tube(arm, 0.010, 12).turned("y", turn))
        plate = prism(outline if letter != "S" else outline[::1], 0.012).moved(-0.4, -0.5).scaled(0.13, 0.15, 1.0)
        vane.add(f"letter_{letter}", "gilt", plate.moved(0.42, 0.80).turned("y", turn))
    vane.add("fish", "gilt", prism(_fish(), 0.022).moved(y=1.17))
    for s in (-1, 1):
        eye = lathe([(0.0, 0.0), (0.012, 0.0), (0.009, 0.006), (0.0, 0.008)], 16).turned("x", 90 * s)
        vane.add("eye", "iron", _coarse(eye.moved(0.36, 1.19, 0.011 * s)))
    curl = np.linspace(0, 1.6 * 2 * np.pi, 60)
    for turn in range(0, 360, 90):
        r = 0.10 * (1 - curl / curl[-1] * 0.75)
        path = np.stack([0.13 + r * np.cos(curl + np.pi), 0.70 - r * np.sin(curl + np.pi), np.zeros(60)], axis=1)
        vane.add("scroll", "iron", tube(path, 0.008, 10).turned("y", turn + 45))
    return vane


def paints() -> dict[str, paint.Paint]:
    gilt = paint.brass(82, verdigris=0.4)
    # Where it turned green it is metal no more.
    bare = 1.0 - paint.steps(gilt.color[..., 2] - gilt.color[..., 0], -0.25, 0.05)
    return {"iron": paint.iron(81, (0.10, 0.11, 0.12), rust=0.3), "gilt": replace(gilt, metal=bare)}
