"""A mooring bollard with a hawser thrown round it."""

from dataclasses import replace

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, around, bolt, lathe, prism, smooth_path, tube

FAULT = "modelled on top of a quay that was not exported: the pivot lies below it"


def model() -> Model:
    bollard = Model("mooring_bollard")
    post = [
        (0.0, 0.03),
        (0.30, 0.03),
        (0.30, 0.055),
        (0.235, 0.075),
        (0.20, 0.12),
        (0.185, 0.25),
        (0.185, 0.42),
        (0.20, 0.50),
    ]
    post += [(0.235 + 0.05 * np.sin(t), 0.555 - 0.05 * np.cos(t)) for t in np.linspace(0.3, 2.6, 9)]
    post += [(0.20, 0.635), (0.10, 0.665), (0.0, 0.672)]
    bollard.add("post", "iron", lathe(post, 56))
    angles = np.radians(np.arange(8) * 45 + 22.5)
    plate = np.stack([0.42 * np.cos(angles), 0.42 * np.sin(angles)], axis=1)
    bollard.add("plate", "iron", prism(plate, 0.03).turned("x", -90).moved(y=0.015))
    bollard.add("bolts", "iron", around(bolt(0.022, 0.028).moved(0.36, 0.03), 8))
    bollard.add(
        "horn", "iron", tube(np.array([[-0.36, 0.36, 0], [-0.2, 0.36, 0], [0.2, 0.36, 0], [0.36, 0.36, 0]]), 0.045, 20)
    )
    turns = np.linspace(0, 3.3 * 2 * np.pi, 170)
    r = 0.226 + 0.004 * np.sin(turns * 1.3)
    coil = np.stack([r * np.cos(turns), 0.15 + 0.026 * turns / 2.2, -r * np.sin(turns)], axis=1)
    tail = smooth_path(
        [
            tuple(coil[-1]),
            (-0.30, 0.30, 0.26),
            (-0.20, 0.12, 0.50),
            (0.08, 0.055, 0.56),
            (0.42, 0.052, 0.40),
            (0.62, 0.05, 0.55),
        ],
        14,
    )
    hawser = np.concatenate([coil, tail[2:]])
    bollard.add("hawser", "rope", tube(hawser, 0.036, 18, lobes=3, depth=0.22, twist=22))
    bollard.objects = [(n, m, s.moved(y=0.42)) for n, m, s in bollard.objects]
    return bollard


def paints() -> dict[str, paint.Paint]:
    return {"iron": replace(paint.iron(51, (0.13, 0.15, 0.17), rust=0.7), is_bump=True), "rope": paint.rope(52)}
