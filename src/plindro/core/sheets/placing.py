"""Where pieces go on a sheet: packed side by side, or as strips that go over its whole width and tile along it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from plindro.core.mesh.mesh import F64, I32
from plindro.core.packing import Islands, Sheet, pack
from plindro.core.sheets.materials import Painted
from plindro.core.sheets.pieces import OVER, Piece
from plindro.core.sheets.raster import paint
from plindro.core.uvs.sheet import signed_areas

Density = Literal["even", "painted"]
_LONGEST = 30.0
"""Length of a piece against the root of its surface from which on it is a sliver and not a band."""
_MOST_STRIPS = 0.5
"""Share of the sheet that strips may take."""
_NOTHING = 1e-12


@dataclass(frozen=True, slots=True)
class Placed:
    """A piece on the sheet.

    Attributes
    ----------
    uv : (T, 3, 2) on the sheet
    to_uv : (2, 3) takes pixels of the sheet, from the upper left, to the UVs of the piece's material
    turn : (2,) cosine and sine of the turn to the left as it is seen
    scale : pixels of the sheet for one of its texture's
    """

    piece: Piece
    uv: F64
    to_uv: F64
    turn: F64
    scale: float


@dataclass(frozen=True, slots=True)
class Placement:
    """All pieces on a sheet, in the order in which they were given, and (H, W) which of them each pixel belongs to, -1
    for none."""

    placed: tuple[Placed, ...]
    owner: I32


def strip_axis(piece: Piece, painted: Painted) -> int | None:
    """Along which axis a piece can tile over a whole sheet: it tiles along that one alone; None along neither."""
    long = piece.spans > 1.0 + OVER
    return int(np.argmax(long)) if painted.repeats and long.sum() == 1 else None


def _in_units(piece: Piece, painted: Painted, density: Density) -> tuple[F64, float]:
    """(S, 2, 2) the outline in units that all pieces share, V up; and how many units a pixel of its texture is."""
    size = np.array([painted.width, -painted.height])
    sides = piece.outline * size
    area = float(abs(signed_areas(piece.uv * size)).sum())
    root, extent = float(np.sqrt(piece.surface)), float(np.ptp(sides.reshape(-1, 2), axis=0).max(initial=0.0))
    even = root / np.sqrt(area) if area > _NOTHING else 0.0
    if even == 0.0 or even * extent > _LONGEST * root:
        even = min(root / max(extent, _NOTHING), 1.0)
    unit = 1.0 if density == "painted" else even
    return sides * unit, unit


def _packed(
    pieces: Sequence[Piece], painted: Sequence[Painted], sheet: Sheet, rows: int, density: Density,
    step: Callable[[float], None],
) -> list[Placed]:  # fmt: skip
    """Pieces side by side in the lower ``rows`` of a sheet."""
    units = [_in_units(piece, of, density) for piece, of in zip(pieces, painted, strict=True)]
    areas = np.array([abs(signed_areas(p.uv * [o.width, o.height])).sum() * u * u
                      for p, o, (_, u) in zip(pieces, painted, units, strict=True)])  # fmt: skip
    islands = Islands(
        sides=np.ascontiguousarray(np.concatenate([sides for sides, _ in units])),
        first=np.concatenate([[0], np.cumsum([len(sides) for sides, _ in units])]).astype(np.int64),
        areas=areas,
    )
    packed = pack(islands, Sheet(sheet.width, rows, sheet.padding, sheet.border), 4, step)
    placed = []
    for number, (piece, of, (_, unit)) in enumerate(zip(pieces, painted, units, strict=True)):
        (cosine, sine), (mx, my) = packed.turn[number], packed.move[number]
        top = sheet.height - my
        grow = packed.scale * unit
        back = 1.0 / grow
        to_uv = back * np.array(
            [
                [cosine, -sine, sine * top - cosine * mx],
                [sine, cosine, -sine * mx - cosine * top],
            ]
        ) / np.array([[of.width], [of.height]])  # fmt: skip
        placed.append(Placed(piece, _inverse(to_uv, piece.uv, sheet), to_uv, packed.turn[number], float(grow)))
    return placed


def _inverse(to_uv: F64, uv: F64, sheet: Sheet) -> F64:
    """(T, 3, 2) on the sheet, of UVs of a material."""
    pixels = (uv - to_uv[:, 2]) @ np.linalg.inv(to_uv[:, :2]).T
    on_sheet: F64 = pixels / [sheet.width, sheet.height]
    return on_sheet


@dataclass(frozen=True, slots=True)
class _Strip:
    """Pieces that share a strip: of one material, along one axis; from ``low`` on ``wide`` UVs across it; ``rows`` high
    in pixels where none is lost."""

    numbers: tuple[int, ...]
    axis: int
    low: float
    wide: float
    rows: float


def _strips(pieces: Sequence[Piece], painted: Sequence[Painted], width: int) -> list[_Strip]:
    """Strips, for pieces that all can lie on one."""
    groups: dict[tuple[int, int, int], list[int]] = {}
    for number, (piece, of) in enumerate(zip(pieces, painted, strict=True)):
        axis = strip_axis(piece, of)
        assert axis is not None
        groups.setdefault((piece.prop, piece.material, axis), []).append(number)
    strips = []
    for (_, _, axis), numbers in sorted(groups.items()):
        across = np.concatenate([pieces[n].uv[:, :, 1 - axis].reshape(-1) for n in numbers])
        of = painted[numbers[0]]
        low, wide = float(across.min()), max(float(np.ptp(across)), 1e-6)
        along, over = (of.width, of.height) if axis == 0 else (of.height, of.width)
        strips.append(_Strip(tuple(numbers), axis, low, wide, wide * over * width / along))
    return strips


def _laid(strip: _Strip, piece: Piece, of: Painted, sheet: Sheet, top: int, rows: int) -> Placed:
    """A piece on its strip, which begins ``top`` pixels down and is ``rows`` high."""
    along, across = 1.0 / sheet.width, strip.wide / rows
    start = strip.low - across * top
    if strip.axis == 0:
        to_uv = np.array([[along, 0.0, 0.0], [0.0, across, start]])
        uv, turn = piece.uv, np.array([1.0, 0.0])
        scale = sheet.width / of.width
    else:
        # Turned, and not mirrored: V runs to the left.
        to_uv = np.array([[0.0, across, start], [-along, 0.0, 0.0]])
        uv, turn = piece.uv - [0.0, np.ceil(piece.uv[:, :, 1].max())], np.array([0.0, -1.0])
        scale = sheet.width / of.height
    return Placed(piece, _inverse(to_uv, uv, sheet), to_uv, turn, scale)


def place(
    pieces: Sequence[Piece],
    painted: Sequence[Painted],
    is_strip: Sequence[bool],
    sheet: Sheet,
    density: Density,
    step: Callable[[float], None],
) -> Placement:
    """Place pieces, each painted as told, those that are strips over the whole width from the top on.

    Raises ``InvalidSettings`` where the others do not fit.
    """
    numbers = [n for n, strip in enumerate(is_strip) if strip]
    strips = _strips([pieces[n] for n in numbers], [painted[n] for n in numbers], sheet.width)
    shrink = min(1.0, _MOST_STRIPS * sheet.height / max(sum(s.rows + sheet.padding for s in strips), 1e-9))
    owner = np.full((sheet.height, sheet.width), -1, np.int32)
    placed: dict[int, Placed] = {}
    margin, down = (sheet.padding + 1) // 2, 0
    for strip in strips:
        rows = max(int(strip.rows * shrink), 1)
        # What is painted beside a strip goes on into the pixels around it.
        owner[down : down + rows + 2 * margin] = numbers[strip.numbers[0]]
        for number in strip.numbers:
            n = numbers[number]
            placed[n] = _laid(strip, pieces[n], painted[n], sheet, down + margin, rows)
        down += rows + 2 * margin
    others = [n for n, tiles in enumerate(is_strip) if not tiles]
    if others:
        packed = _packed(
            [pieces[n] for n in others], [painted[n] for n in others], sheet, sheet.height - down, density, step
        )
        corners = np.concatenate([p.uv for p in packed]) * [sheet.width, sheet.height]
        values = np.repeat(np.array(others, np.int32), [len(p.uv) for p in packed])
        touched = paint(corners, values, sheet.width, sheet.height)
        owner = np.where(touched >= 0, touched, owner).astype(np.int32)
        placed.update(zip(others, packed, strict=True))
    return Placement(tuple(placed[n] for n in range(len(pieces))), owner)
