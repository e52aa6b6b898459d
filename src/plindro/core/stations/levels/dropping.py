"""Parts that a level goes without, on purpose: by name, by hand, or because they are too small to be seen."""

from collections.abc import Iterable
from fnmatch import fnmatchcase

import numpy as np

from plindro.core.measure.game_view import View
from plindro.core.mesh.mesh import F64, Mask, Mesh
from plindro.core.prop import Prop


def parts_named(prop: Prop, patterns: Iterable[str]) -> Mask:
    """(P,) the parts whose path, or name, is a pattern or fits it, with what lies below them."""
    found = np.zeros(len(prop.parts), bool)
    for pattern in patterns:
        for i, part in enumerate(prop.parts):
            fits = fnmatchcase(part.path, pattern) or fnmatchcase(part.name, pattern)
            found[i] |= fits or part.path.startswith(f"{pattern}/")
    return found


def part_sizes(mesh: Mesh, n_parts: int) -> F64:
    """(P,) diagonal of the bounds of each part of a triangle mesh, in metres; 0 for parts without faces."""
    if not n_parts:
        return np.zeros(0)
    sizes = np.zeros(n_parts)
    by_part = np.argsort(mesh.face_part, kind="stable")
    corners = mesh.corner_vertex[(mesh.face_start[by_part][:, None] + np.arange(3)).reshape(-1)]
    places = np.take(mesh.positions, corners, axis=0)
    parts, first = np.unique(mesh.face_part[by_part], return_index=True)
    low = np.minimum.reduceat(places, 3 * first, axis=0)
    high = np.maximum.reduceat(places, 3 * first, axis=0)
    sizes[parts] = np.linalg.norm(high - low, axis=1)
    return sizes


def parts_too_small(sizes: F64, view: View, distance: float, pixels: float) -> Mask:
    """(P,) the parts that cover fewer pixels than so many from a distance in metres; never the largest."""
    small = (sizes > 0) & (np.array([view.pixels(size, distance) for size in sizes]) < pixels)
    if len(sizes):
        small[sizes.argmax()] = False
    return small
