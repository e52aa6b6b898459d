"""Packing islands into a texture by their true shape, so many texels apart."""

from plindro.core.packing.pack import Islands, Packed, Sheet, estimate_scale, fits_at, pack

__all__ = ["Islands", "Packed", "Sheet", "estimate_scale", "fits_at", "pack"]
