"""A wooden cable drum, half unwound."""

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, Shape, around, bolt, box, lathe, smooth_path, tube

FAULT = "exported in centimetres: a hundred times too big"


def _flange(inner: float, outer: float, thick: float) -> Shape:
    """A wheel with a hole, its boards as wedge-shaped quads."""
    ring = [(inner, 0.0), (outer, 0.0), (outer + 0.0, thick), (inner, thick), (inner, 0.0)]
    return lathe(ring, 56, creases=20).turned("z", 90)


def model() -> Model:
    drum = Model("cable_drum")
    for x in (-0.36, 0.30):
        drum.add("flange", "planks", _flange(0.05, 0.60, 0.06).moved(x=x + 0.06))
    for side in (-1, 1):
        ribs = around(box(0.03, 1.05, 0.10, 0.006).moved(0.345 * side), 1, "x")
        drum.add("batten", "planks", ribs.moved(0, 0, 0.16))
        drum.add("batten", "planks", ribs.moved(0, 0, -0.16))
        heads = around(
            bolt(0.018, 0.02).turned("z", -90 * side).moved(0.36 * side, 0.0, 0.0).moved(0, 0.42, 0), 10, "x"
        )
        drum.add("bolts", "steel", heads)
        drum.add(
            "hub",
            "steel",
            lathe([(0.05, 0.0), (0.11, 0.0), (0.11, 0.014), (0.05, 0.014)], 32)
            .turned("z", -90 * side)
            .moved(0.36 * side),
        )
    drum.add("core", "planks", lathe([(0.27, -0.30), (0.27, 0.30)], 48).turned("z", 90))
    paths = []
    for layer, radius in enumerate((0.30, 0.345)):
        turns = 12 if layer == 0 else 8
        angle = np.linspace(0, turns * 2 * np.pi, turns * 40)
        along = -0.27 + 0.046 * angle / (2 * np.pi) + layer * 0.02
        paths.append(np.stack([along, radius * np.cos(angle), radius * np.sin(angle)], axis=1))
    for i, path in enumerate(paths):
        drum.add(f"cable_{i}", "cable", tube(path, 0.022, 12))
    last = paths[1][-1]
    loose = smooth_path(
        [
            tuple(last),
            (last[0] + 0.02, 0.28, 0.42),
            (last[0] + 0.06, -0.30, 0.62),
            (last[0] + 0.10, -0.565, 0.85),
            (last[0] + 0.3, -0.578, 1.15),
            (last[0] + 0.1, -0.578, 1.45),
        ],
        16,
    )
    drum.add("cable_end", "cable", tube(loose, 0.022, 12))
    drum.objects = [(n, m, s.moved(y=0.60).scaled(100.0)) for n, m, s in drum.objects]
    return drum


def paints() -> dict[str, paint.Paint]:
    scaled = {"planks": paint.wood(91, (0.56, 0.45, 0.30)), "steel": paint.steel(92), "cable": paint.rubber(93)}
    return {
        name: paint.Paint(p.color, p.roughness, p.height, p.metallic, tile=50.0, relief=p.relief)
        for name, p in scaled.items()
    }
