"""Channels of LOD0 as facts, and what is said of them."""

from dataclasses import asdict

import numpy as np

from plindro.core.findings import Finding, Severity, counted, grouped
from plindro.core.numeric.bounds import group_bounds
from plindro.core.prop import Prop
from plindro.core.stations.uvs.facts import ChannelFacts, ChannelMade, DensityFacts, LevelChannel, PartUvs, StretchFacts
from plindro.core.uvs.judge import ChannelFigures, Judged, find_faults, judge_channel
from plindro.core.uvs.overlap import NO_OVERLAP, measure_overlap
from plindro.core.uvs.sheet import lay_out

_UNEVEN = 3.0
"""How many times less than the prop's median a part's density is worth saying."""


def judge(prop: Prop, channel: int, made: ChannelMade, pixels: int) -> tuple[ChannelFacts, list[Finding]]:
    """A channel of the prop's mesh, as facts and findings."""
    judged = judge_channel(prop.mesh, channel, pixels, len(prop.parts))
    facts = _facts(prop, judged, made, pixels)
    return facts, [*_faults(channel, judged.whole), *_uneven(prop, channel, judged)]


def _facts(prop: Prop, judged: Judged, made: ChannelMade, pixels: int) -> ChannelFacts:
    whole = asdict(judged.whole)
    seams, _ = whole.pop("seams"), whole.pop("tiles")
    stretch, density = whole.pop("stretch"), whole.pop("density")
    return ChannelFacts(
        **whole,
        made=made,
        pixels=pixels,
        stretch=stretch and StretchFacts(**stretch),
        density=density and DensityFacts(**density),
        seam_edges=seams["edges"],
        seam_length=seams["length"],
        seam_vertices=seams["engine_vertices"],
        parts=[
            PartUvs(
                path=part.path,
                islands=figures.islands,
                overlap=figures.overlap,
                outside=figures.outside,
                density=None if figures.density is None else DensityFacts(**asdict(figures.density)),
            )
            for part, figures in list(zip(prop.parts, judged.parts, strict=True))[:200]
            if figures is not None
        ],
    )


def _faults(channel: int, figures: ChannelFigures) -> list[Finding]:
    """What a channel has that no texture suits."""
    findings = []
    if figures.zero_area_triangles:
        n = figures.zero_area_triangles
        text = f"{counted(n, 'triangle')} without area on channel {channel}: a texture is smeared there"
        findings.append(Finding("uv-zero-area", Severity.WARNING, text, n))
    if figures.flipped_triangles:
        n = figures.flipped_triangles
        text = f"{counted(n, 'triangle')} flipped within islands of channel {channel}: they fold onto their neighbours"
        findings.append(Finding("uv-folded", Severity.WARNING, text, n))
    if figures.flipped_islands:
        n = figures.flipped_islands
        text = f"{counted(n, 'flipped island')} on channel {channel}: a texture is mirrored there"
        findings.append(Finding("uv-flipped-islands", Severity.INFO, text, n))
    if figures.gap is not None and figures.gap < 1.0 and not figures.overlap:
        text = f"islands of channel {channel} come within {figures.gap:.2g} pixels of each other; their colours bleed"
        findings.append(Finding("uv-bleeding", Severity.WARNING, text))
    return findings


def _uneven(prop: Prop, channel: int, judged: Judged) -> list[Finding]:
    """Parts whose texture is much coarser than the prop's."""
    if judged.whole.density is None:
        return []
    median = judged.whole.density.median
    findings = []
    for part, figures in zip(prop.parts, judged.parts, strict=True):
        density = None if figures is None else figures.density
        if density is None or density.median <= 0.0 or density.median * _UNEVEN > median:
            continue
        text = (
            f"{part.name} has {grouped(round(density.median))} pixels per metre on channel {channel} where the prop "
            f"has {grouped(round(median))}: its texture is blurred beside the others"
        )
        findings.append(Finding("uv-density-uneven", Severity.WARNING, text, part=part.path))
    return findings


def judge_levels(prop: Prop, first: list[ChannelFacts]) -> list[LevelChannel]:
    """Each channel of the levels below LOD0, whose channels are ``first``, as far as it matters there.

    What overlaps on LOD0 is meant to, and measuring it again for each level would take longest.
    """
    told = []
    for level in prop.levels[1:]:
        for channel in range(len(level.mesh.uvs)):
            laid = lay_out(level.mesh, channel)
            overlaps = channel >= len(first) or first[channel].overlap > 0
            faults = find_faults(laid, NO_OVERLAP if overlaps else measure_overlap(laid))
            told.append(
                LevelChannel(
                    level=level.index,
                    channel=channel,
                    islands=int(laid.covers.sum()),
                    flipped_triangles=faults.flipped_triangles,
                    zero_area_triangles=faults.zero_area_triangles,
                    overlap=None if overlaps else faults.overlap,
                )
            )
    return told


def parts_without(prop: Prop) -> list[int]:
    """Parts whose corners all lie in one point of channel 0: they have no UVs."""
    mesh = prop.mesh
    if not mesh.uvs:
        return []
    part = mesh.face_part[mesh.corner_face()]
    low, high = group_bounds(mesh.uvs[0], mesh.uvs[0], part, len(prop.parts))
    return np.flatnonzero((low == high).all(axis=1)).tolist()
