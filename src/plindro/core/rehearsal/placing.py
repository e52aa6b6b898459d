"""Size, axes and pivot, as beside the standing figure: what a wrong unit or axis looks like."""

from collections.abc import Iterator, Sequence

import numpy as np

from plindro.core.destinations import METRES, Destination
from plindro.core.findings import Finding, Severity, length
from plindro.core.rehearsal.chain import ChainLevel
from plindro.core.rehearsal.expected import Expected
from plindro.core.rehearsal.found import F64, Found

_ALIKE = 0.02
"""Share by which a size may differ from what the manifest says."""
_SMALLEST, _LARGEST = 0.02, 60.0
"""Metres outside of which a prop is doubted, where no manifest says its size."""
_FLUSH = 5e-3
"""Share of a prop's size within which a side lies in a plane."""
_BEYOND = 0.1
"""Share of LOD0's size that a level may stick out of it."""
_FIGURE = 1.8


def check_placing(low: F64, high: F64, found: Found, destination: Destination, expected: Expected) -> Iterator[Finding]:
    """Findings about the bounds of LOD0 in metres, Y up."""
    if found.up is not None and found.up != destination.up:
        text = f"the file says that {found.up.upper()} is up; the destination has {destination.up.upper()} up"
        yield Finding("up-axis-wrong", Severity.STOP, text)
    if found.metres is not None and abs(found.metres / METRES[destination.unit] - 1) > 1e-6:
        text = f"the file says {found.metres:g} m a unit; the destination has {METRES[destination.unit]:g}"
        yield Finding("unit-wrong", Severity.STOP, text)
    size = high - low
    largest = float(size.max())
    if expected.size is None or not any(expected.size):
        if not _SMALLEST <= largest <= _LARGEST:
            text = f"it is {length(largest)} across beside a figure of {_FIGURE} m; look at the unit"
            yield Finding("size-implausible", Severity.WARNING, text)
        yield from _check_foot(low, high)
        return
    wanted = np.array(expected.size)
    yield from _compare(size, low, wanted, expected)


def _check_foot(low: F64, high: F64) -> Iterator[Finding]:
    """A prop whose foot lies in the plane z = 0 and whose middle in y = 0 was read with another axis up."""
    slack = _FLUSH * float((high - low).max())
    stands = abs(low[1]) <= slack
    lies = min(abs(low[2]), abs(high[2])) <= slack and abs(low[1] + high[1]) <= 2 * slack
    if lies and not stands:
        text = "its foot lies in the plane z = 0 and not y = 0: is it on its side, as where Z is up in its source?"
        yield Finding("axes-doubtful", Severity.WARNING, text)


def check_level_places(levels: Sequence[ChainLevel], bounds: Sequence[tuple[F64, F64]]) -> Iterator[Finding]:
    """Levels that are elsewhere, or larger, than LOD0: they jump where they switch."""
    for index, (level, (low, high)) in enumerate(zip(levels, bounds, strict=True)):
        if not index or level.number is None or levels[0].number is None:
            continue
        room = float((bounds[0][1] - bounds[0][0]).max())
        out = float(max((bounds[0][0] - low).max(), (high - bounds[0][1]).max()))
        if room > 0 and out > _BEYOND * room:
            text = f"{level.name} reaches {length(out)} beyond LOD0; it would jump where it switches"
            yield Finding("level-elsewhere", Severity.WARNING, text, level=index)


def _compare(size: F64, low: F64, wanted: F64, expected: Expected) -> Iterator[Finding]:
    slack = _ALIKE * float(wanted.max())
    if np.allclose(size, wanted, atol=slack):
        moved = np.array(expected.lowest) - low
        if np.abs(moved).max() > slack:
            text = f"its pivot lies {length(float(np.linalg.norm(moved)))} from where the manifest has it"
            yield Finding("pivot-moved", Severity.STOP, text)
        return
    if np.allclose(size[[0, 2, 1]], wanted, atol=slack):
        text = "it lies on its side: height and depth are exchanged, as where a file with Z up is read with Y up"
        yield Finding("axes-exchanged", Severity.STOP, text)
        return
    ratio = float(size.max() / wanted.max())
    if np.allclose(size / ratio, wanted, atol=slack):
        now, told = (length(float(sides.max())) for sides in (size, wanted))
        text = f"it is {ratio:.4g} times as large as the manifest says, {now} and not {told}; look at the unit"
        yield Finding("size-wrong", Severity.STOP, text)
        return
    shown, told = (" x ".join(length(float(v)) for v in sides) for sides in (size, wanted))
    yield Finding("size-wrong", Severity.STOP, f"it is {shown}; the manifest says {told}")
