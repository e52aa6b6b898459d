"""What only the browser needs of a prop: models to look at, pictures, and the arrays that its view works on."""

from plindro.core.viewing.left_behind import LeftBehind, left_behind, source_model

__all__ = ["LeftBehind", "left_behind", "source_model"]
