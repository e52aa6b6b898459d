"""An image to blocks, in bands of block rows that any number of threads may share: the bytes are the same."""

import os
from concurrent.futures import FIRST_EXCEPTION, ThreadPoolExecutor, wait
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.blocks.bc1 import encode_color
from plindro.core.blocks.bc4 import encode_channel, encode_normal
from plindro.core.blocks.bc7.modes import encode_block
from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.blocks.effort import BEST, FAST, GOOD, Quality
from plindro.core.blocks.pixels import load_block
from plindro.core.numeric.kernels import kernel
from plindro.core.numeric.lanes import f32, grid, stack
from plindro.core.report import Report

EFFORTS: dict[Quality, int] = {"fast": FAST, "good": GOOD, "best": BEST}
_EVEN = (1.0, 1.0, 1.0, 1.0)
_SEEN = (0.8, 1.6, 0.6, 1.0)
"""How much an error of red, green, blue and alpha counts to the eye; on the average 1, so that alpha is not starved."""
_BAND = 4096
"""Blocks that are made between two questions whether to go on: tens of milliseconds at the slowest."""


@dataclass(frozen=True, slots=True)
class Encoding:
    """How blocks are made.

    perceptual : errors of green count more than those of red and blue
    by_angle : the first two channels are a normal, whose angle counts (BC5)
    has_holes : pixels of less than half alpha become nothing (BC1)
    """

    codec: Codec
    quality: Quality = "good"
    perceptual: bool = False
    by_angle: bool = False
    has_holes: bool = False


@kernel
def small_rows(image, first, last, codec, weights, effort, by_angle, has_holes, out):  # type: ignore[no-untyped-def]
    """Write some block rows of BC1, BC3, BC4 or BC5."""
    block, weight = grid(4, 16, np.float32), stack(4, np.float32)
    plain, made, one = stack(16, np.float32), stack(16, np.float32), stack(16, np.float32)
    for c in range(4):
        weight[c] = weights[c]
    for i in range(16):
        plain[i] = f32(1.0)
    columns = (image.shape[1] + 3) // 4
    size = 8 if codec == 1 or codec == 4 else 16
    for y in range(first, last):
        for x in range(columns):
            at = (y * columns + x) * size
            load_block(image, y, x, block)
            if codec == 5:
                encode_normal(block, plain, by_angle, effort, out, at)
                continue
            if codec != 1:
                channel = 3 if codec == 3 else 0
                for i in range(16):
                    one[i] = block[channel, i]
                encode_channel(one, plain, effort, made, out, at)
                at += 8
            if codec != 4:
                encode_color(block, weight, effort, has_holes, codec == 3, out, at)


@kernel
def bc7_rows(image, first, last, codec, weights, effort, by_angle, has_holes, out):  # type: ignore[no-untyped-def]
    """Write some block rows of BC7; it takes what ``small_rows`` takes."""
    block, weight = grid(4, 16, np.float32), stack(4, np.float32)
    for c in range(4):
        weight[c] = weights[c]
    columns = (image.shape[1] + 3) // 4
    for y in range(first, last):
        for x in range(columns):
            load_block(image, y, x, block)
            encode_block(block, weight, effort, out, (y * columns + x) * 16)


def encode(
    pixels: NDArray[np.uint8], encoding: Encoding, report: Report | None = None, *, threads: int | None = None
) -> bytes:
    """The blocks of (H, W, 4) 8-bit pixels, row by row; past the right and lower ends the last pixels repeat.

    BC4 takes the first channel, BC5 the first two. ``threads`` are as many as there are processors where None. Raises
    ``Cancelled``.
    """
    report = report or Report()
    height, width = pixels.shape[:2]
    spec = CODECS[encoding.codec]
    if encoding.codec == "rgba8":
        return np.ascontiguousarray(pixels).tobytes()
    out = np.zeros(spec.size_of(width, height), np.uint8)
    # One that may not be written to is of another type, for which all kernels would be compiled once more.
    image = np.require(pixels, requirements=["C", "W"])
    rows, columns = -(-height // 4), -(-width // 4)
    a_band = max(1, _BAND // columns)
    weights = np.array(_SEEN if encoding.perceptual else _EVEN, np.float32)
    settings: tuple[Any, ...] = (spec.number, weights, EFFORTS[encoding.quality], encoding.by_angle, encoding.has_holes)

    rows_of = bc7_rows if encoding.codec == "bc7" else small_rows

    def one_band(first: int) -> None:
        rows_of(image, first, min(first + a_band, rows), *settings, out)

    bands = range(0, rows, a_band)
    if len(bands) == 1:
        one_band(0)
        return out.tobytes()
    with ThreadPoolExecutor(threads or os.cpu_count() or 1) as pool:
        waiting = {pool.submit(one_band, first) for first in bands}
        try:
            while waiting:
                done, waiting = wait(waiting, timeout=0.1, return_when=FIRST_EXCEPTION)
                for future in done:
                    future.result()
                report.step(1.0 - len(waiting) / len(bands), f"compressing to {spec.title}")
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
    return out.tobytes()
