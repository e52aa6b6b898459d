"""Polygon meshes as flat arrays: the mesh itself, its topology, geometry and engine vertex stream."""
