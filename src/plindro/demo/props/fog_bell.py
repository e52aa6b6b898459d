"""The fog bell: bronze on an iron yoke over an oak sill."""

import numpy as np

from plindro.demo import paint, shapes
from plindro.demo.shapes import Model, arc, bolt, box, lathe, tube

FAULT = "the clapper was turned inside out when it was mirrored"


def model() -> Model:
    bell = Model("fog_bell")
    t = np.linspace(0, 1, 30)
    outer = 0.115 + 0.215 * t**2.6 + 0.02 * np.sin(t * 5.0) + 0.03 * np.maximum(t - 0.86, 0) * 6
    height = 0.62 - 0.50 * t
    profile = [(0.0, 0.655), (0.05, 0.652), (0.10, 0.64), *zip(outer, height, strict=True)]
    inner = [(r - 0.024, y) for r, y in zip(outer, height, strict=True)][::-1]
    wall = [*profile[::-1]]
    rim = [(outer[-1] - 0.024, height[-1]), (outer[-1] - 0.012, height[-1] - 0.012), (outer[-1], height[-1])]
    inside = [*[(r, y) for r, y in inner[::-1]]]
    bell.add("bell_outside", "bronze", lathe(wall, 72))
    bell.add("bell_inside", "bronze", lathe([(0.0, 0.60), (0.06, 0.60), *inside], 72, group=20))
    bell.add("bell_rim", "bronze", lathe(rim, 72, group=40))
    for y, r in ((0.50, 0.147), (0.475, 0.150), (0.19, 0.263)):
        ring = np.concatenate([arc(r + 0.002, 0, 360, 73, "xz")[:-1]]) + (0, y, 0)
        bell.add(f"bead_{y * 1000:.0f}", "bronze", tube(ring, 0.007, 8, closed=True))
    crown = arc(0.055, 0, 180, 18)
    for i, turn in enumerate((0, 60, 120)):
        bell.add(f"canon_{i}", "bronze", tube(crown, 0.017, 12).moved(y=0.65).turned("y", turn))
    bell.add(
        "clapper",
        "iron",
        (
            lathe(
                [(0, 0.06), (0.03, 0.065), (0.052, 0.10), (0.03, 0.135), (0.013, 0.15), (0.013, 0.58), (0.0, 0.58)], 24
            )
        ).flipped(),
    )
    arch = np.concatenate([[[-0.40, 0.05, 0]], arc(0.40, 180, 0, 36) + (0, 0.42, 0), [[0.40, 0.05, 0]]])
    bell.add("yoke", "iron", tube(arch, 0.032, 16))
    bell.add("headstock", "iron", box(0.16, 0.09, 0.12, 0.012).moved(y=0.765))
    for side in (-1, 1):
        bell.add(f"foot_{'lr'[side > 0]}", "iron", box(0.15, 0.03, 0.17, 0.006).moved(0.40 * side, 0.055))
        for z in (-0.06, 0.06):
            for dx in (-0.05, 0.05):
                bell.add("bolt", "iron", bolt(0.012, 0.016).moved(0.40 * side + dx, 0.07, z))
    for z in (-0.11, 0.0, 0.11):
        bell.add("sill", "oak", box(1.06, 0.04, 0.102, 0.006).moved(0, 0.02, z))
    bell.add(
        "rope",
        "rope",
        tube(
            shapes.smooth_path([(0, 0.08, 0), (0.01, 0.05, 0.06), (0.03, 0.10, 0.2), (0.0, 0.06, 0.30)], 14),
            0.011,
            12,
            lobes=3,
            depth=0.25,
            twist=9,
        ),
    )
    return bell


def paints() -> dict[str, paint.Paint]:
    return {
        "bronze": paint.brass(11, verdigris=0.55),
        "iron": paint.iron(21, (0.16, 0.18, 0.20), rust=0.35),
        "oak": paint.wood(31),
        "rope": paint.manila(),
    }
