"""Cutting a surface into charts and laying them flat: by itself, or by plain projections."""
