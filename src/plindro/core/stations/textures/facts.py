"""What Textures found out: every image in use, and what it became."""

from pydantic import Field

from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.settings import StationFacts
from plindro.core.textures.codec_choice import Alpha
from plindro.core.textures.kept import ReadyTexture
from plindro.core.textures.rules import By, Kind


class MadeFacts(StationFacts):
    """A GPU texture beside its source; angles in degrees, of normals alone."""

    path: str = Field(description="the file, from the folder that is shipped to")
    codec: Codec
    width: int
    height: int
    levels: int
    bytes: int
    gpu_bytes: int = Field(description="memory on the GPU with mips")
    bits_a_pixel: float
    psnr: float
    ssim: float
    angle_mean: float | None
    angle_p95: float | None
    coverage: float | None = Field(description="change of the share of a cut-out that is there")
    seconds: float = Field(description="that making it took")


class TrialFacts(StationFacts):
    """A codec tried on a piece from the middle of an image."""

    codec: Codec
    bits_a_pixel: float
    psnr: float


class TextureFacts(StationFacts):
    """An image in use. ``materials`` name it, ``slots`` are the places in them that it fills."""

    image: str
    digest: str = Field("", description="of the image as it came, or of what was packed")
    kind: Kind
    by: By
    slots: list[str]
    materials: list[str]
    width: int
    height: int
    channels: int
    bits: int
    alpha: Alpha
    bytes: int
    gpu_bytes: int = Field(description="memory on the GPU as RGBA8 with mips")
    trials: list[TrialFacts] = Field(description="what each codec would give")
    faults: list[str] = Field([], description="codes of what is wrong with it")
    ships_as: str = Field(description="its name in the prop's file; empty where it is there as a GPU texture alone")
    is_changed: bool = Field(False, description="its pixels ship other than they came")
    made: MadeFacts | None


class TexturesFacts(StationFacts):
    textures: list[TextureFacts]
    gpu_bytes: int = Field(description="memory of all as they ship, with mips")
    source_gpu_bytes: int = Field(description="memory of all as RGBA8 with mips")
    budget_bytes: int | None = Field(description="what the destination allows")


def made_facts(path: str, ready: ReadyTexture) -> MadeFacts:
    """A texture's figures."""
    figures = ready.figures
    return MadeFacts(
        path=path,
        codec=ready.codec,
        width=ready.width,
        height=ready.height,
        levels=ready.levels,
        bytes=len(ready.data),
        gpu_bytes=ready.gpu_bytes,
        bits_a_pixel=CODECS[ready.codec].bits_a_pixel,
        psnr=round(figures.psnr, 3),
        ssim=round(figures.ssim, 5),
        angle_mean=figures.angle_mean,
        angle_p95=figures.angle_p95,
        coverage=figures.coverage,
        seconds=ready.seconds,
    )
