"""The boat davit: a bent arm, its winch, block and hook."""

import numpy as np

from plindro.demo import paint
from plindro.demo.shapes import Model, arc, around, bolt, box, lathe, prism, smooth_path, tube

FAULT = "a stiffening rib shares its edges with the arm's plates: more than two faces on an edge"


def model() -> Model:
    davit = Model("davit")
    arm = np.concatenate([
        np.stack([np.zeros(10), np.linspace(0.1, 1.7, 10), np.zeros(10)], axis=1),
        arc(0.75, 180, 40, 30)[1:] + (0.75, 1.7, 0),
    ])  # fmt: skip
    radius = np.linspace(0.085, 0.045, len(arm))
    davit.add("arm", "painted", tube(arm, radius, 24))
    davit.add(
        "socket",
        "painted",
        lathe([(0, 0), (0.24, 0), (0.24, 0.04), (0.13, 0.06), (0.13, 0.36), (0.115, 0.38), (0.0, 0.38)], 48),
    )
    davit.add("socket_bolts", "steel", around(bolt(0.022, 0.03).moved(0.19, 0.04), 8))
    web = [(0.13, 0.06), (0.22, 0.06), (0.22, 0.09), (0.14, 0.30), (0.13, 0.30)]
    davit.add("webs", "painted", around(prism(web, 0.018), 4).turned("y", 45))
    tip = arm[-1]
    davit.add(
        "head",
        "steel",
        lathe([(0.0, -0.05), (0.07, -0.05), (0.08, 0.0), (0.07, 0.05), (0.0, 0.05)], 32).turned("x", 90).moved(*tip),
    )
    drop = tip + (0.05, -0.05, 0)
    davit.add(
        "fall_a", "rope", tube(np.linspace(drop, drop + (0, -0.55, 0.03), 18), 0.012, 12, lobes=3, depth=0.2, twist=7)
    )
    davit.add(
        "fall_b",
        "rope",
        tube(np.linspace(drop + (0.0, 0, -0.02), drop + (0, -0.55, -0.03), 18), 0.012, 12, lobes=3, depth=0.2, twist=7),
    )
    block = drop + (0, -0.64, 0)
    cheek = [(0.07 * np.cos(t), 0.11 * np.sin(t)) for t in np.linspace(0, 2 * np.pi, 25)[:-1]]
    for z in (-0.035, 0.035):
        davit.add("cheek", "painted", prism(cheek, 0.016).moved(block[0], block[1], z))
    davit.add(
        "sheave",
        "steel",
        lathe([(0.0, -0.02), (0.065, -0.02), (0.05, 0.0), (0.065, 0.02), (0.0, 0.02)], 32)
        .turned("x", 90)
        .moved(*block),
    )
    hook = smooth_path(
        [
            (0, 0, 0),
            (0, -0.06, 0),
            (0.045, -0.11, 0),
            (0.05, -0.17, 0),
            (0, -0.21, 0),
            (-0.05, -0.18, 0),
            (-0.06, -0.13, 0),
        ],
        10,
    )
    davit.add("hook", "steel", tube(hook + block + (0, -0.10, 0), np.linspace(0.018, 0.008, len(hook)), 14))
    davit.add("winch_box", "painted", box(0.22, 0.26, 0.18, 0.02).moved(-0.16, 1.0))
    drum_profile = [
        (0.0, -0.10),
        (0.08, -0.10),
        (0.08, -0.085),
        (0.045, -0.08),
        (0.045, 0.08),
        (0.08, 0.085),
        (0.08, 0.10),
        (0.0, 0.10),
    ]
    davit.add("winch_drum", "steel", lathe(drum_profile, 36).turned("x", 90).moved(-0.33, 1.0))
    crank = np.array(
        [
            [-0.16, 1.0, 0.09],
            [-0.16, 1.0, 0.17],
            [-0.16, 1.02, 0.18],
            [-0.16, 1.2, 0.18],
            [-0.16, 1.22, 0.19],
            [-0.16, 1.22, 0.30],
        ]
    )
    davit.add("crank", "steel", tube(crank, 0.013, 12))
    # Two plates welded to a rib along one and the same edge: three faces meet there.
    plate = box(0.02, 0.40, 0.10).moved(0.09, 0.62)
    rib = prism([(0.10, 0.42), (0.22, 0.50), (0.10, 0.82)], 0.10)
    fused = plate + rib
    corner = {tuple(p): i for i, p in enumerate(np.round(fused.points, 6).tolist())}
    same = [corner[tuple(p)] for p in np.round(fused.points, 6).tolist()]
    fused = type(fused)(fused.points, [[same[v] for v in f] for f in fused.faces], fused.uvs, fused.groups)
    davit.add("rib", "painted", fused)
    return davit


def paints() -> dict[str, paint.Paint]:
    return {
        "painted": paint.iron(101, (0.70, 0.70, 0.66), rust=0.45),
        "steel": paint.steel(102),
        "rope": paint.manila(),
    }
