"""The forms in which a GPU takes pixels."""

from dataclasses import dataclass
from typing import Literal

Codec = Literal["bc1", "bc3", "bc4", "bc5", "bc7", "rgba8"]


@dataclass(frozen=True, slots=True)
class CodecSpec:
    """What is known of a codec.

    number : that of its name, 0 where it has no blocks
    block_bytes : of a block of 4 × 4 pixels, and of a pixel where there are none
    """

    name: Codec
    title: str
    number: int
    block_bytes: int
    side: int = 4

    def size_of(self, width: int, height: int) -> int:
        """Bytes of an image of this size."""
        return -(-width // self.side) * -(-height // self.side) * self.block_bytes

    @property
    def bits_a_pixel(self) -> float:
        return self.block_bytes * 8 / self.side**2


CODECS: dict[Codec, CodecSpec] = {
    "bc1": CodecSpec("bc1", "BC1", 1, 8),
    "bc3": CodecSpec("bc3", "BC3", 3, 16),
    "bc4": CodecSpec("bc4", "BC4", 4, 8),
    "bc5": CodecSpec("bc5", "BC5", 5, 16),
    "bc7": CodecSpec("bc7", "BC7", 7, 16),
    "rgba8": CodecSpec("rgba8", "RGBA8", 0, 4, 1),
}
