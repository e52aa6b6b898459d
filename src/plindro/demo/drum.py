"""An oil drum that a boat has run into: one source with an intact and a dented body."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.demo import paint
from plindro.demo.export import export_model
from plindro.demo.shapes import Model, bolt, disc, lathe, tube

DRUM_STATES: list[dict[str, Any]] = [
    {
        "name": "dented",
        "parts": ["body_dented", "lid_dented"],
        "shared_parts": ["foot", "bung*"],
        "levels": [{"ratio": 0.4}, {"ratio": 0.15}],
    }
]
"""The setting of Levels that goes with it: the dented drum keeps what the intact one stands on."""
_HEIGHT, _RADIUS = 0.88, 0.29


def _body() -> Any:
    """A wall with two rolled hoops, turned in fine steps so that it can be dented."""
    profile = [(0.0, 0.02), (_RADIUS - 0.015, 0.02)]
    for y in np.linspace(0.03, _HEIGHT, 44):
        hoops = sum(np.exp(-(((y - at) / 0.012) ** 2)) for at in (0.31, 0.59))
        profile.append((_RADIUS + 0.011 * float(hoops), float(y)))
    return lathe(profile, 72)


def _dented(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Pushed in below the middle, with a crease that runs up to the rim and takes the lid's edge along."""
    around = np.arctan2(points[:, 2], points[:, 0])
    radius = np.maximum(np.hypot(points[:, 0], points[:, 2]), 1e-9)
    height = points[:, 1]
    hollow = 0.105 * np.exp(-((around / 0.58) ** 2) - ((height - 0.34) / 0.23) ** 2)
    crease = 0.034 * np.exp(-(((around - 0.18) / 0.30) ** 2)) * np.clip((height - 0.2) / 0.68, 0.0, 1.0)
    bulge = 0.012 * np.exp(-(((np.abs(around) - 1.05) / 0.28) ** 2) - ((height - 0.36) / 0.3) ** 2)
    # The lid is pushed at its edge and hardly in its middle, where it sinks instead.
    edge = np.clip(radius / _RADIUS, 0.0, 1.0) ** 2
    # The foot holds the wall where it is.
    free = np.clip((height - 0.03) / 0.16, 0.0, 1.0)
    push = (hollow + crease - bulge) * edge * free
    moved = points * np.stack([1 - push / radius, np.ones(len(points)), 1 - push / radius], axis=1)
    inner = np.where(height > 0.84, np.clip(1.0 - radius / _RADIUS, 0.0, 1.0), 0.0)
    moved[:, 1] -= 0.05 * inner * np.exp(-((around / 1.1) ** 2)) * (radius / _RADIUS)
    return moved


def build_drum() -> dict[str, bytes]:
    """Files of the source by name."""
    drum = Model("oil_drum")
    rim = [(_RADIUS - 0.012, 0.862), (_RADIUS + 0.006, 0.862), (_RADIUS + 0.008, 0.882), (_RADIUS - 0.012, 0.882)]
    edge = lathe([*rim, rim[0]], 72, creases=30)
    lid = disc(_RADIUS - 0.01, 72).moved(0, 0.866) + edge
    # In rings, so that it can sink.
    soft_lid = lathe([(float(r), 0.866) for r in np.linspace(_RADIUS - 0.01, 0.0, 9)], 72) + edge
    drum.add("body", "painted", _body())
    drum.add("lid", "painted", lid)
    drum.add("body_dented", "painted", _body().bent(_dented))
    drum.add("lid_dented", "painted", soft_lid.bent(_dented))
    turn = np.linspace(0, 2 * np.pi, 97)[:-1]
    ring = np.stack([_RADIUS * np.cos(turn), np.full(96, 0.012), _RADIUS * np.sin(turn)], axis=1)
    drum.add("foot", "steel", tube(ring, 0.012, 10, closed=True))
    drum.add("bung", "steel", bolt(0.028, 0.016).moved(0.0, 0.20, -_RADIUS).turned("y", 4))
    paints = {"painted": paint.iron(141, (0.13, 0.31, 0.36), rust=0.45), "steel": paint.steel(142)}
    return export_model(drum, paints)
