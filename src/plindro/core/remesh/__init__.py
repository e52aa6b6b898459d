"""Isotropic remeshing: a surface laid anew in even triangles."""

from plindro.core.remesh.isotropic import even_mesh

__all__ = ["even_mesh"]
