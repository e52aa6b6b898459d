"""What ``inspect`` says of UVs: a document for each channel, and a line of words."""

from dataclasses import asdict
from typing import Any

from plindro.cli.output import grouped
from plindro.core.prop import Prop
from plindro.core.uvs.judge import ChannelFigures, judge_channel, pixels_along


def judge_uvs(prop: Prop, textures: list[tuple[int, int]]) -> tuple[int, list[dict[str, Any]], list[str]]:
    """Pixels along the side that is judged for, the figures of each channel, and a line for each.

    ``textures`` are widths and heights; the largest counts.
    """
    pixels = pixels_along(textures)
    documents, lines = [], []
    for channel in range(len(prop.mesh.uvs)):
        judged = judge_channel(prop.mesh, channel, pixels, len(prop.parts))
        parts = [
            {"name": part.name, **asdict(figures)}
            for part, figures in zip(prop.parts, judged.parts, strict=True)
            if figures is not None
        ]
        documents.append({**asdict(judged.whole), "parts": parts})
        lines.append(in_words(judged.whole))
    return pixels, documents, lines


def _percent(share: float) -> str:
    return f"{100 * share:.3g} %"


def in_words(figures: ChannelFigures) -> str:
    """The figures that are worth a look at every prop, and the others where they are not nothing."""
    one = figures.islands == 1
    said = [f"{grouped(figures.islands)} island{'' if one else 's'}", f"{_percent(figures.used)} of the square used"]
    if figures.overlap:
        mirrored = f" ({_percent(figures.mirrored_overlap)} mirrored)" if figures.mirrored_overlap else ""
        said.append(f"{_percent(figures.overlap)} overlapping{mirrored}")
    if figures.outside:
        said.append(f"{_percent(figures.outside)} outside")
    for count, what in (
        (figures.flipped_islands, "flipped island"),
        (figures.flipped_triangles, "flipped triangle"),
        (figures.zero_area_triangles, "zero-area triangle"),
    ):
        if count:
            said.append(f"{grouped(count)} {what}{'' if count == 1 else 's'}")
    if figures.density is not None:
        density = figures.density
        said.append(f"{density.least:.0f} to {density.largest:.0f} px/m, median {density.median:.0f}")
    if figures.stretch is not None:
        said.append(f"stretch L2 {figures.stretch.l2:.3f}")
    if figures.gap:
        said.append(f"islands {figures.gap:.3g} px apart, bleeding from mip {figures.bleeds_at}")
    said.append(f"{grouped(figures.seams.edges)} seam edges, {figures.seams.length:.3g} m")
    return ", ".join(said)
