"""Parts that a level goes without, on purpose: by name, by hand, or because they are too small to be seen."""

from collections.abc import Iterable
from fnmatch import fnmatchcase

import numpy as np

from plindro.core.measure.view import View
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
    """(P,) diagonal of the bounds of each part in metres; 0 for parts without faces."""
    if not n_parts:
        return np.zeros(0)
    part = np.repeat(mesh.face_part, mesh.face_sides)
    low, high = np.full((n_parts, 3), np.inf), np.full((n_parts, 3), -np.inf)
    np.minimum.at(low, part, mesh.positions[mesh.corner_vertex])
    np.maximum.at(high, part, mesh.positions[mesh.corner_vertex])
    return np.where(low[:, 0] <= high[:, 0], np.linalg.norm(np.maximum(high - low, 0.0), axis=1), 0.0)


def parts_too_small(sizes: F64, view: View, distance: float, pixels: float) -> Mask:
    """(P,) the parts that cover fewer pixels than so many from a distance in metres; never the largest."""
    small = (sizes > 0) & (np.array([view.pixels(size, distance) for size in sizes]) < pixels)
    if len(sizes):
        small[sizes.argmax()] = False
    return small
