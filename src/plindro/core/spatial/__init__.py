"""Spatial search: one tree of boxes, and what is asked of it."""
