"""The life ring with its grab line: the one prop with nothing wrong."""

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, arc, tube

FAULT = "nothing"


def model() -> Model:
    ring = Model("life_ring")
    hoop = arc(0.29, 0, 360, 97)[:-1]
    ring.add("ring", "painted", tube(hoop, 0.075, 28, closed=True))
    for k in range(4):
        a = np.radians(45 + 90 * k)
        band = np.linspace(0, 2 * np.pi, 29)[:-1]
        r = 0.29 + 0.079 * np.cos(band)
        loop = np.stack([r * np.cos(a), r * np.sin(a), 0.079 * np.sin(band)], axis=1)
        ring.add(f"band_{k}", "webbing", tube(loop, 0.008, 8, closed=True))
        t = np.linspace(0, 1, 40)
        angle = a + t * np.pi / 2
        slack = 0.372 + 0.055 * np.sin(np.pi * t)
        line = np.stack([slack * np.cos(angle), slack * np.sin(angle), 0.015 * np.sin(4 * np.pi * t)], axis=1)
        ring.add(f"line_{k}", "rope", tube(line, 0.009, 12, lobes=3, depth=0.2, twist=14))
    ring.objects = [(n, m, s.moved(y=0.43)) for n, m, s in ring.objects]
    return ring


def paints() -> dict[str, paint.Paint]:
    return {
        "painted": paint.bands(151, [(0.82, 0.26, 0.10), (0.88, 0.86, 0.80)], tile=0.4557),
        "webbing": paint.rope(152, (0.80, 0.78, 0.70)),
        "rope": paint.manila(),
    }
