"""BC4 and BC5: one channel a block by two ends and for each pixel which of eight steps between them it has.

Decoders differ: the format asks for exact fractions, some cut them off. A pixel's error is taken against the middle of
both, so that neither is far from the best.

The other kind of block has six steps, and 0 and 255 beside them: for channels that are empty or full in places.
For normals two channels are made one after the other: what the first leaves undone turns the normal, and the second is
asked to turn it back as far as it can.
"""

import numpy as np

from plindro.core.blocks.effort import BEST, FAST
from plindro.core.blocks.pixels import product
from plindro.core.numeric.kernels import helper, index, inner
from plindro.core.numeric.lanes import HUGE, f32, largest, least, stack, total

_FULL = np.float32(255.0)
_SHALLOW = np.float32(0.02)
"""The least square of a normal's height that its angle is weighed by; flatter ones would take all there is."""

_NARROW = np.float32(12.0)
"""Where the values lie closer together than this, whole steps matter, and more ends are tried."""


@inner
def steps_error(values, weight, first, last, steps, has_ends, choice):  # type: ignore[no-untyped-def]
    """Choose each pixel's step from ``first`` to ``last``; returns the weighted squared error.

    Choice ``steps + 1`` is 0 and ``steps + 2`` is 255, where ``has_ends`` is not 0.
    """
    part, nearest = stack(16, np.float32), stack(16, np.float32)
    top = f32(steps)
    span = last - first
    scale = top / span if span != f32(0.0) else f32(0.0)
    one = span / top
    for i in range(16):
        k = min(max(np.floor((values[i] - first) * scale + f32(0.5)), f32(0.0)), top)
        exact = first + k * one
        away = values[i] - (exact + np.floor(exact + f32(0.001))) * f32(0.5)
        nearest[i] = k
        part[i] = away * away
    if has_ends != 0:
        for i in range(16):
            low, high = values[i] * values[i], (_FULL - values[i]) * (_FULL - values[i])
            nearest[i] = top + f32(1.0) if low < part[i] else nearest[i]
            part[i] = min(low, part[i])
            nearest[i] = top + f32(2.0) if high < part[i] else nearest[i]
            part[i] = min(high, part[i])
    for i in range(16):
        part[i] *= weight[i]
        choice[i] = nearest[i]
    return total(part)


@inner
def solve_steps(values, weight, choice, steps, ends):  # type: ignore[no-untyped-def]
    """The two ends of least weighted squared error for given choices; False where any would do."""
    near, far = stack(16, np.float32), stack(16, np.float32)
    near_weighed, far_weighed = stack(16, np.float32), stack(16, np.float32)
    one = f32(1.0) / f32(steps)
    for i in range(16):
        counts = f32(1.0) if choice[i] <= f32(steps) else f32(0.0)
        far[i] = choice[i] * one * counts
        near[i] = counts - far[i]
        near_weighed[i] = near[i] * weight[i]
        far_weighed[i] = far[i] * weight[i]
    nn, nf, ff = product(near_weighed, near), product(near_weighed, far), product(far_weighed, far)
    nx, fx = product(near_weighed, values), product(far_weighed, values)
    det = nn * ff - nf * nf
    if det < f32(1e-3) * (nn + ff):
        return False
    # The middle of both decoders lies a quarter below the exact value.
    ends[0] = min(max((ff * nx - nf * fx) / det + f32(0.2), f32(0.0)), _FULL)
    ends[1] = min(max((nn * fx - nf * nx) / det + f32(0.2), f32(0.0)), _FULL)
    return True


@inner
def fit_steps(values, weight, low, high, steps, has_ends, effort, ends, choice):  # type: ignore[no-untyped-def]
    """The best two whole ends of one kind of block, from the reach of what they are for; returns the error."""
    tried, wish = stack(16, np.float32), stack(2, np.float32)
    ends[0], ends[1] = low, high
    error = steps_error(values, weight, low, high, steps, has_ends, choice)
    reach = 4 if effort == BEST else 2 if high - low < _NARROW else 1
    for _ in range(effort + 1):
        if error <= f32(0.0) or not solve_steps(values, weight, choice, steps, wish):
            break
        before = error
        middle_0, middle_1 = np.floor(wish[0] + f32(0.5)), np.floor(wish[1] + f32(0.5))
        for a in range(-reach, reach + 1):
            first = min(max(middle_0 + f32(a), f32(0.0)), _FULL)
            for b in range(-reach, reach + 1):
                last = min(max(middle_1 + f32(b), f32(0.0)), _FULL)
                if last < first or (last == first and has_ends == 0):
                    continue
                found = steps_error(values, weight, first, last, steps, has_ends, tried)
                if found < error:
                    error = found
                    ends[0], ends[1] = first, last
                    for i in range(16):
                        choice[i] = tried[i]
        if error >= before:
            break
    return error


@helper
def pack_steps(ends, choice, six, out, at):  # type: ignore[no-untyped-def]
    """Write eight bytes. ``ends`` rise; eight steps are kept from the larger, six from the smaller end."""
    first, last = int(ends[0]), int(ends[1])
    bits = index(0)
    for i in range(16):
        k = int(choice[i])
        if six:
            code = 0 if k == 0 else 1 if k == 5 else 6 if k == 6 else 7 if k == 7 else k + 1
        else:
            code = 1 if k == 0 else 0 if k == 7 else 8 - k
        if first == last and not six:
            code = 0
        bits |= index(code) << (3 * i)
    out[at], out[at + 1] = (first, last) if six else (last, first)
    for k in range(6):
        out[at + 2 + k] = (bits >> (8 * k)) & 255


@inner
def encode_channel(values, weight, effort, made, out, at):  # type: ignore[no-untyped-def]
    """Write the eight bytes of one channel, and what it decodes to into ``made`` (16,)."""
    part = stack(16, np.float32)
    ends, choice = stack(2, np.float32), stack(16, np.float32)
    for i in range(16):
        part[i] = values[i]
    low = least(part)
    for i in range(16):
        part[i] = values[i]
    high = largest(part)
    # What is asked for may lie between whole values, or past them.
    low, high = max(np.floor(low + f32(0.5)), f32(0.0)), min(np.floor(high + f32(0.5)), _FULL)
    error = fit_steps(values, weight, low, max(high, low), index(7), index(0), effort, ends, choice)
    steps = f32(7.0)
    is_six = False
    if effort != FAST and error > f32(0.0) and (low <= f32(4.0) or high >= f32(251.0)):
        six_ends, six_choice = stack(2, np.float32), stack(16, np.float32)
        low, high = HUGE, -HUGE
        for i in range(16):
            if values[i] > f32(4.0) and values[i] < f32(251.0):
                low, high = min(low, values[i]), max(high, values[i])
        if high < low:
            low, high = f32(0.0), f32(0.0)
        low, high = np.floor(low + f32(0.5)), np.floor(high + f32(0.5))
        found = fit_steps(values, weight, low, high, index(5), index(1), effort, six_ends, six_choice)
        if found < error:
            is_six, steps = True, f32(5.0)
            ends[0], ends[1] = six_ends[0], six_ends[1]
            for i in range(16):
                choice[i] = six_choice[i]
    pack_steps(ends, choice, is_six, out, at)
    one = (ends[1] - ends[0]) / steps
    for i in range(16):
        exact = ends[0] + choice[i] * one
        exact = f32(0.0) if choice[i] == steps + f32(1.0) else exact
        made[i] = _FULL if choice[i] == steps + f32(2.0) else exact


@inner
def encode_normal(block, plain, by_angle, effort, out, at):  # type: ignore[no-untyped-def]
    """Write the sixteen bytes of a block's first two channels; as a normal's x and y where ``by_angle``."""
    wish, weight, made = stack(16, np.float32), stack(16, np.float32), stack(16, np.float32)
    if not by_angle:
        for c in range(2):
            for i in range(16):
                wish[i] = block[c, i]
            encode_channel(wish, plain, effort, made, out, at + 8 * c)
        return
    half = f32(127.5)
    for i in range(16):
        x, y = block[0, i] / half - f32(1.0), block[1, i] / half - f32(1.0)
        z = max(f32(1.0) - x * x - y * y, _SHALLOW)
        wish[i] = block[0, i]
        weight[i] = f32(1.0) + x * x / z
    encode_channel(wish, weight, effort, made, out, at)
    for i in range(16):
        x, y = block[0, i] / half - f32(1.0), block[1, i] / half - f32(1.0)
        z = max(f32(1.0) - x * x - y * y, _SHALLOW)
        weight[i] = f32(1.0) + y * y / z
        wish[i] = block[1, i] - (made[i] - block[0, i]) * (x * y / z) / weight[i]
    encode_channel(wish, weight, effort, made, out, at + 8)
