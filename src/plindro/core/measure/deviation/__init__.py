"""How far two surfaces are from each other: the maximum certified, the mean to a known error."""

from plindro.core.measure.deviation.measure import Deviation, DeviationFrom, Unchanged

__all__ = ["Deviation", "DeviationFrom", "Unchanged"]
