"""``plindro texture``: one image to a GPU texture."""

import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any, Literal, cast

import click

from plindro.cli.output import DONE, grouped, print_findings, print_json, read_bytes
from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.blocks.effort import Quality
from plindro.core.errors import InvalidSettings, PlindroError
from plindro.core.files.gpu.describe import describe
from plindro.core.files.pixels import Pixels, read_pixels
from plindro.core.report import Report
from plindro.core.shipping import write_whole
from plindro.core.textures.faults import content_faults, size_faults
from plindro.core.textures.heights import normals_from_height
from plindro.core.textures.kinds import Guess, kind_of
from plindro.core.textures.making import MadeTexture, make_texture
from plindro.core.textures.rules import Container, Kind, Mips, Sizes, TextureSettings

_CONTAINERS: dict[str, Container] = {".dds": "dds", ".ktx2": "ktx2"}
_CUTOFF = 0.5


def make_file(
    image: str,
    out: str,
    codec: Codec | Literal["auto"],
    kind: Kind | Literal["auto", "alpha"],
    mips: Mips,
    quality: Quality,
    perceptual: bool,
    size: Sizes,
    flip_green: bool,
    to_normal: float | None,
    zstd: bool,
    as_json: bool,
) -> int:
    """Write ``out``, the image in blocks with its mips."""
    container = _CONTAINERS.get(Path(out).suffix.lower())
    if container is None:
        raise InvalidSettings(f"{out}: a texture goes into a .dds or a .ktx2")
    if zstd and container != "ktx2":
        raise InvalidSettings(f"{out}: only a .ktx2 can be supercompressed; leave --zstd out")
    name = Path(image).name
    pixels = read_pixels(read_bytes(image), name)
    guess = kind_of(name, pixels.values, frozenset())
    if kind != "auto":
        guess = Guess("opacity" if kind == "alpha" else kind, "choice")
    findings = [*size_faults(name, pixels.width, pixels.height)]
    values = pixels.values
    if to_normal is not None:
        values, guess = normals_from_height(values[..., 0], to_normal), Guess("normal", "choice")
    findings += content_faults(name, guess.kind, values, uses_alpha=True)
    if flip_green:
        values = values.copy()
        values[..., 1] = 1.0 - values[..., 1]
    settings = TextureSettings(
        guess.kind,
        None if codec == "auto" else codec,
        quality,
        perceptual,
        mips,
        sizes=size,
        cutoff=_CUTOFF,
        container=container,
        zstd=zstd,
    )
    with click.progressbar(length=1000, label="compressing", file=sys.stderr) as bar:
        made = make_texture(values, settings, Report(lambda done, doing: bar.update(int(1000 * done) - bar.pos)))
    try:
        write_whole(Path(out), made.data)
    except OSError as error:
        raise PlindroError(f"{out}: cannot be written ({error.strerror}); nothing was") from error
    document = _document(image, out, pixels, guess, made)
    if as_json:
        print_json({**document, "findings": [finding.as_dict() for finding in findings]})
        return DONE
    _print(document)
    print_findings(findings)
    return DONE


def _document(image: str, out: str, pixels: Pixels, guess: Guess, made: MadeTexture) -> dict[str, Any]:
    texture = made.texture
    return {
        "image": image,
        "out": out,
        "kind": guess.kind,
        "kind_by": guess.by,
        "source": {
            "width": pixels.width,
            "height": pixels.height,
            "channels": pixels.channels,
            "bits": pixels.bits,
            "bytes": Path(image).stat().st_size,
            "gpu_bytes": sum(max(pixels.width >> k, 1) * max(pixels.height >> k, 1) * 4 for k in _steps(pixels)),
        },
        "codec": texture.codec,
        "is_srgb": texture.is_srgb,
        "width": texture.width,
        "height": texture.height,
        "levels": len(texture.levels),
        "bytes": len(made.data),
        "gpu_bytes": texture.gpu_bytes,
        "bits_a_pixel": CODECS[texture.codec].bits_a_pixel,
        **asdict(made.figures),
        "seconds": round(made.seconds, 3),
    }


def _steps(pixels: Pixels) -> range:
    return range(max(pixels.width, pixels.height).bit_length())


def _print(row: dict[str, Any]) -> None:
    source, of = row["source"], CODECS[cast(Codec, row["codec"])]
    space = "sRGB" if row["is_srgb"] else "linear"
    click.echo(f"{row['out']}: {of.title} {space}, {row['width']} × {row['height']}, {row['levels']} mips")
    told = {"name": "by its name", "content": "by its content", "choice": "as asked", "slot": "by its slot"}
    click.echo(f"  kind      {row['kind']}, {told[row['kind_by']]}")
    click.echo(f"  disk      {grouped(source['bytes'])} → {grouped(row['bytes'])} bytes")
    click.echo(f"  GPU       {grouped(source['gpu_bytes'])} → {grouped(row['gpu_bytes'])} bytes with mips")
    figures = f"PSNR {row['psnr']:.2f} dB, SSIM {row['ssim']:.4f}"
    if row["angle_mean"] is not None:
        figures += f", normals off by {row['angle_mean']:.3f}° on the average, 95 % under {row['angle_p95']:.3f}°"
    if row["coverage"] is not None:
        figures += f", coverage {100 * row['coverage']:+.2f} %"
    click.echo(f"  quality   {figures}; {row['seconds']:.2f} s")


def show_gpu_file(file: str, as_json: bool) -> int:
    """Say what a DDS or KTX2 holds."""
    data = read_bytes(file)
    facts = describe(data, file)
    if as_json:
        print_json({"file": file, "bytes": len(data), **asdict(facts)})
        return DONE
    packed = f", supercompressed by {facts.supercompression}" if facts.supercompression else ""
    click.echo(f"{file}: {facts.container}, {facts.format}{packed}")
    click.echo(f"  {facts.width} × {facts.height} pixels, {facts.levels} mips, {grouped(len(data))} bytes")
    return DONE
