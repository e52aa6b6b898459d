"""A block's choices as they are made, and as the format's 128 bits."""

import numpy as np

from plindro.core.blocks.bc7.tables import (
    ALPHA_BITS,
    ANCHOR,
    COLOR_BITS,
    INDEX_BITS,
    MODES,
    OWN_P,
    P_KIND,
    PARTITION_BITS,
    ROTATION_BITS,
    SCALAR_BITS,
    SELECTOR_BITS,
    SHARED_P,
    SUBSET,
    SUBSETS,
)
from plindro.core.numeric.kernels import helper, index, inner
from plindro.core.numeric.lanes import f32, stack

P_BITS, CHOICE, SCALAR, MODE, PARTITION, ROTATION, SELECTOR = 24, 32, 48, 64, 65, 66, 67
"""Where a plan (68,) of floats keeps what: first the ends of three subsets (eight each: first, last), then their lowest
bits (two each), the pixels' indices and those of the channel that stands alone, then single numbers."""


@helper
def copy_plan(source, target):  # type: ignore[no-untyped-def]
    for k in range(68):
        target[k] = source[k]


@helper
def put(words, at, value, count):  # type: ignore[no-untyped-def]
    """Write ``count`` bits at bit ``at`` of two 64-bit words; returns where the next begin."""
    word, shift = at >> 6, at & 63
    words[word] |= np.uint64(value) << np.uint64(shift)
    if shift + count > 64:
        words[1] |= np.uint64(value) >> np.uint64(64 - shift)
    return at + count


@helper
def turn(plan, mode, n_subsets, partition, first_channel, last_channel, at, bits, subset, anchor):  # type: ignore[no-untyped-def]
    """Exchange a subset's ends where its anchor's index has its highest bit."""
    top = (1 << bits) - 1
    if int(plan[at + anchor]) <= top >> 1:
        return
    base = subset * 8
    for c in range(first_channel, last_channel):
        plan[base + c], plan[base + 4 + c] = plan[base + 4 + c], plan[base + c]
    if first_channel == 0:
        b = P_BITS + subset * 2
        plan[b], plan[b + 1] = plan[b + 1], plan[b]
    for i in range(16):
        if n_subsets == 1 or SUBSET[n_subsets, partition, i] == subset:
            plan[at + i] = f32(top) - plan[at + i]


@helper
def put_indices(words, place, plan, at, bits, n_subsets, partition):  # type: ignore[no-untyped-def]
    for i in range(16):
        is_anchor = i == 0
        for s in range(1, n_subsets):
            is_anchor |= ANCHOR[n_subsets, partition, s] == i
        place = put(words, place, int(plan[at + i]), bits - 1 if is_anchor else bits)
    return place


@inner
def pack(plan, out, at):  # type: ignore[no-untyped-def]
    """Write the sixteen bytes of a plan, which is used up."""
    words = stack(2, np.uint64)
    words[0] = np.uint64(0)
    words[1] = np.uint64(0)
    mode, partition = int(plan[MODE]), int(plan[PARTITION])
    n_subsets, bits = MODES[mode, SUBSETS], MODES[mode, INDEX_BITS]
    is_split = MODES[mode, SCALAR_BITS] > 0
    color_at, scalar_at = index(CHOICE), index(SCALAR)
    color_bits, scalar_bits = bits, MODES[mode, SCALAR_BITS]
    if plan[SELECTOR] > f32(0.0):
        color_bits, scalar_bits = scalar_bits, color_bits
    for s in range(n_subsets):
        anchor = ANCHOR[n_subsets, partition, s] if n_subsets > 1 else 0
        last = 3 if is_split else 4
        turn(plan, mode, n_subsets, partition, 0, last, color_at, color_bits, s, anchor)
    if is_split:
        turn(plan, mode, 1, 0, 3, 4, scalar_at, scalar_bits, 0, 0)
    place = put(words, 0, 1 << mode, mode + 1)
    place = put(words, place, partition, MODES[mode, PARTITION_BITS])
    place = put(words, place, int(plan[ROTATION]), MODES[mode, ROTATION_BITS])
    place = put(words, place, int(plan[SELECTOR]), MODES[mode, SELECTOR_BITS])
    for c in range(4):
        wide = MODES[mode, COLOR_BITS] if c < 3 else MODES[mode, ALPHA_BITS]
        if wide == 0:
            continue
        for s in range(n_subsets):
            place = put(words, place, int(plan[s * 8 + c]), wide)
            place = put(words, place, int(plan[s * 8 + 4 + c]), wide)
    for s in range(n_subsets):
        if MODES[mode, P_KIND] == OWN_P:
            place = put(words, place, int(plan[P_BITS + 2 * s]), 1)
            place = put(words, place, int(plan[P_BITS + 2 * s + 1]), 1)
        elif MODES[mode, P_KIND] == SHARED_P:
            place = put(words, place, int(plan[P_BITS + 2 * s]), 1)
    if plan[SELECTOR] > f32(0.0):
        # The indices of fewer bits come first, whichever they are for.
        place = put_indices(words, place, plan, scalar_at, scalar_bits, 1, 0)
        place = put_indices(words, place, plan, color_at, color_bits, 1, 0)
    else:
        place = put_indices(words, place, plan, color_at, color_bits, n_subsets, partition)
        if is_split:
            place = put_indices(words, place, plan, scalar_at, scalar_bits, 1, 0)
    for k in range(8):
        out[at + k] = np.uint8((words[0] >> np.uint64(8 * k)) & np.uint64(255))
        out[at + 8 + k] = np.uint8((words[1] >> np.uint64(8 * k)) & np.uint64(255))
