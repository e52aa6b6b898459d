"""Strips of triangles, as old scans have them."""

import numpy as np

from plindro.core.mesh.mesh import I64


def strip_triangles(vertices: I64, lengths: I64) -> I64:
    """(t, 3) the triangles of strips that lie one after the other, with ``lengths`` vertices each.

    Within a list, -1 begins another strip. Every second triangle of a strip is turned, and one that names a vertex
    twice, as joints between strips do, is none.
    """
    begins = np.zeros(len(vertices) + 1, bool)
    begins[np.cumsum(lengths) - lengths] = True
    begins[1:] |= vertices < 0
    place = np.arange(len(vertices))
    since = place - np.maximum.accumulate(np.where(begins[:-1], place, 0))
    first = place[:-2]
    a, b, c = vertices[:-2], vertices[1:-1], vertices[2:]
    is_whole = (a >= 0) & (b >= 0) & (c >= 0) & ~begins[first + 1] & ~begins[first + 2]
    is_whole &= (a != b) & (b != c) & (c != a)
    is_turned = since[first] % 2 == 1
    triangles = np.stack([np.where(is_turned, b, a), np.where(is_turned, a, b), c], axis=1)
    found: I64 = triangles[is_whole]
    return found
