"""Blocks back to pixels, as most software reads them: BC1, BC3, BC4 and BC5 cut fractions off; BC7 leaves no choice."""

import numpy as np
from numpy.typing import NDArray

from plindro.core.blocks.bc7.tables import (
    ALPHA_BITS,
    ANCHOR,
    COLOR_BITS,
    INDEX_BITS,
    MODES,
    NO_P,
    OWN_P,
    P_KIND,
    PARTITION_BITS,
    ROTATION_BITS,
    SCALAR_BITS,
    SELECTOR_BITS,
    SHARED_P,
    SUBSET,
    SUBSETS,
    WEIGHTS,
)
from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.numeric.kernels import helper, index, inner, kernel
from plindro.core.numeric.lanes import grid, stack

_WEIGHTS = WEIGHTS.astype(np.int64)
_OPAQUE = 255


@helper
def little(data, at, count):  # type: ignore[no-untyped-def]
    """A number of some bytes, the lowest first."""
    value = index(0)
    for k in range(count):
        value |= index(data[at + k]) << (8 * k)
    return value


@inner
def read_color(data, at, only_four, texels):  # type: ignore[no-untyped-def]
    first, second, bits = little(data, at, 2), little(data, at + 2, 2), little(data, at + 4, 4)
    mixes = grid(4, 4, np.int64)
    for k in range(2):
        packed = first if k == 0 else second
        r, g, b = packed >> 11, (packed >> 5) & 63, packed & 31
        mixes[k, 0], mixes[k, 1], mixes[k, 2] = (r << 3) | (r >> 2), (g << 2) | (g >> 4), (b << 3) | (b >> 2)
    for c in range(3):
        a, b = mixes[0, c], mixes[1, c]
        if only_four or first > second:
            mixes[2, c], mixes[3, c] = (2 * a + b) // 3, (a + 2 * b) // 3
        else:
            mixes[2, c], mixes[3, c] = (a + b) // 2, 0
    for k in range(4):
        mixes[k, 3] = _OPAQUE
    if not only_four and first <= second:
        mixes[3, 3] = 0
    for i in range(16):
        code = (bits >> (2 * i)) & 3
        for c in range(4):
            texels[i, c] = mixes[code, c]


@inner
def read_channel(data, at, texels, channel):  # type: ignore[no-untyped-def]
    first, second, bits = index(data[at]), index(data[at + 1]), little(data, at + 2, 6)
    for i in range(16):
        code = (bits >> (3 * i)) & 7
        if code == 0:
            value = first
        elif code == 1:
            value = second
        elif first > second:
            value = ((8 - code) * first + (code - 1) * second) // 7
        elif code < 6:
            value = ((6 - code) * first + (code - 1) * second) // 5
        else:
            value = index(0) if code == 6 else index(255)
        texels[i, channel] = value


@helper
def taken(words, place, count):  # type: ignore[no-untyped-def]
    """The next ``count`` bits of two 64-bit words; ``place`` (1,) goes on."""
    at = place[0]
    place[0] = at + count
    if count == 0:
        return index(0)
    word, shift = at >> 6, at & 63
    value = words[word] >> np.uint64(shift)
    if shift + count > 64:
        value |= words[1] << np.uint64(64 - shift)
    return index(value & np.uint64((1 << count) - 1))


@inner
def read_ends(words, place, mode, ends):  # type: ignore[no-untyped-def]
    """(6, 4) the 8-bit ends of all subsets, two by two."""
    subsets = MODES[mode, SUBSETS]
    for c in range(4):
        wide = MODES[mode, ALPHA_BITS] if c == 3 else MODES[mode, COLOR_BITS]
        for e in range(2 * subsets):
            ends[e, c] = taken(words, place, wide)
    kind = MODES[mode, P_KIND]
    for e in range(2 * subsets):
        if kind == OWN_P or (kind == SHARED_P and e % 2 == 0):
            p = taken(words, place, 1)
            for c in range(4):
                ends[e, c] = (ends[e, c] << 1) | p
                if kind == SHARED_P:
                    ends[e + 1, c] = (ends[e + 1, c] << 1) | p
    extra = 0 if kind == NO_P else 1
    for e in range(2 * subsets):
        for c in range(4):
            bits = (MODES[mode, ALPHA_BITS] if c == 3 else MODES[mode, COLOR_BITS]) + extra
            if c == 3 and MODES[mode, ALPHA_BITS] == 0:
                ends[e, c] = _OPAQUE
            else:
                ends[e, c] = ((ends[e, c] << (8 - bits)) | (ends[e, c] >> (2 * bits - 8))) & 255


@inner
def read_bc7(data, at, texels):  # type: ignore[no-untyped-def]
    words, place, ends = stack(2, np.uint64), stack(1, np.int64), grid(6, 4, np.int64)
    first_index, other_index = stack(16, np.int64), stack(16, np.int64)
    for k in range(2):
        words[k] = np.uint64(0)
        for b in range(8):
            words[k] |= np.uint64(data[at + 8 * k + b]) << np.uint64(8 * b)
    mode = 0
    while mode < 8 and not (words[0] >> np.uint64(mode)) & np.uint64(1):
        mode += 1
    if mode == 8:
        # A mode that is none: the format says transparent black.
        for i in range(16):
            for c in range(4):
                texels[i, c] = 0
        return
    place[0] = mode + 1
    subsets = MODES[mode, SUBSETS]
    partition = taken(words, place, MODES[mode, PARTITION_BITS])
    rotation = taken(words, place, MODES[mode, ROTATION_BITS])
    selector = taken(words, place, MODES[mode, SELECTOR_BITS])
    read_ends(words, place, mode, ends)
    bits, other_bits = MODES[mode, INDEX_BITS], MODES[mode, SCALAR_BITS]
    for i in range(16):
        is_anchor = i == 0
        for s in range(1, subsets):
            is_anchor |= ANCHOR[subsets, partition, s] == i
        first_index[i] = taken(words, place, bits - 1 if is_anchor else bits)
    if other_bits:
        for i in range(16):
            other_index[i] = taken(words, place, other_bits - 1 if i == 0 else other_bits)
    for i in range(16):
        s = SUBSET[subsets, partition, i] if subsets > 1 else 0
        color, alpha = _WEIGHTS[bits, first_index[i]], _WEIGHTS[bits, first_index[i]]
        if other_bits:
            alpha = _WEIGHTS[other_bits, other_index[i]]
            if selector:
                color, alpha = alpha, color
        for c in range(4):
            w = alpha if c == 3 else color
            texels[i, c] = ((64 - w) * ends[2 * s, c] + w * ends[2 * s + 1, c] + 32) >> 6
        if rotation:
            c = rotation - 1
            texels[i, 3], texels[i, c] = texels[i, c], texels[i, 3]


@kernel
def decode_blocks(data, codec, out):  # type: ignore[no-untyped-def]
    """Blocks of a codec, by its number, into ``out`` (H, W, 4)."""
    texels = grid(16, 4, np.int64)
    height, width = out.shape[0], out.shape[1]
    columns = (width + 3) // 4
    size = 8 if codec == 1 or codec == 4 else 16
    for y in range((height + 3) // 4):
        for x in range(columns):
            at = (y * columns + x) * size
            if codec == 1:
                read_color(data, at, False, texels)
            elif codec == 3:
                read_color(data, at + 8, True, texels)
                read_channel(data, at, texels, 3)
            elif codec == 7:
                read_bc7(data, at, texels)
            else:
                for i in range(16):
                    texels[i, 1], texels[i, 2], texels[i, 3] = 0, 0, _OPAQUE
                read_channel(data, at, texels, 0)
                if codec == 5:
                    read_channel(data, at + 8, texels, 1)
            for i in range(16):
                row, column = y * 4 + i // 4, x * 4 + i % 4
                if row < height and column < width:
                    for c in range(4):
                        out[row, column, c] = texels[i, c]


def decode(data: bytes, codec: Codec, width: int, height: int) -> NDArray[np.uint8]:
    """(H, W, 4) 8-bit pixels of an image in blocks; channels that a codec does not hold are 0, alpha 255.

    Raises ``ValueError`` where there are fewer bytes than the size asks for.
    """
    spec = CODECS[codec]
    needed = spec.size_of(width, height)
    if len(data) < needed:
        raise ValueError(f"{needed} bytes of {spec.title} are needed for {width} × {height}; there are {len(data)}")
    values = np.frombuffer(data, np.uint8, needed)
    if codec == "rgba8":
        return values.reshape(height, width, 4).copy()
    out = np.empty((height, width, 4), np.uint8)
    decode_blocks(values, spec.number, out)
    return out
