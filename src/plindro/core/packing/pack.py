"""Islands of true shape into a sheet, as large as they go.

For a scale each island, the largest first, goes to the highest free place of any of its turns; the largest scale at
which all find one is sought by halving, at first with half the texels. What an island covers is every texel that it
touches, so the gap that is kept is exact. Locked islands stay where they are, and the others go around them.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.mesh.mesh import F64, I64
from plindro.core.packing.grid import new_grid, new_shape
from plindro.core.packing.placing import new_hints, place_all, take_locked

_FULLEST = 0.95
"""Share of a sheet that is tried first."""
_LEAST = 1e-3
"""Share of that scale below which nothing fits."""
_FINE, _ROUGH = 0.008, 0.02
"""How close to the largest scale the search comes, and that of an estimate."""
_COARSE = 256
"""Texels along the shorter side from which on the search begins with half of them."""
_CLOSER = 1.013
"""How many times larger islands go as a rule with twice the texels: what is empty around them takes whole ones."""
_EVEN = 0.97
"""Share of its box from which on an island looks the same upside down."""
_FEW = 64
"""Islands up to which more orders are tried: their packing costs little, and one that lies badly much."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """Where islands go: ``width``, ``height`` in texels, ``padding`` empty texels between islands, ``border`` to the
    border."""

    width: int
    height: int
    padding: int
    border: int


@dataclass(frozen=True, slots=True)
class Islands:
    """``sides`` (S, 2, 2) of the rims of islands, one after the other; island i has those from ``first[i]`` to
    ``first[i + 1]``, and an area of ``areas[i]``."""

    sides: F64
    first: I64
    areas: F64

    @property
    def count(self) -> int:
        return len(self.first) - 1


@dataclass(frozen=True, slots=True)
class Packed:
    """Texels for a unit; and of each island its turn as cosine and sine (N, 2), and by what it is moved (N, 2) then."""

    scale: float
    turn: F64
    move: F64

    def place(self, points: F64, island: I64) -> F64:
        """(P, 2) where points of islands go, in texels."""
        cosine, sine = self.turn[island].T
        x, y = points.T
        turned = np.stack([cosine * x - sine * y, sine * x + cosine * y], axis=1)
        placed: F64 = self.scale * turned + self.move[island]
        return placed


def _boxes(islands: Islands, turns: F64) -> F64:
    """(N, R, 4) of each island in each turn: its least x and y, its width and height."""
    boxes = np.empty((islands.count, len(turns), 4))
    x, y = islands.sides[:, :, 0], islands.sides[:, :, 1]
    for r, (cosine, sine) in enumerate(turns.tolist()):
        at = np.stack([cosine * x - sine * y, sine * x + cosine * y], axis=2)
        low = np.minimum.reduceat(at.min(axis=1), islands.first[:-1])
        boxes[:, r] = np.concatenate([low, np.maximum.reduceat(at.max(axis=1), islands.first[:-1]) - low], axis=1)
    return boxes


class _Packing:
    """Islands in all their turns, to be placed at one scale after the other."""

    def __init__(
        self,
        islands: Islands,
        n_turns: int,
        locked: Islands | None,
        width: int,
        step: Callable[[], None],
        *,
        fine: float = _FINE,
    ) -> None:
        self.fine = fine
        angles = np.arange(n_turns) * 2 * np.pi / n_turns
        self.islands, self._locked, self._width, self._step = islands, locked, width, step
        self._turns = np.round(np.stack([np.cos(angles), np.sin(angles)], axis=1), 15)
        self._boxes = _boxes(islands, self._turns)
        self._half = n_turns // 2 if n_turns % 2 == 0 else n_turns
        sizes = self._boxes[:, 0, 2:]
        is_even = islands.areas >= _EVEN * sizes.prod(axis=1)
        self._tries = np.where(is_even, n_turns // 2, n_turns).astype(np.int64)
        longest, boxed = sizes.max(axis=1), sizes.prod(axis=1)
        keys = [longest, islands.areas]
        if islands.count <= _FEW:
            keys += [
                boxed,
                sizes.sum(axis=1),
                sizes.min(axis=1),
                boxed - islands.areas,
                longest * np.sqrt(islands.areas),
            ]
        self.orders = [np.argsort(-key, kind="stable").astype(np.int64) for key in keys]

    def attempt(self, scale: float, sheet: Sheet, order: I64) -> Packed | None:
        """All islands at a scale, or None."""
        self._step()
        count, border = self.islands.count, sheet.border
        turn, move = np.empty((count, 2)), np.empty((count, 2))
        grid, shape = new_grid(sheet.width, sheet.height), new_shape(sheet.width, sheet.height)
        if self._locked is not None:
            take_locked(self._locked.sides, self._locked.first, sheet.width / self._width, grid, shape)
        fits = place_all(
            order, self.islands.sides, self.islands.first, self._turns, self._half, self._tries, self._boxes, scale,
            (border, border, sheet.width - border, sheet.height - border), sheet.padding,
            grid, shape, *new_hints(), turn, move,
        )  # fmt: skip
        return Packed(scale, turn, move) if fits else None

    def largest(self, best: Packed, high: float, sheet: Sheet, order: I64) -> Packed:
        """The largest scale between one that fits and one that does not, as far as it is found by halving."""
        while high - best.scale > self.fine * high:
            packed = self.attempt(0.5 * (best.scale + high), sheet, order)
            if packed is None:
                high = 0.5 * (best.scale + high)
            else:
                best = packed
        return best


def pack(
    islands: Islands,
    sheet: Sheet,
    n_turns: int,
    step: Callable[[float], None],
    *,
    locked: Islands | None = None,
    scale: float | None = None,
) -> Packed:
    """Pack islands, each in one of ``n_turns`` even turns, around those ``locked``, whose sides are in texels.

    At ``scale`` texels a unit where they fit so, else as large as they go. Raises ``InvalidSettings`` where they do not
    fit at all.
    """
    if not islands.count:
        return Packed(scale or 1.0, np.zeros((0, 2)), np.zeros((0, 2)))
    done = 0

    def count() -> None:
        nonlocal done
        done += 1
        step(1.0 - 0.9**done)

    packing = _Packing(islands, n_turns, locked, sheet.width, count)
    if scale is not None:
        for order in packing.orders:
            asked = packing.attempt(scale, sheet, order)
            if asked is not None:
                return asked
    most = _most_scale(islands, sheet)
    if scale is not None:
        most = min(most, scale)
    found = _search(packing, most, sheet)
    if found is None:
        raise InvalidSettings(
            f"{islands.count} islands, {sheet.padding} pixels apart, do not fit into {sheet.width} x {sheet.height} "
            "pixels; take a higher resolution or less padding"
        )
    return found.packed


def estimate_scale(islands: Islands, sheet: Sheet, n_turns: int) -> float:
    """About how large islands go, in texels a unit, looked for with few texels; 0 where they do not fit so."""
    packing, few = _rough(islands, sheet, n_turns)
    found = _search(packing, _most_scale(islands, few), few)
    return 0.0 if found is None else sheet.width / few.width * found.packed.scale


def fits_at(islands: Islands, sheet: Sheet, n_turns: int, scale: float) -> bool:
    """Whether islands are found to fit at a scale, looked for with few texels as ``estimate_scale`` does."""
    packing, few = _rough(islands, sheet, n_turns)
    scale *= few.width / sheet.width
    return any(packing.attempt(scale, few, order) is not None for order in packing.orders)


def _rough(islands: Islands, sheet: Sheet, n_turns: int) -> tuple[_Packing, Sheet]:
    """A packing into the sheet with few texels, as it is tried for an estimate."""
    few = sheet
    while min(few.width, few.height) >= 2 * _COARSE:
        few = _halved(few)
    packing = _Packing(islands, n_turns, None, few.width, lambda: None, fine=_ROUGH)
    if islands.count > _FEW:
        packing.orders = packing.orders[:1]
    return packing, few


def _most_scale(islands: Islands, sheet: Sheet) -> float:
    """The scale that is tried first, at which a sheet would be all but full."""
    return float(np.sqrt(_FULLEST * sheet.width * sheet.height / max(float(islands.areas.sum()), 1e-300)))


def _halved(sheet: Sheet) -> Sheet:
    """A sheet with half the texels each way, and gaps that are no smaller."""
    return Sheet(sheet.width // 2, sheet.height // 2, (sheet.padding + 1) // 2, sheet.border // 2)


@dataclass(frozen=True, slots=True)
class _Fit:
    """What fits at a scale, in the order in which it was placed, and a larger scale at which that does not."""

    packed: Packed
    high: float
    order: I64


def _search(packing: _Packing, most: float, sheet: Sheet) -> _Fit | None:
    """All islands as large as they go, up to ``most``; None where they fit at no scale.

    The search for the scale and for the better order begins with half the texels, which costs a quarter.
    """
    high, ratio, orders = most, 0.8, packing.orders
    if min(sheet.width, sheet.height) >= 2 * _COARSE:
        coarse = _search(packing, 0.5 * most, _halved(sheet))
        if coarse is not None:
            # From the middle of what is likely, so that one more attempt decides as a rule.
            ratio, orders = 1.0 / np.sqrt(_CLOSER), [coarse.order]
            high = min(2.0 * coarse.packed.scale / ratio, most)
    best = _bracketed(packing, high, ratio, most, sheet, orders[0])
    if best is None:
        return None
    best = _Fit(packing.largest(best.packed, best.high, sheet, best.order), best.high, best.order)
    for other in orders[1:]:
        better = packing.attempt(best.packed.scale * (1 + packing.fine), sheet, other)
        if better is not None:
            high = min(better.scale * 1.06, most)
            best = _Fit(packing.largest(better, high, sheet, other), high, other)
    return best


def _bracketed(packing: _Packing, high: float, ratio: float, most: float, sheet: Sheet, order: I64) -> _Fit | None:
    """A scale at which all fits and one at which it does not, from ``high`` on by ``ratio`` up or down."""
    best = packing.attempt(high, sheet, order)
    if best is not None:
        while high < most:
            high, ratio = min(high / ratio, most), ratio * ratio
            larger = packing.attempt(high, sheet, order)
            if larger is None:
                return _Fit(best, high, order)
            best = larger
        return _Fit(best, high, order)
    while high > _LEAST * most:
        best = packing.attempt(ratio * high, sheet, order)
        if best is not None:
            return _Fit(best, high, order)
        high, ratio = ratio * high, ratio * ratio
    return None
