"""The lead of a sounding line."""

from plindro.demo import paint
from plindro.demo.props import small_things
from plindro.demo.shapes import Model


def model() -> Model:
    return small_things.sounding_lead()


def paints() -> dict[str, paint.Paint]:
    return {"lead": small_things.lead()}
