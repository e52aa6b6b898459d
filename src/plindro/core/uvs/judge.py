"""What a UV channel is like, in figures: of the whole mesh, and of each of its parts."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, Mask, Mesh
from plindro.core.uvs.gaps import Gaps, bleeds_at, find_gaps
from plindro.core.uvs.overlap import Overlap, measure_overlap
from plindro.core.uvs.sheet import Seams, UvSheet, find_seams, lay_out
from plindro.core.uvs.stretch import StretchFigures, densities, find_stretch, stretch_figures
from plindro.core.uvs.tiles import areas_inside, tiles_of

_PIXELS = 1024
"""Where no texture says."""
_HALVED = 0.25
"""Share of an island's area that faces the other way from which on it is mirrored along a line ..."""
_HALF = 4
"""... where it is of so many triangles."""


@dataclass(frozen=True, slots=True)
class Density:
    """Pixels a metre: the least, the one that half the surface is under, the largest."""

    least: float
    median: float
    largest: float


@dataclass(frozen=True, slots=True)
class ChannelFigures:
    """What a channel is like.

    Attributes
    ----------
    islands, flipped_islands : how many, and those on which a texture is mirrored
    flipped_triangles : triangles that face the other way than most of their island
    zero_area_triangles : triangles without area on the sheet that have some on the surface
    used : covered share of the unit square
    overlap, mirrored_overlap : shares of the channel's area that lie under something, or under something mirrored
    outside : share of the channel's area outside the unit square
    tiles : shares by square, where it lies in others too
    stretch : None where nothing has area
    density : None likewise
    gap, border_gap : pixels between the two nearest islands, and from the nearest to the border; None where there are
        not two, or where islands reach over the border
    bleeds_at : the first mip level at which islands are less than a pixel apart
    seams : edges inside the surface along which it is cut
    """

    islands: int
    flipped_islands: int
    flipped_triangles: int
    zero_area_triangles: int
    used: float
    overlap: float
    mirrored_overlap: float
    outside: float
    tiles: dict[str, float]
    stretch: StretchFigures | None
    density: Density | None
    gap: float | None
    border_gap: float | None
    bleeds_at: int | None
    seams: Seams


@dataclass(frozen=True, slots=True)
class Faults:
    """What no texture suits, likewise told; an island of which much faces the other way is mirrored along a line,
    and not folded."""

    flipped_islands: int
    flipped_triangles: int
    zero_area_triangles: int
    overlap: float
    mirrored_overlap: float


@dataclass(frozen=True, slots=True)
class PartFigures:
    """What a channel is like on one part, as far as it is told apart."""

    islands: int
    overlap: float
    outside: float
    density: Density | None


@dataclass(frozen=True, slots=True)
class Judged:
    """Figures of one channel, and of each part (P,), None for those without triangles."""

    whole: ChannelFigures
    parts: tuple[PartFigures | None, ...]


def pixels_along(textures: Iterable[tuple[int, int]]) -> int:
    """Pixels along a side that a channel is judged for: those of the largest of textures of so wide and high."""
    return max((max(size) for size in textures), default=0) or _PIXELS


def judge_channel(mesh: Mesh, channel: int, pixels: int, n_parts: int) -> Judged:
    """Judge a channel that a triangle mesh has, for a square texture of so many ``pixels`` along a side."""
    sheet = lay_out(mesh, channel)
    overlap = measure_overlap(sheet)
    inside = areas_inside(sheet)
    density = densities(sheet, pixels)
    whole = _figures(mesh, channel, sheet, overlap, inside, density, pixels)
    part = mesh.face_part
    parts = tuple(_of_part(sheet, overlap, inside, density, part == k) for k in range(n_parts))
    return Judged(whole, parts)


def find_faults(sheet: UvSheet, overlap: Overlap) -> Faults:
    """The faults of a sheet whose overlaps are known."""
    n = sheet.n_islands
    net, whole = (
        np.bincount(sheet.island, sheet.areas, minlength=n),
        np.bincount(sheet.island, abs(sheet.areas), minlength=n),
    )
    # V runs down: what turns right there is seen as it is.
    faces_left = net > 0
    odd = (sheet.turns != 0) & ((sheet.turns > 0) != faces_left[sheet.island])
    is_halved = 0.5 * (whole - abs(net)) >= _HALVED * whole
    is_halved &= np.bincount(sheet.island[odd], minlength=n) >= _HALF
    total = float(whole.sum())
    return Faults(
        flipped_islands=int((faces_left | is_halved).sum()),
        flipped_triangles=int((odd & ~is_halved[sheet.island]).sum()),
        zero_area_triangles=int(((sheet.turns == 0) & (sheet.surface > 0)).sum()),
        overlap=_share(float(overlap.any.sum()), total),
        mirrored_overlap=_share(float(overlap.mirrored.sum()), total),
    )


def _figures(
    mesh: Mesh, channel: int, sheet: UvSheet, overlap: Overlap, inside: F64, density: F64, pixels: int
) -> ChannelFigures:
    faults = find_faults(sheet, overlap)
    total = float(abs(sheet.areas).sum())
    outside = _share(total - float(inside.sum()), total)
    gaps = find_gaps(sheet, overlap.met)
    gap = float(gaps.between.min(initial=np.inf))
    tiles = tiles_of(sheet) if outside else {}
    return ChannelFigures(
        islands=int(sheet.covers.sum()),
        flipped_islands=faults.flipped_islands,
        flipped_triangles=faults.flipped_triangles,
        zero_area_triangles=faults.zero_area_triangles,
        used=overlap.used,
        overlap=faults.overlap,
        mirrored_overlap=faults.mirrored_overlap,
        outside=outside,
        tiles={f"{u} {v}": _share(area, total) for (u, v), area in tiles.items()},
        stretch=stretch_figures(sheet, find_stretch(mesh, sheet)),
        density=_density(density, sheet.surface),
        gap=gap * pixels if np.isfinite(gap) else None,
        border_gap=_border_gap(gaps, pixels),
        bleeds_at=bleeds_at(gap, pixels),
        seams=find_seams(mesh, channel, sheet),
    )


def _share(part: float, whole: float) -> float:
    """A share in which rounding is nothing."""
    share = part / whole if whole > 0 else 0.0
    return share if share > 1e-9 else 0.0


def _border_gap(gaps: Gaps, pixels: int) -> float | None:
    nearest = float(gaps.to_border.min(initial=np.inf))
    return nearest * pixels if 0.0 <= nearest < np.inf else None


def _density(density: F64, surface: F64) -> Density | None:
    """Over the surface, so that many small triangles count no more than few large ones."""
    known = np.isfinite(density)
    if not known.any():
        return None
    values, weights = density[known], surface[known]
    order = np.argsort(values, kind="stable")
    grown = np.cumsum(weights[order])
    median = values[order[min(int(np.searchsorted(grown, 0.5 * grown[-1])), len(order) - 1)]]
    return Density(float(values.min()), float(median), float(values.max()))


def _of_part(sheet: UvSheet, overlap: Overlap, inside: F64, density: F64, chosen: Mask) -> PartFigures | None:
    if not chosen.any():
        return None
    total = float(abs(sheet.areas[chosen]).sum())
    return PartFigures(
        islands=len(np.unique(sheet.island[chosen & (sheet.turns != 0)])),
        overlap=_share(float(overlap.any[chosen].sum()), total),
        outside=_share(total - float(inside[chosen].sum()), total),
        density=_density(density[chosen], sheet.surface[chosen]),
    )
