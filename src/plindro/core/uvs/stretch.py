"""How a channel stretches the surface: of each triangle, how many metres a step on the sheet is, at most and at least.

The measures are those of Sander, Snyder, Gortler and Hoppe 2001, from the singular values of the map from the sheet to
the surface; 1 is best where the whole is scaled to equal areas.
"""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.uvs.sheet import UvSheet


@dataclass(frozen=True, slots=True)
class Stretch:
    """``largest``, ``least`` (T,) metres on the surface for a step of 1 on the sheet; infinite, or NaN, where a
    triangle has no area there."""

    largest: F64
    least: F64


@dataclass(frozen=True, slots=True)
class StretchFigures:
    """Of a whole sheet, 1 at best: ``l2`` the root mean square, ``linf`` the largest; ``conformal`` the mean of the
    ratio of largest to least and its inverse, halved; ``area`` the mean factor by which areas are too large or too
    small."""

    l2: float
    linf: float
    conformal: float
    area: float


def find_stretch(mesh: Mesh, sheet: UvSheet) -> Stretch:
    """The singular values of the map from a sheet to the surface of its triangle mesh."""
    places = mesh.positions[mesh.corner_vertex].reshape(-1, 3, 3)
    one, two = sheet.corners[:, 1] - sheet.corners[:, 0], sheet.corners[:, 2] - sheet.corners[:, 0]
    across, along = places[:, 1] - places[:, 0], places[:, 2] - places[:, 0]
    double = 2.0 * sheet.areas[:, None]
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        by_u = (across * two[:, 1:] - along * one[:, 1:]) / double
        by_v = (along * one[:, :1] - across * two[:, :1]) / double
        a, b, c = (by_u * by_u).sum(1), (by_u * by_v).sum(1), (by_v * by_v).sum(1)
        root = np.sqrt((a - c) ** 2 + 4.0 * b * b)
        largest, least = np.sqrt(0.5 * (a + c + root)), np.sqrt(np.maximum(0.5 * (a + c - root), 0.0))
    return Stretch(largest, least)


def stretch_figures(sheet: UvSheet, stretch: Stretch) -> StretchFigures | None:
    """Figures of the triangles that have area both on the surface and on the sheet; None where there are none."""
    chosen = (sheet.surface > 0) & (abs(sheet.areas) > 0) & np.isfinite(stretch.largest) & (stretch.least > 0)
    surface, flat = sheet.surface[chosen], abs(sheet.areas[chosen])
    if not len(surface):
        return None
    largest, least = stretch.largest[chosen], stretch.least[chosen]
    scale = np.sqrt(flat.sum() / surface.sum())
    share = surface / surface.sum()
    with np.errstate(divide="ignore"):
        ratio = largest / least
        grown = flat / surface / scale**2
        conformal = float(np.sum(share * 0.5 * (ratio + 1.0 / ratio)))
        area = float(np.sum(share * np.maximum(grown, 1.0 / grown)))
    return StretchFigures(
        l2=float(scale * np.sqrt(np.sum(share * 0.5 * (largest**2 + least**2)))),
        linf=float(scale * largest.max()),
        conformal=conformal,
        area=area,
    )


def densities(sheet: UvSheet, pixels: int) -> F64:
    """(T,) pixels a metre on a square texture with so many along a side; NaN where a triangle has no area on the
    surface."""
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(sheet.surface > 0, pixels * np.sqrt(abs(sheet.areas) / sheet.surface), np.nan)
