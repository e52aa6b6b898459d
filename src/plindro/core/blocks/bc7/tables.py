"""What the BC7 format fixes: its modes, which pixels belong together, and how far between two ends a pixel is."""

import numpy as np

SUBSETS, PARTITION_BITS, ROTATION_BITS, SELECTOR_BITS, COLOR_BITS, ALPHA_BITS, P_KIND, INDEX_BITS, SCALAR_BITS = range(
    9
)
NO_P, OWN_P, SHARED_P = 0, 1, 2
"""A lowest bit of the ends: none, one an end, one a pair."""

MODES = np.array(
    [
        [3, 4, 0, 0, 4, 0, OWN_P, 3, 0],
        [2, 6, 0, 0, 6, 0, SHARED_P, 3, 0],
        [3, 6, 0, 0, 5, 0, NO_P, 2, 0],
        [2, 6, 0, 0, 7, 0, OWN_P, 2, 0],
        [1, 0, 2, 1, 5, 6, NO_P, 2, 3],
        [1, 0, 2, 0, 7, 8, NO_P, 2, 2],
        [1, 0, 0, 0, 7, 7, OWN_P, 4, 0],
        [2, 6, 0, 0, 5, 5, OWN_P, 2, 0],
    ],
    np.int64,
)
"""(8, 9): columns as named above; ``SCALAR_BITS`` are those of the channel that stands alone in modes 4 and 5."""

_IN_TWO = """
cccc 8888 eeee ecc8 c880 feec fec8 ec80 c800 ffec fe80 e800 ffe8 ff00 fff0 f000 f710 008e 7100 08ce 008c 7310
3100 8cce 088c 3110 6666 366c 17e8 0ff0 718e 399c aaaa f0f0 5a5a 33cc 3c3c 55aa 9696 a55a 73ce 13c8 324c 3bdc
6996 c33c 9966 0660 0272 04e4 4e40 2720 c936 936c 39c6 639c 9336 9cc6 817e e718 ccf0 0fcc 7744 ee22
"""
"""A bit a pixel, the first pixel's lowest: whether it is of the second subset."""
_IN_THREE = """
aa685050 6a5a5040 5a5a4200 5450a0a8 a5a50000 a0a05050 5555a0a0 5a5a5050 aa550000 aa555500 aaaa5500 90909090
94949494 a4a4a4a4 a9a59450 2a0a4250 a5945040 0a425054 a5a5a500 55a0a0a0 a8a85454 6a6a4040 a4a45000 1a1a0500
0050a4a4 aaa59090 14696914 69691400 a08585a0 aa821414 50a4a450 6a5a0200 a9a58000 5090a0a8 a8a09050 24242424
00aa5500 24924924 24499224 50a50a50 500aa550 aaaa4444 66660000 a5a0a5a0 50a050a0 69286928 44aaaa44 66666600
aa444444 54a854a8 95809580 96969600 a85454a8 80959580 aa141414 96960000 aaaa1414 a05050a0 a0a5a5a0 96000000
40804080 a9a8a9a8 aaaaaa44 2a4a5254
"""
"""Two bits a pixel: its subset."""
_ANCHORS_OF_TWO = "fffffffffffffffff282288f28228822ff6828ff28222ff66268ff22fffff22f"
_ANCHORS_OF_THREE = """
3f 38 f8 f3 8f 3f f3 f8 8f 8f 6f 6f 6f 5f 3f 38 3f 38 8f f3 3f 38 6f a8 53 8f 86 6a 8f 5f fa f8 8f f3 3f 5a 6a
a8 89 fa f6 3f f8 5f f3 f6 f6 f8 3f f3 5f 5f 5f 8f 5f af 5f af 8f df f3 cf 3f 38
"""
"""The pixel of the second (and third) subset whose index lacks its highest bit, which is 0; that of the first is pixel
0."""


def _subsets() -> "np.ndarray[tuple[int, ...], np.dtype[np.int64]]":
    table = np.zeros((4, 64, 16), np.int64)
    pixels = np.arange(16)
    for number, text in enumerate(_IN_TWO.split()):
        table[2, number] = (int(text, 16) >> pixels) & 1
    for number, text in enumerate(_IN_THREE.split()):
        table[3, number] = (int(text, 16) >> (2 * pixels)) & 3
    return table


def _anchors() -> "np.ndarray[tuple[int, ...], np.dtype[np.int64]]":
    table = np.zeros((4, 64, 3), np.int64)
    table[2, :, 1] = [int(digit, 16) for digit in _ANCHORS_OF_TWO]
    table[3, :, 1:] = [[int(digit, 16) for digit in pair] for pair in _ANCHORS_OF_THREE.split()]
    return table


SUBSET = _subsets()
"""(subsets, partition, pixel) → the subset of a pixel."""
ANCHOR = _anchors()
"""(subsets, partition, subset) → its anchor."""

WEIGHTS = np.zeros((5, 16), np.float32)
"""(index bits, index) → how far from the first end to the last, in 64ths."""
WEIGHTS[2, :4] = 0, 21, 43, 64
WEIGHTS[3, :8] = 0, 9, 18, 27, 37, 46, 55, 64
WEIGHTS[4] = 0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64
