"""A glass float in its net."""

from plindro.demo import paint
from plindro.demo.props import small_things
from plindro.demo.shapes import Model

FAULT = "its islands are a pixel apart"


def model() -> Model:
    return small_things.net_float()


def paints() -> dict[str, paint.Paint]:
    return {"float": small_things.glass_float()}
