"""What DDS and KTX2 hold: an image's levels in one codec."""

from dataclasses import dataclass, field

from plindro.core.blocks.codecs import CODECS, Codec


@dataclass(frozen=True, slots=True)
class GpuTexture:
    """A two-dimensional texture with its levels, the whole first.

    ``is_srgb`` says that its colours are sRGB values, ``has_alpha`` that BC1 blocks cut holes.
    """

    codec: Codec
    width: int
    height: int
    levels: tuple[bytes, ...] = field(repr=False)
    is_srgb: bool = False
    has_alpha: bool = False

    def __post_init__(self) -> None:
        for (width, height), level in zip(self.sizes, self.levels, strict=True):
            if len(level) != CODECS[self.codec].size_of(width, height):
                raise ValueError(f"a level of {width} × {height} has {len(level)} bytes, which is not its size")

    @property
    def sizes(self) -> list[tuple[int, int]]:
        """The size of each level."""
        return [(max(self.width >> k, 1), max(self.height >> k, 1)) for k in range(len(self.levels))]

    @property
    def gpu_bytes(self) -> int:
        """Memory on the GPU, mips included."""
        return sum(len(level) for level in self.levels)
