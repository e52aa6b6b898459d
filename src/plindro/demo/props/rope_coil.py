"""A coil of rope on the landing, every strand modelled."""

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, disc, smooth_path, tube

FAULT = "each strand is geometry: far over the triangle budget for what it is"


def model() -> Model:
    coil = Model("rope_coil")
    rng = np.random.default_rng(4)
    layers = []
    for layer, (turns, start) in enumerate(((4, 0.40), (3, 0.37), (2, 0.34))):
        angle = np.linspace(0, turns * 2 * np.pi, turns * 64)
        inward = start - 0.05 * angle / (2 * np.pi)
        wobble = 0.006 * np.sin(angle * 2.3 + layer) + 0.004 * np.sin(angle * 5.1)
        r = inward + wobble
        y = 0.028 + layer * 0.047 + 0.003 * np.sin(angle * 3.7)
        turn = angle if layer % 2 == 0 else -angle
        layers.append(np.stack([r * np.cos(turn), y, r * np.sin(turn)], axis=1))
    for i, path in enumerate(layers):
        coil.add(f"layer_{i}", "manila", tube(path, 0.026, 18, lobes=3, depth=0.28, twist=2.2 * len(path) / 16))
    end = smooth_path(
        [
            (0.40, 0.03, 0.0),
            (0.46, 0.03, 0.16),
            (0.36, 0.03, 0.38),
            (0.10, 0.03, 0.52),
            (-0.2, 0.03, 0.50),
            (-0.34, 0.03, 0.62),
        ],
        18,
    )
    coil.add("end", "manila", tube(end, 0.026, 18, lobes=3, depth=0.28, twist=13))
    ties = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    for k in range(3):
        a = np.radians(40 + 120 * k)
        ring = np.stack(
            [0.12 * np.cos(ties) + 0.29, 0.085 * np.sin(ties) + 0.088, 0.012 * np.sin(ties * 2 + k)], axis=1
        )
        c, s = np.cos(a), np.sin(a)
        turned = ring @ np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]]).T
        coil.add(
            f"tie_{k}",
            "tarred",
            tube(turned, 0.009 + 0.001 * rng.random(), 10, closed=True, lobes=2, depth=0.2, twist=12),
        )
    # A net that was thrown over its side, cut out of one flat face.
    coil.add("net", "net", disc(0.62, 40).moved(x=0.3, y=0.002, z=-0.2))
    return coil


def paints() -> dict[str, paint.Paint]:
    return {
        "manila": paint.rope(71, (0.70, 0.58, 0.36)),
        "tarred": paint.rope(72, (0.22, 0.17, 0.12)),
        "net": paint.netting(),
    }
