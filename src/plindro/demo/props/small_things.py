"""Three small things from the lantern room, each with a little texture set of its own: they ask for one sheet."""

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, Shape, arc, disc, lathe, shelved, smooth_path, tube

TILE = 0.5
"""Metres of surface along a side of each texture; everything lies within the square once."""
PIXEL = TILE / paint.SIZE
"""Metres of a pixel on it."""


def oil_can() -> Model:
    """A can with a long spout for the lamp's bearings."""
    body = lathe(
        [(0.05, 0.0), (0.055, 0.0), (0.057, 0.006), (0.055, 0.012), (0.055, 0.085), (0.045, 0.10), (0.016, 0.128),
         (0.012, 0.14)], 48,
    )  # fmt: skip
    spout = tube(smooth_path([(0.0, 0.13, 0.0), (0.01, 0.17, 0.0), (0.07, 0.24, 0.0), (0.11, 0.25, 0.0)], 8),
                 np.linspace(0.010, 0.003, 25), 20, caps=False)  # fmt: skip
    handle = tube(arc(0.04, 100, 260, 25) + (-0.044, 0.052, 0.0), 0.005, 12, caps=False)
    lid = lathe([(0.0, 0.146), (0.014, 0.143), (0.014, 0.136), (0.0, 0.136)][::-1], 32).moved(0.0, 0.002)
    return _laid(
        "oil_can",
        "tin",
        {"body": body, "spout": spout, "handle": handle, "lid": lid, "bottom": disc(0.05, 48, up=False)},
        8 * PIXEL,
    )


def sounding_lead() -> Model:
    """The lead of a sounding line, hollow below for tallow."""
    profile = [(0.0, 0.012), (0.016, 0.006), (0.022, 0.0), (0.026, 0.004), (0.026, 0.03), (0.020, 0.14), (0.013, 0.17),
               (0.008, 0.176), (0.0, 0.177)]  # fmt: skip
    eye = lathe([(0.0, 0.172), (0.007, 0.174), (0.009, 0.180), (0.006, 0.187), (0.0, 0.188)], 24)
    band = tube(arc(0.0262, 0, 360, 49, "xz")[:-1] + (0.0, 0.03, 0.0), 0.0015, 8, closed=True)
    ring = tube(arc(0.014, 0, 360, 57)[:-1] + (0.0, 0.187, 0.0), 0.003, 14, closed=True)
    return _laid(
        "sounding_lead",
        "lead",
        {
            "weight": lathe(profile, 72),
            "ring": ring,
            "eye": eye,
            "band": band,
            "tallow": disc(0.021, 72, up=False).moved(y=0.002),
        },
        8 * PIXEL,
    )


def net_float() -> Model:
    """A glass float in its net; whoever unwrapped it left a single pixel between islands."""
    ball = lathe([(0.06 * np.sin(t), 0.06 - 0.06 * np.cos(t)) for t in np.linspace(0.0, np.pi, 25)], 40)
    hoops = {
        f"hoop_{i}": tube(arc(0.0615, 0, 360, 49, plane)[:-1] + (0.0, 0.06, 0.0), 0.0022, 8, closed=True)
        for i, plane in enumerate(("xy", "yz", "xz"))
    }
    return _laid("net_float", "float", {"ball": ball, **hoops, "seal": disc(0.009, 24).moved(y=0.1196)}, PIXEL)


def _laid(name: str, material: str, shapes: dict[str, Shape], gap: float) -> Model:
    """A model whose objects lie on the texture side by side, ``gap`` metres apart."""
    model = Model(name)
    for (part, _), shape in zip(shapes.items(), shelved(list(shapes.values()), 0.98 * TILE, gap), strict=True):
        model.add(part, material, shape)
    return model


def tin() -> paint.Paint:
    return _on(paint.iron(151, (0.20, 0.30, 0.24), rust=0.35))


def lead() -> paint.Paint:
    return _on(paint.steel(152))


def glass_float() -> paint.Paint:
    return _on(paint.bands(153, [(0.16, 0.36, 0.33), (0.22, 0.45, 0.40), (0.14, 0.33, 0.31)], tile=TILE))


def _on(made: paint.Paint) -> paint.Paint:
    return paint.Paint(made.color, made.roughness, made.height, metallic=made.metallic, tile=TILE, relief=made.relief)
