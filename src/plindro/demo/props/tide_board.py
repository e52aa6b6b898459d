"""The tide board on the landing: a painted scale between two posts."""

from dataclasses import replace

import numpy as np
from PIL import ImageDraw

from plindro.demo import paint
from plindro.demo.shapes import Model, Shape, around, bolt, box, lathe, tube

FAULT = "slivers without area were left where the boards were cut"


def _scale(draw: ImageDraw.ImageDraw, size: int) -> None:
    black = (22, 24, 28)
    font = paint.lettering(size * 0.058)
    for i in range(40):
        y = size - i * size / 40
        if i % 2 == 0:
            draw.rectangle([0, y - size / 40, size * (0.34 if i % 8 else 0.55), y], fill=black)
    for metre in range(5):
        draw.text(
            (size * 0.78, size - metre * size / 5 - size * 0.1),
            f"{metre}.5",
            fill=(150, 26, 26),
            font=font,
            anchor="mm",
        )
        draw.text((size * 0.78, size - metre * size / 5 - 0.01 * size), f"{metre}", fill=black, font=font, anchor="mb")


def _sheet(width: float, height: float) -> Shape:
    points = np.array([[-width / 2, 0, 0], [width / 2, 0, 0], [width / 2, height, 0], [-width / 2, height, 0]])
    return Shape(points, [[0, 1, 2, 3]], [np.array([[0, 0], [1, 0], [1, 1], [0, 1.0]])], [0])


def _slivers(count: int) -> Shape:
    """Triangles whose three corners lie on a line."""
    y = np.linspace(0.2, 2.2, count)
    points = np.stack(
        [np.stack([np.full(count, x), y, np.full(count, 0.051)], axis=1) for x in (-0.2, 0.0, 0.2)], axis=1
    )
    faces = [[3 * i, 3 * i + 1, 3 * i + 2] for i in range(count)]
    return Shape(points.reshape(-1, 3), faces, [np.zeros((3, 2))] * count, [0] * count)


def model() -> Model:
    board = Model("tide_board")
    for x in (-0.36, 0.36):
        post = [(0.075, 0.0), (0.075, 2.62), (0.06, 2.66), (0.0, 2.68)]
        board.add("post", "timber", lathe(post, 28).moved(x=x))
        board.add("hoops", "iron", lathe([(0.079, 0.0), (0.079, 0.05)], 28).moved(x, 0.35))
        board.add("hoops", "iron", lathe([(0.079, 0.0), (0.079, 0.05)], 28).moved(x, 2.40))
    for i in range(12):
        board.add(f"plank_{i:02}", "timber", box(0.60, 0.185, 0.045, 0.006).moved(0, 0.32 + i * 0.195))
    for y in (0.5, 1.4, 2.3):
        board.add("batten", "iron", box(0.78, 0.06, 0.014, 0.003).moved(0, y, -0.03))
        for x in (-0.30, -0.12, 0.12, 0.30):
            board.add("rivet", "iron", bolt(0.012, 0.012).turned("x", 90).moved(x, y, 0.022))
    board.add("scale", "scale", _sheet(0.42, 2.30).moved(0, 0.24, 0.0235))
    board.add("slivers", "timber", _slivers(9))
    weed = around(
        tube(
            np.array([[0.078, 0.0, 0], [0.085, 0.14, 0.01], [0.082, 0.28, -0.01], [0.078, 0.36, 0]]),
            np.array([0.012, 0.01, 0.008, 0.003]),
            8,
        ),
        7,
    )
    for x in (-0.36, 0.36):
        board.add("weed", "timber", weed.moved(x=x))
    board.add(
        "lamp_arm",
        "iron",
        tube(
            np.array([[0.36, 2.55, 0], [0.36, 2.62, 0.10], [0.30, 2.66, 0.22], [0.12, 2.66, 0.26], [0.0, 2.62, 0.26]]),
            0.012,
            12,
        ),
    )
    board.add(
        "shade",
        "iron",
        lathe([(0.03, 0.08), (0.05, 0.07), (0.12, 0.0), (0.115, 0.0), (0.045, 0.065), (0.03, 0.075)][::-1], 36).moved(
            0, 2.53, 0.26
        ),
    )
    return board


def paints() -> dict[str, paint.Paint]:
    return {
        "timber": replace(paint.wood(141, (0.30, 0.27, 0.22)), green_down=True),
        "iron": paint.iron(142, (0.18, 0.20, 0.21), rust=0.8),
        "scale": paint.drawn(512, (232, 228, 214), _scale, 143),
    }
