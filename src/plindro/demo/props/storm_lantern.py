"""A storm lantern with its wire guard."""

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, arc, around, lathe, smooth_path, tube

FAULT = "file name with blanks and an accent; the guard's wires were duplicated in place"


def model() -> Model:
    lantern = Model("storm_lantern")
    tank = [
        (0.0, 0.0),
        (0.075, 0.0),
        (0.085, 0.008),
        (0.088, 0.03),
        (0.080, 0.052),
        (0.05, 0.066),
        (0.034, 0.07),
        (0.034, 0.085),
        (0.0, 0.085),
    ]
    lantern.add("tank", "tin", lathe(tank, 56))
    chimney = [(0.040, 0.088), (0.058, 0.115), (0.066, 0.15), (0.062, 0.185), (0.044, 0.222), (0.038, 0.24)]
    lantern.add("chimney", "glass", lathe(chimney, 48))
    lantern.add(
        "burner",
        "brass",
        lathe([(0.0, 0.085), (0.03, 0.085), (0.032, 0.095), (0.016, 0.112), (0.010, 0.118), (0.0, 0.118)], 36),
    )
    lantern.add("wick", "flame", lathe([(0.0, 0.115), (0.009, 0.128), (0.010, 0.142), (0.0, 0.172)], 16))
    hood = [
        (0.0, 0.238),
        (0.046, 0.238),
        (0.050, 0.244),
        (0.046, 0.262),
        (0.030, 0.270),
        (0.030, 0.288),
        (0.052, 0.292),
        (0.050, 0.300),
        (0.018, 0.322),
        (0.0, 0.326),
    ]
    lantern.add("hood", "tin", lathe(hood, 48))
    side = smooth_path(
        [
            (0.074, 0.045, 0),
            (0.100, 0.075, 0),
            (0.098, 0.16, 0),
            (0.092, 0.235, 0),
            (0.060, 0.282, 0),
            (0.034, 0.285, 0),
        ],
        9,
    )
    lantern.add("frame", "tin", around(tube(side, 0.0085, 14), 2))
    wires = smooth_path(
        [(0.052, 0.092, 0), (0.074, 0.125, 0), (0.080, 0.155, 0), (0.072, 0.195, 0), (0.050, 0.236, 0)], 6
    )
    guard = around(tube(wires, 0.0018, 6), 6).turned("y", 30)
    lantern.add("guard", "wire", guard)
    lantern.add("guard_copy", "wire", guard)
    for y, r in ((0.125, 0.0745), (0.155, 0.0805), (0.19, 0.0735)):
        lantern.add("guard_ring", "wire", tube(arc(r, 0, 360, 49, "xz")[:-1] + (0, y, 0), 0.0018, 6, closed=True))
    bail = arc(0.112, -8, 188, 40) + (0, 0.255, 0)
    lantern.add("bail", "wire", tube(bail, 0.003, 10))
    lantern.add(
        "cap",
        "brass",
        lathe([(0.0, 0.0), (0.014, 0.0), (0.014, 0.010), (0.0, 0.012)], 28).turned("z", -22).moved(0.052, 0.062, 0.03),
    )
    lantern.add("knob", "brass", tube(np.array([[0.03, 0.1, 0], [0.05, 0.1, 0], [0.058, 0.1, 0]]), 0.0025, 8))
    return lantern


def paints() -> dict[str, paint.Paint]:
    return {
        "tin": paint.iron(131, (0.52, 0.10, 0.08), rust=0.45),
        "glass": paint.glass(132, opacity=0.28),
        "brass": paint.brass(133),
        "wire": paint.steel(134),
        "flame": paint.flame(),
    }
