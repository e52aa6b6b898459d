"""An oil can for the lamp's bearings."""

from plindro.demo import paint
from plindro.demo.props import small_things
from plindro.demo.shapes import Model


def model() -> Model:
    return small_things.oil_can()


def paints() -> dict[str, paint.Paint]:
    return {"tin": small_things.tin()}
