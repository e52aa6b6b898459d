"""What only the browser needs of a prop: models to look at, pictures, and the arrays that its view works on."""

from plindro.core.viewing.decoded import decoded_png
from plindro.core.viewing.left_behind import LeftBehind, last_level, left_behind, source_model

__all__ = ["LeftBehind", "decoded_png", "last_level", "left_behind", "source_model"]
