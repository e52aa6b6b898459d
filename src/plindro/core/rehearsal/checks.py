"""What a strict engine sees of shipped files, and what it would stumble over."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Places, Severity, counted, grouped
from plindro.core.rehearsal.axes import axes_of
from plindro.core.rehearsal.chain import Chain, ChainLevel, is_one_level, recognise, together
from plindro.core.rehearsal.drawn import Drawn, draw
from plindro.core.rehearsal.expected import Expected
from plindro.core.rehearsal.found import F64, Found, FoundMaterial
from plindro.core.rehearsal.levels import check_chain
from plindro.core.rehearsal.light_map import judge_light_map
from plindro.core.rehearsal.materials import check_materials, seen_materials
from plindro.core.rehearsal.placing import check_level_places, check_placing
from plindro.core.rehearsal.proxies import check_proxies, seen_proxies
from plindro.core.rehearsal.readers import read_found
from plindro.core.rehearsal.seen import SeenLevel, SeenLightMap, SeenProp
from plindro.core.rehearsal.surface import Wanted, check_surface, check_tangents, opposed_triangles
from plindro.core.rehearsal.vertex_limit import SHORT, cut_of, pieces_of

NOTHING = Expected()


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """What a receiving engine sees, and what is wrong with it."""

    seen: SeenProp
    findings: tuple[Finding, ...]


def rehearse(
    mains: Sequence[str],
    files: Mapping[str, bytes],
    destination: Destination,
    expected: Expected = NOTHING,
) -> Rehearsal:
    """Read a prop's files as an engine that the destination is for, and check them.

    ``mains`` are those that hold its meshes: one, or one a level where the format has one in each; ``files`` has all
    that belong to it, by paths below one folder. Raises ``UnreadableFile`` where they cannot be read at all.
    """
    axes = axes_of(destination)
    found = [read_found(path, files, axes) for path in mains]
    chain = together([recognise(one, path, destination) for one, path in zip(found, mains, strict=True)])
    chain.n_roots = max((1 if one.is_flat else len(one.roots) for one in found), default=0)
    materials = found[0].materials
    drawn = [draw(level.primitives) for level in chain.levels]
    bounds = [_bounds(arrays) for arrays in drawn] or [_bounds(draw([]))]
    low, high = bounds[0]
    lit = _light_map(drawn, destination)
    findings = [*check_chain(chain, mains[0], destination, expected), *check_proxies(chain.proxies)]
    for index, (level, arrays) in enumerate(zip(chain.levels, drawn, strict=True)):
        findings += check_surface(level, arrays, index, _wanted(mains[0], destination), drawn[0])
        findings += check_tangents(level, materials, index) if destination.tangents else ()
        findings += _check_limit(level, index, destination)
    findings += check_materials(chain.levels, materials, destination)
    findings += _check_light_map(lit, drawn, destination)
    if drawn:
        findings += check_placing(low, high, found[0], destination, expected)
        findings += check_level_places(chain.levels, bounds)
    return Rehearsal(_seen(chain, drawn, found[0], lit, (low, high), destination), tuple(findings))


def _wanted(path: str, destination: Destination) -> Wanted:
    """What a level has in a file of this format."""
    has_corners = not path.lower().endswith(".stl")
    return Wanted(
        normals=destination.normals and has_corners,
        uvs=has_corners and destination.max_uv_channels > 0,
        materials=not is_one_level(path),
    )


def _bounds(drawn: Drawn) -> tuple[F64, F64]:
    """The lowest and the highest corner of a level."""
    places = drawn.positions
    places = places[np.isfinite(places).all(axis=1)]
    return (places.min(axis=0), places.max(axis=0)) if len(places) else (np.zeros(3), np.zeros(3))


def _check_limit(level: ChainLevel, index: int, destination: Destination) -> Iterator[Finding]:
    """A mesh with more vertices than the engine's indices name."""
    limit = destination.max_engine_vertices
    for mesh in level.meshes:
        count = sum(len(p.positions) for p in mesh.primitives)
        if count <= limit:
            continue
        pieces = pieces_of(mesh.primitives, limit)
        text = (
            f"{mesh.name}: {grouped(count)} vertices in a mesh; the destination holds {grouped(limit)}, "
            f"and would cut it in {counted(pieces, 'piece')} in the order of its triangles"
        )
        severity = Severity.WARNING if destination.past_limit == "warn" else Severity.STOP
        places = Places.of(cut_of(mesh.primitives, limit))
        yield Finding("engine-vertices-over-limit", severity, text, count, index, places=places)


def _light_map(drawn: Sequence[Drawn], destination: Destination) -> SeenLightMap:
    """The worst state of the light map's channel over all levels."""
    channel = destination.light_map_channel
    judged = [judge_light_map(channel, arrays.uvs, arrays.triangles) for arrays in drawn]
    order = ("absent", "outside", "overlaps", "holds")
    nothing = SeenLightMap(channel=channel, state="absent", covered_twice=0.0, outside=0.0)
    return min(judged, key=lambda one: order.index(one.state), default=nothing)


def _check_light_map(lit: SeenLightMap, drawn: Sequence[Drawn], destination: Destination) -> Iterator[Finding]:
    if not destination.light_map or lit.state == "holds" or not drawn:
        return
    others = [
        channel
        for channel, uv in drawn[0].uvs.items()
        if channel and channel != lit.channel
        and judge_light_map(channel, {channel: uv}, drawn[0].triangles).state == "holds"
    ]  # fmt: skip
    if others:
        text = f"the light map lies on channel {others[0]}; the destination reads channel {lit.channel}"
        yield Finding("light-map-channel-wrong", Severity.STOP, text)
    elif lit.state == "absent":
        text = f"the destination asks for a light map on channel {lit.channel}, and a level has no such channel"
        yield Finding("light-map-missing", Severity.STOP, text)
    elif lit.state == "overlaps":
        text = f"channel {lit.channel} overlaps on {lit.covered_twice:.1%} of its texels; light would show on both"
        yield Finding("light-map-overlaps", Severity.STOP, text)
    else:
        text = f"channel {lit.channel} leaves the square with {lit.outside:.1%} of its vertices"
        yield Finding("light-map-outside", Severity.STOP, text)


def _seen(
    chain: Chain,
    drawn: Sequence[Drawn],
    found: Found,
    lit: SeenLightMap,
    bounds: tuple[F64, F64],
    destination: Destination,
) -> SeenProp:
    low, high = bounds
    behind = sum(int(opposed_triangles(arrays).sum()) for arrays in drawn[:1])
    total = max(sum(len(arrays.triangles) for arrays in drawn[:1]), 1)
    return SeenProp(
        prop=chain.prop,
        levels=[_seen_level(level, destination.max_engine_vertices) for level in chain.levels],
        materials=seen_materials(chain.levels, found.materials),
        proxies=seen_proxies(chain.proxies),
        size=(high - low).tolist(),
        lowest=low.tolist(),
        place=list(found.place),
        up=found.up or destination.up,
        metres=found.metres or axes_of(destination).metres,
        uv_channels=sorted(drawn[0].uvs) if drawn else [],
        light_map=lit,
        tangents=_tangents(chain.levels, found.materials) if destination.tangents else "not needed",
        drawn_from_behind=behind / total,
    )


def _tangents(
    levels: Sequence[ChainLevel], materials: Sequence[FoundMaterial]
) -> Literal["there", "missing", "not needed"]:
    needing = [
        primitive
        for level in levels
        for primitive in level.primitives
        if primitive.material is not None
        and primitive.material < len(materials)
        and materials[primitive.material].has_normal_map
    ]
    if not needing:
        return "not needed"
    return "missing" if any(primitive.tangents is None for primitive in needing) else "there"


def _seen_level(level: ChainLevel, limit: int) -> SeenLevel:
    widths = {primitive.wide for primitive in level.primitives if primitive.wide is not None}
    return SeenLevel(
        name=level.name,
        number=level.number,
        triangles=sum(len(p.triangles) for p in level.primitives),
        vertices=sum(len(p.positions) for p in level.primitives),
        draws=len(level.primitives),
        parts=sorted({mesh.part for mesh in level.meshes} - {""}),
        pieces=sum(pieces_of(mesh.primitives, limit) for mesh in level.meshes),
        pieces_16=sum(pieces_of(mesh.primitives, SHORT) for mesh in level.meshes),
        wide=any(widths) if widths else None,
    )
