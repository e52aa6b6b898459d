"""Plindro: static prop meshes to validated, engine-ready files."""

__version__ = "0.1.0"
