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
        "parts": ["body_dented", "lid_torn"],
        "keeps": ["foot", "bung*"],
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
    """Pushed in at one side, deepest at a third of the height, with a fold above."""
    away = np.arctan2(points[:, 2], points[:, 0]) / 0.62
    up = (points[:, 1] - 0.36) / 0.24
    push = 0.115 * np.exp(-(away**2) - up**2) + 0.02 * np.exp(-((away - 0.3) ** 2) * 6 - ((up - 1.2) ** 2) * 9)
    radius = np.maximum(np.hypot(points[:, 0], points[:, 2]), 1e-9)
    return points * np.stack([1 - push / radius, np.ones(len(points)), 1 - push / radius], axis=1)


def build_drum() -> dict[str, bytes]:
    """Files of the source by name."""
    drum = Model("oil_drum")
    rim = [(_RADIUS - 0.012, 0.862), (_RADIUS + 0.006, 0.862), (_RADIUS + 0.008, 0.882), (_RADIUS - 0.012, 0.882)]
    lid = disc(_RADIUS - 0.01, 72).moved(0, 0.866) + lathe([*rim, rim[0]], 72, creases=30)
    drum.add("body", "painted", _body())
    drum.add("lid", "painted", lid)
    drum.add("body_dented", "painted", _body().bent(_dented))
    drum.add("lid_torn", "painted", lid.moved(_RADIUS, -0.866).turned("z", 14).moved(-_RADIUS, 0.866))
    turn = np.linspace(0, 2 * np.pi, 97)[:-1]
    ring = np.stack([_RADIUS * np.cos(turn), np.full(96, 0.012), _RADIUS * np.sin(turn)], axis=1)
    drum.add("foot", "steel", tube(ring, 0.012, 10, closed=True))
    drum.add("bung", "steel", bolt(0.028, 0.016).moved(0.0, 0.20, -_RADIUS).turned("y", 4))
    paints = {"painted": paint.iron(141, (0.13, 0.31, 0.36), rust=0.45), "steel": paint.steel(142)}
    return export_model(drum, paints)
