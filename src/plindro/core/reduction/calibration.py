"""The deviation that a sequence states, put right by measurements.

While it collapses a run follows places of the source only, and cannot see a face that bridges a gap. Here a few levels
are measured like any other, and what the sequence states is scaled to them, between two by the logarithm of the count.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from plindro.core.measure.deviation import Deviation, DeviationFrom
from plindro.core.mesh.mesh import F32, I32, I64
from plindro.core.reduction.sequence import Sequence

_LARGEST = 100_000
"""Triangles of the largest level that is measured; above, nothing has happened that a run would not see."""
_FALL = 0.5
_FEWEST = 8
_JUMP, _MORE, _NEAR = 2.5, 12, 1.05
"""Where the deviation jumps so many times between two measurements, more are made between them: at most so many, and
not where the counts are so near."""
_NOTHING = 1e-6
"""Share of the diagonal below which a deviation is none, and no jump from it."""


def calibrated(sequence: Sequence, ruler: DeviationFrom, known: Mapping[int, Deviation]) -> Sequence:
    """The sequence with ``largest_at`` and ``mean_at`` as measured; ``known`` is what was measured of it before.

    One that has been put right stays as it is.
    """
    if sequence.is_calibrated:
        return sequence
    counts = sequence.triangles_at
    known = dict(known)

    def measure(wanted: float) -> int:
        step = sequence.step_of_triangles(int(wanted))
        if step not in known:
            known[step] = ruler.estimate(sequence.level(step))
        return step

    wanted = min(_FALL * float(counts[0]), _LARGEST)
    while wanted >= max(_FEWEST, counts[-1]):
        wanted = _FALL * min(wanted, float(counts[measure(wanted)]))
    if not known:
        return replace(sequence, is_calibrated=True)
    nothing = _NOTHING * float(np.linalg.norm(np.diff(sequence.source.bounds(), axis=0)))
    measure(counts[-1])
    for _ in range(_MORE):
        steps = sorted(known)
        values = np.log([max(known[step].middle, nothing) for step in steps])
        left = counts[steps].astype(float)
        jumps = np.where(left[:-1] > _NEAR * np.maximum(left[1:], 1.0), np.diff(values), 0.0)
        at = int(jumps.argmax()) if len(jumps) else 0
        if not len(jumps) or jumps[at] < np.log(_JUMP):
            break
        middle = float(np.sqrt(left[at] * max(left[at + 1], 1.0)))
        if measure(middle) in steps:
            break
    at_steps = np.array(sorted(known))
    return replace(
        sequence,
        is_calibrated=True,
        largest_at=_scaled(sequence.largest_at, counts, at_steps, [known[s].middle for s in sorted(known)], nothing),
        mean_at=_scaled(sequence.mean_at, counts, at_steps, [known[s].mean for s in sorted(known)], nothing),
    )


def _scaled(stated: F32, counts: I32, steps: I64, measured: list[float], nothing: float) -> F32:
    """What was stated, times what was measured over it; never falling."""
    own = np.maximum(stated, nothing).astype(float)
    places = -np.log(np.maximum(counts, 1).astype(float))
    ratio = np.interp(places, places[steps], np.log(np.maximum(measured, nothing) / own[steps]))
    result = own * np.exp(ratio)
    result[result <= 1.01 * nothing] = 0.0
    return np.maximum.accumulate(result).astype(np.float32)
