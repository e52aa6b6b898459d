"""The signal lamp: a ridged lens in a brass cage under a copper roof."""

from dataclasses import replace

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, arc, around, bolt, box, disc, lathe, tube

FAULT = "its lens asks for a frosting texture that was never delivered"


def _lens() -> list[tuple[float, float]]:
    """A ridged lens: a bull's-eye belt in the middle, prisms above and below, seen from outside."""
    profile = [(0.150, 0.20)]
    for i in range(7):
        y = 0.20 + i * 0.024
        profile += [(0.158 + 0.003 * i, y + 0.002), (0.150 + 0.003 * i, y + 0.023)]
    for t in np.linspace(-1, 1, 13):
        profile.append((0.176 + 0.022 * np.sqrt(max(1 - t * t, 0)), 0.42 + 0.045 * t))
    for i in range(7):
        y = 0.472 + i * 0.024
        profile += [(0.168 - 0.003 * i, y + 0.002), (0.176 - 0.003 * i, y + 0.023)]
    return profile


def model() -> Model:
    lamp = Model("signal_lamp")
    lamp.add("lens", "lens", lathe(_lens(), 96, creases=12))
    lamp.add(
        "burner", "brass", lathe([(0.0, 0.15), (0.05, 0.15), (0.05, 0.28), (0.025, 0.32), (0.025, 0.36), (0, 0.36)], 32)
    )
    lamp.add("flame", "flame", lathe([(0, 0.355), (0.02, 0.375), (0.026, 0.41), (0.014, 0.455), (0, 0.50)], 20))
    base = [
        (0.0, 0.0),
        (0.25, 0.0),
        (0.25, 0.025),
        (0.235, 0.04),
        (0.235, 0.09),
        (0.215, 0.105),
        (0.215, 0.16),
        (0.195, 0.175),
        (0.195, 0.195),
        (0.0, 0.195),
    ]
    lamp.add("base", "brass", lathe(base, 64))
    post = tube(np.array([[0.212, 0.17, 0], [0.212, 0.40, 0], [0.212, 0.665, 0]]), 0.010, 10)
    lamp.add("cage", "brass", around(post, 8))
    for y in (0.30, 0.42, 0.54):
        lamp.add("hoop", "brass", tube(arc(0.212, 0, 360, 65, "xz")[:-1] + (0, y, 0), 0.006, 8, closed=True))
    roof = [(0.0, 0.655), (0.235, 0.655), (0.245, 0.665), (0.245, 0.685)]
    roof += [(0.235 * np.cos(t) + 0.01, 0.685 + 0.15 * np.sin(t)) for t in np.linspace(0.05, 1.35, 14)]
    roof += [(0.06, 0.845), (0.06, 0.90), (0.085, 0.91), (0.085, 0.925), (0.03, 0.95), (0.0, 0.955)]
    lamp.add("roof", "copper", lathe(roof, 64))
    lamp.add("vent", "copper", around(box(0.012, 0.03, 0.02, 0.003).moved(0.066, 0.872), 12))
    lamp.add(
        "ball", "brass", lathe([(0.026 * np.sin(t), 0.972 - 0.026 * np.cos(t)) for t in np.linspace(0, np.pi, 14)], 24)
    )
    lamp.add("feet", "brass", around(bolt(0.016, 0.02).moved(0.236, 0.025), 6))
    lamp.add("handle", "brass", tube(arc(0.07, 20, 160, 20) + (0, 0.97, 0), 0.008, 10))
    lamp.add("plate", "brass", disc(0.12, 48).moved(y=0.197))
    return lamp


def paints() -> dict[str, paint.Paint]:
    lens = paint.glass(5, (0.72, 0.88, 0.84), 0.45)
    frosted = replace(lens, alpha=0.35 + 0.5 * paint.noise(5, 6))
    frosted.extras["map_Ke"] = "signal_lamp_frosting.png"
    return {
        "lens": frosted,
        "brass": paint.brass(12, verdigris=0.1),
        "copper": paint.brass(14, verdigris=0.9),
        "flame": paint.flame(),
    }
