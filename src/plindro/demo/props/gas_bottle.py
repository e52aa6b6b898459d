"""A gas bottle for the lamp, with collar and valve."""

from dataclasses import replace

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, Shape, arc, around, bolt, lathe, tube

FAULT = "its valve was modelled last and never unwrapped"


def _unwrapped(shape: Shape) -> Shape:
    """All UVs in one spot, as before an unwrap."""
    return Shape(shape.points, shape.faces, [uv * 0 for uv in shape.uvs], shape.groups)


def model() -> Model:
    bottle = Model("gas_bottle")
    body = [
        (0.0, 0.045),
        (0.06, 0.045),
        (0.115, 0.055),
        (0.145, 0.09),
        (0.15, 0.13),
        (0.15, 0.30),
        (0.153, 0.305),
        (0.153, 0.325),
        (0.15, 0.33),
        (0.15, 0.47),
    ]
    body += [(0.15 * np.cos(t), 0.47 + 0.11 * np.sin(t)) for t in np.linspace(0.12, 1.40, 14)] + [
        (0.022, 0.584),
        (0.0, 0.584),
    ]
    bottle.add("body", "banded", lathe(body, 64))
    bottle.add(
        "foot",
        "grey",
        lathe([(0.118, 0.0), (0.124, 0.0), (0.124, 0.085), (0.118, 0.085), (0.118, 0.0)], 64, creases=30),
    )
    neck = [(0.0, 0.575), (0.034, 0.58), (0.034, 0.60), (0.0, 0.605)]
    bottle.add("neck", "grey", lathe(neck, 32))
    wall = []
    for r in (0.085, 0.092):
        wall.append(tube(arc(r, 30, 330, 60, "xz") + (0, 0.69, 0), 0.007, 10))
    bottle.add("collar_rim", "grey", wall[1])
    posts = [
        tube(
            np.array(
                [
                    [0.088 * np.cos(a), 0.54, 0.088 * np.sin(a)],
                    [0.09 * np.cos(a), 0.62, 0.09 * np.sin(a)],
                    [0.092 * np.cos(a), 0.69, 0.092 * np.sin(a)],
                ]
            ),
            0.009,
            10,
        )
        for a in np.radians((45, 120, 180, 240, 315))
    ]
    for i, post in enumerate(posts):
        bottle.add(f"collar_post_{i}", "grey", post)
    valve = lathe([(0.0, 0.60), (0.018, 0.60), (0.018, 0.65), (0.014, 0.66), (0.014, 0.675), (0.0, 0.675)], 24)
    wheel = tube(arc(0.030, 0, 360, 33, "xz")[:-1] + (0, 0.685, 0), 0.007, 10, closed=True)
    spokes = around(tube(np.array([[0.004, 0.685, 0], [0.016, 0.685, 0], [0.030, 0.685, 0]]), 0.004, 8), 5)
    outlet = tube(np.array([[0.010, 0.63, 0], [0.03, 0.63, 0], [0.052, 0.63, 0]]), 0.011, 16)
    bottle.add("valve", "brass", _unwrapped(valve + wheel + spokes + outlet))
    bottle.add("nut", "brass", _unwrapped(bolt(0.014, 0.016).turned("z", -90).moved(0.050, 0.63)))
    bottle.add("weld", "grey", tube(arc(0.1515, 0, 360, 97, "xz")[:-1] + (0, 0.40, 0), 0.004, 8, closed=True))
    return bottle


def paints() -> dict[str, paint.Paint]:
    return {
        "banded": paint.bands(
            121, [(0.66, 0.13, 0.10), (0.66, 0.13, 0.10), (0.86, 0.84, 0.78), (0.66, 0.13, 0.10)], tile=0.82
        ),
        "grey": replace(paint.iron(122, (0.42, 0.44, 0.46), rust=0.25), pixels=(1000, 600)),
        "brass": paint.brass(123, verdigris=0.2),
    }
