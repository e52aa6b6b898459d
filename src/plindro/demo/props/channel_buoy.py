"""A channel buoy: float, lattice tower, cone topmark and light."""

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, arc, around, bolt, box, lathe, tube

FAULT = "every painter used a material of his own: five where the budget is three"


def model() -> Model:
    buoy = Model("channel_buoy")
    hull = [
        (0.0, 0.0),
        (0.35, 0.02),
        (0.62, 0.12),
        (0.80, 0.30),
        (0.86, 0.46),
        (0.86, 0.60),
        (0.80, 0.70),
        (0.55, 0.76),
        (0.0, 0.80),
    ]
    buoy.add("float", "green_hull", lathe(hull, 64))
    buoy.add("fender", "rubber", tube(arc(0.88, 0, 360, 73, "xz")[:-1] + (0, 0.53, 0), 0.055, 14, closed=True))
    for k in range(4):
        a = np.radians(45 + 90 * k)
        foot = np.array([0.48 * np.cos(a), 0.74, 0.48 * np.sin(a)])
        head = np.array([0.20 * np.cos(a), 2.0, 0.20 * np.sin(a)])
        buoy.add(f"leg_{k}", "green_tower", tube(np.linspace(foot, head, 8), 0.03, 12))
        b = np.radians(135 + 90 * k)
        for i in range(4):
            t0, t1 = i / 4, (i + 1) / 4
            here = foot + (head - foot) * t0
            other = np.array([np.cos(b) * (0.48 - 0.28 * t1), 0.74 + 1.26 * t1, np.sin(b) * (0.48 - 0.28 * t1)])
            buoy.add("brace", "green_tower", tube(np.linspace(here, other, 4), 0.013, 8))
    for y, r in ((1.05, 0.41), (1.37, 0.34), (1.68, 0.27), (2.0, 0.20)):
        buoy.add("ring", "green_tower", tube(arc(r, 0, 360, 49, "xz")[:-1] + (0, y, 0), 0.016, 10, closed=True))
    buoy.add("platform", "galvanised", lathe([(0.0, 1.98), (0.27, 1.98), (0.27, 2.01), (0.0, 2.01)], 40))
    buoy.add(
        "lamp_base", "galvanised", lathe([(0.1, 2.01), (0.1, 2.06), (0.075, 2.08), (0.075, 2.11), (0.0, 2.11)], 32)
    )
    lens = (
        [(0.07, 2.11)] + [(0.075 + 0.012 * (i % 2), 2.115 + 0.014 * i) for i in range(11)] + [(0.06, 2.28), (0.0, 2.30)]
    )
    buoy.add("lens", "lens", lathe(lens, 40, creases=20))
    buoy.add("mast", "galvanised", tube(np.array([[0.16, 2.0, 0], [0.16, 2.3, 0], [0.16, 2.5, 0]]), 0.018, 12))
    buoy.add("topmark", "green_tower", lathe([(0.0, 2.48), (0.20, 2.48), (0.19, 2.50), (0.0, 2.88)], 40).moved(x=0.16))
    buoy.add("eyes", "galvanised", around(tube(arc(0.075, 0, 180, 14), 0.018, 10).moved(0.60, 0.74), 4))
    buoy.add("bolts", "galvanised", around(bolt(0.02, 0.025).moved(0.22, 2.01), 8))
    buoy.add("panels", "galvanised", around(box(0.30, 0.26, 0.02, 0.004).turned("x", -14).moved(0, 1.2, 0.40), 4))
    return buoy


def paints() -> dict[str, paint.Paint]:
    return {
        "green_hull": paint.iron(61, (0.09, 0.36, 0.24), rust=0.55),
        "green_tower": paint.iron(62, (0.10, 0.42, 0.27), rust=0.3),
        "galvanised": paint.steel(63),
        "rubber": paint.rubber(64),
        "lens": paint.glass(65, (0.35, 0.80, 0.55), 0.6),
    }
