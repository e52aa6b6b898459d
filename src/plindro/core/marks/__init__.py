"""Marks: decisions by hand on a place of a prop, kept as geometry so that they hold for a new version of the source."""

from plindro.core.marks.places import Edge, Place, Spot, mark_tolerance, to_mesh, unfitting
from plindro.core.marks.search import find_edges, find_faces, near_vertices, share_patch

__all__ = [
    "Edge",
    "Place",
    "Spot",
    "find_edges",
    "find_faces",
    "mark_tolerance",
    "near_vertices",
    "share_patch",
    "to_mesh",
    "unfitting",
]
