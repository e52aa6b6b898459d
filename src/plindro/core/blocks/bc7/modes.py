"""Trying the modes of a block, the likely ones first, and keeping the plan of least error."""

import numpy as np

from plindro.core.blocks.bc7.line import fit_line, walk_line
from plindro.core.blocks.bc7.packing import (
    CHOICE,
    MODE,
    P_BITS,
    PARTITION,
    ROTATION,
    SCALAR,
    SELECTOR,
    copy_plan,
    pack,
)
from plindro.core.blocks.bc7.ranking import rank
from plindro.core.blocks.bc7.tables import (
    ALPHA_BITS,
    COLOR_BITS,
    INDEX_BITS,
    MODES,
    P_KIND,
    SCALAR_BITS,
    SUBSET,
    SUBSETS,
)
from plindro.core.blocks.effort import BEST, FAST
from plindro.core.numeric.kernels import helper, index, inner
from plindro.core.numeric.lanes import HUGE, f32, grid, stack

N_TRIES = 9
ROUNDS, WALKS, OF_MODE_1, OF_MODE_3, OF_MODE_0, OF_MODE_2, OF_MODE_7, ROTATIONS, ENOUGH = range(N_TRIES)
TRIES = np.array(
    [
        [2, 0, 1, 0, 0, 0, 1, 1, 80],
        [2, 0, 2, 1, 1, 1, 2, 1, 12],
        [3, 1, 4, 3, 2, 2, 4, 4, 0],
    ],
    np.int64,
)
"""By effort: rounds of a fit and of its walk, how many ways to part the block are tried in a mode, how many rotations
of its channels, and the squared error of a block at which no more is tried."""


@helper
def _solid(value):  # type: ignore[no-untyped-def]
    """Two 7-bit ends whose mix of 21 parts in 64 is just this value."""
    low, high = index(value) >> 1, index(value) >> 1
    for a in range(max(low - 1, 0), min(low + 2, 128)):
        for b in range(max(low - 2, 0), min(high + 3, 128)):
            e0, e1 = (a << 1) | (a >> 6), (b << 1) | (b >> 6)
            if (e0 * 43 + e1 * 21 + 32) >> 6 == value:
                return a, b
    return low, high


@inner
def try_whole(block, mask, weight, effort, error, plan, best):  # type: ignore[no-untyped-def]
    """Mode 6: one line through all four channels, sixteen mixes."""
    ends, p_bits, choice = stack(8, np.float32), stack(2, np.float32), stack(16, np.float32)
    bits, kind, of = MODES[6, COLOR_BITS], MODES[6, P_KIND], MODES[6, INDEX_BITS]
    n = index(4)
    found = fit_line(block, mask, weight, n, bits, kind, of, TRIES[effort, ROUNDS], ends, p_bits, choice)
    if TRIES[effort, WALKS]:
        rounds = TRIES[effort, WALKS]
        found = walk_line(block, mask, weight, n, bits, kind, of, rounds, found, ends, p_bits, choice)
    if found < error:
        error = found
        for k in range(8):
            best[k] = ends[k]
        best[P_BITS], best[P_BITS + 1] = p_bits[0], p_bits[1]
        for i in range(16):
            best[CHOICE + i] = choice[i]
        best[MODE], best[PARTITION], best[ROTATION], best[SELECTOR] = f32(6.0), f32(0.0), f32(0.0), f32(0.0)
    return error


@inner
def try_parted(block, weight, mode, partition, effort, error, plan, best):  # type: ignore[no-untyped-def]
    """A mode of two or three subsets, each with a line of its own."""
    mask, ends, p_bits, choice = (
        stack(16, np.float32),
        stack(8, np.float32),
        stack(2, np.float32),
        stack(16, np.float32),
    )
    n_subsets, kind, of = MODES[mode, SUBSETS], MODES[mode, P_KIND], MODES[mode, INDEX_BITS]
    n = index(4) if MODES[mode, ALPHA_BITS] else index(3)
    bits = MODES[mode, COLOR_BITS]
    sum_of = f32(0.0)
    for s in range(n_subsets):
        for i in range(16):
            mask[i] = f32(1.0) if SUBSET[n_subsets, partition, i] == s else f32(0.0)
        found = fit_line(block, mask, weight, n, bits, kind, of, TRIES[effort, ROUNDS], ends, p_bits, choice)
        if TRIES[effort, WALKS] and found < error:
            rounds = TRIES[effort, WALKS]
            found = walk_line(block, mask, weight, n, bits, kind, of, rounds, found, ends, p_bits, choice)
        sum_of += found
        if sum_of >= error:
            return error
        for k in range(8):
            plan[s * 8 + k] = ends[k]
        plan[P_BITS + 2 * s], plan[P_BITS + 2 * s + 1] = p_bits[0], p_bits[1]
        for i in range(16):
            if mask[i] > f32(0.0):
                plan[CHOICE + i] = choice[i]
    plan[MODE], plan[PARTITION], plan[ROTATION], plan[SELECTOR] = f32(mode), f32(partition), f32(0.0), f32(0.0)
    copy_plan(plan, best)
    return sum_of


@inner
def try_split(block, mask, weight, mode, rotation, selector, effort, error, plan, best):  # type: ignore[no-untyped-def]
    """Modes 4 and 5: a line through three channels and one channel alone, which a rotation may exchange."""
    turned, alone, own = grid(4, 16, np.float32), grid(1, 16, np.float32), stack(4, np.float32)
    alone_weight = stack(4, np.float32)
    ends, p_bits, choice = stack(8, np.float32), stack(2, np.float32), stack(16, np.float32)
    for c in range(4):
        source = c
        if rotation > 0:
            source = 3 if c == rotation - 1 else rotation - 1 if c == 3 else c
        own[c] = weight[source]
        for i in range(16):
            turned[c, i] = block[source, i]
    for i in range(16):
        alone[0, i] = turned[3, i]
    alone_weight[0] = own[3]
    of, of_alone = MODES[mode, INDEX_BITS], MODES[mode, SCALAR_BITS]
    if selector:
        of, of_alone = of_alone, of
    rounds, walks = TRIES[effort, ROUNDS], TRIES[effort, WALKS]
    n, one, none = index(3), index(1), index(0)
    bits, alone_bits = MODES[mode, COLOR_BITS], MODES[mode, ALPHA_BITS]
    found = fit_line(turned, mask, own, n, bits, none, of, rounds, ends, p_bits, choice)
    if walks and found < error:
        found = walk_line(turned, mask, own, n, bits, none, of, walks, found, ends, p_bits, choice)
    if found >= error:
        return error
    for c in range(3):
        plan[c], plan[4 + c] = ends[c], ends[4 + c]
    for i in range(16):
        plan[CHOICE + i] = choice[i]
    other = fit_line(alone, mask, alone_weight, one, alone_bits, none, of_alone, rounds, ends, p_bits, choice)
    if walks:
        other = walk_line(
            alone, mask, alone_weight, one, alone_bits, none, of_alone, walks, other, ends, p_bits, choice
        )
    if found + other >= error:
        return error
    plan[3], plan[7] = ends[0], ends[4]
    for i in range(16):
        plan[SCALAR + i] = choice[i]
    plan[MODE], plan[PARTITION] = f32(mode), f32(0.0)
    plan[ROTATION], plan[SELECTOR] = f32(rotation), f32(selector)
    copy_plan(plan, best)
    return found + other


@inner
def try_ranked(block, weight, mode, ways, tries, left, along, effort, error, plan, best):  # type: ignore[no-untyped-def]
    """The likeliest ``tries`` of the first ``ways`` ways to part the block, in one mode."""
    price = stack(64, np.float32)
    steps = f32((1 << MODES[mode, INDEX_BITS]) - 1)
    one = f32(1.0) / (steps * steps)
    for p in range(64):
        price[p] = left[p] + along[p] * one if p < ways else HUGE
    for _ in range(tries):
        at = index(0)
        for p in range(ways):
            if price[p] < price[at]:
                at = p
        # What no line can undo is more already than what was reached: it cannot gain.
        if left[at] * f32(0.95) >= error:
            break
        price[at] = HUGE
        error = try_parted(block, weight, mode, at, effort, error, plan, best)
    return error


@inner
def encode_block(block, weight, effort, out, at):  # type: ignore[no-untyped-def]
    """Write the sixteen bytes of a block."""
    plan, best, mask = stack(68, np.float32), stack(68, np.float32), stack(16, np.float32)
    for k in range(68):
        plan[k] = f32(0.0)
        best[k] = f32(0.0)
    low_alpha, same = f32(255.0), True
    for i in range(16):
        mask[i] = f32(1.0)
        low_alpha = min(low_alpha, block[3, i])
        for c in range(4):
            same &= block[c, i] == block[c, 0]
    if same:
        for c in range(3):
            a, b = _solid(int(block[c, 0]))
            best[c], best[4 + c] = f32(a), f32(b)
        best[3], best[7], best[MODE] = block[3, 0], block[3, 0], f32(5.0)
        for i in range(16):
            best[CHOICE + i] = f32(1.0)
        pack(best, out, at)
        return
    enough = f32(TRIES[effort, ENOUGH])
    error = try_whole(block, mask, weight, effort, HUGE, plan, best)
    is_opaque = low_alpha >= f32(255.0)
    if error > enough and (effort == BEST or not is_opaque):
        for rotation in range(TRIES[effort, ROTATIONS]):
            error = try_split(block, mask, weight, index(5), rotation, index(0), effort, error, plan, best)
            if effort == BEST or (effort != FAST and not is_opaque):
                error = try_split(block, mask, weight, index(4), rotation, index(0), effort, error, plan, best)
                error = try_split(block, mask, weight, index(4), rotation, index(1), effort, error, plan, best)
    if error > enough:
        error = try_parts(block, weight, is_opaque, effort, error, plan, best)
    pack(best, out, at)


@inner
def try_parts(block, weight, is_opaque, effort, error, plan, best):  # type: ignore[no-untyped-def]
    """All modes of several subsets; without alpha those for opaque pixels alone."""
    left, along = stack(64, np.float32), stack(64, np.float32)
    tries = TRIES[effort]
    ways = index(64)
    if is_opaque:
        rank(block, weight, index(2), left, along)
        error = try_ranked(block, weight, index(1), ways, tries[OF_MODE_1], left, along, effort, error, plan, best)
        error = try_ranked(block, weight, index(3), ways, tries[OF_MODE_3], left, along, effort, error, plan, best)
        if tries[OF_MODE_0] + tries[OF_MODE_2]:
            rank(block, weight, index(3), left, along)
            few = index(16)
            error = try_ranked(block, weight, index(0), few, tries[OF_MODE_0], left, along, effort, error, plan, best)
            error = try_ranked(block, weight, index(2), ways, tries[OF_MODE_2], left, along, effort, error, plan, best)
    elif tries[OF_MODE_7]:
        rank(block, weight, index(2), left, along)
        error = try_ranked(block, weight, index(7), ways, tries[OF_MODE_7], left, along, effort, error, plan, best)
    return error
