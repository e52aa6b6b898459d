"""One sheet for many props: their islands on one square, their maps resampled together, their materials one."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

import numpy as np

from plindro.core.errors import InvalidSettings
from plindro.core.findings import Finding, Severity, counted
from plindro.core.packing import Sheet
from plindro.core.prop import Prop
from plindro.core.scene import Material
from plindro.core.sheets.baking import Painter, bake
from plindro.core.sheets.costs import Costs, costs_apart, costs_together, texture_density
from plindro.core.sheets.joining import KeptOut, join_props
from plindro.core.sheets.materials import Painted, read_painted
from plindro.core.sheets.pieces import Piece, find_pieces
from plindro.core.sheets.placing import Density, place, strip_axis

Tiling = Literal["out", "repeat", "strip"]
Step = Callable[[float, str], None]
_FOUND, _PLACED = 0.15, 0.5


@dataclass(frozen=True, slots=True)
class Shared:
    """``prop`` holds the props as its parts, with the sheet; what they cost before and after."""

    prop: Prop
    before: Costs
    after: Costs
    findings: tuple[Finding, ...]


def _gather(
    props: Sequence[Prop], tiling: Tiling, step: Step
) -> tuple[list[Piece], list[Painted], list[bool], list[KeptOut], list[Finding]]:
    """The pieces of all props, how each is painted and whether it is a strip; what is kept out, and why."""
    pieces: list[Piece] = []
    painted: list[Painted] = []
    strips: list[bool] = []
    kept: list[KeptOut] = []
    findings: list[Finding] = []
    for number, prop in enumerate(props):
        step(number / len(props), f"islands of {prop.name}")
        for material in np.unique(prop.mesh.face_material).tolist():
            how = read_painted(prop.materials[material], prop.images)
            if isinstance(how, str):
                kept.append(KeptOut(number, material))
                findings.append(Finding("sheet-kept-out", Severity.WARNING, f"{prop.name}: {how}; it stays as it is"))
                continue
            found = find_pieces(number, prop.mesh, material, how)
            tiling_pieces = [piece for piece in found if piece.tiles]
            lies_on_strips = tiling == "strip" and all(strip_axis(p, how) is not None for p in tiling_pieces)
            if tiling_pieces and tiling != "repeat" and not lies_on_strips:
                kept.append(KeptOut(number, material))
                findings.append(_kept_out(prop, material, len(tiling_pieces), tiling))
                continue
            pieces += found
            painted += [how] * len(found)
            strips += [tiling == "strip" and piece.tiles for piece in found]
    return pieces, painted, strips, kept, findings


def _kept_out(prop: Prop, material: int, n: int, tiling: Tiling) -> Finding:
    why = "tiles both ways" if tiling == "strip" else "tiles"
    text = f"{prop.name}: {prop.materials[material].name} {why} ({counted(n, 'island')}) and stays as it is"
    return Finding("sheet-kept-out", Severity.INFO, text, n)


class _Way(NamedTuple):
    """How a material is drawn: where that differs, materials cannot be one."""

    alpha_mode: Literal["OPAQUE", "MASK", "BLEND"]
    alpha_cutoff: float
    double_sided: bool


def _groups(pieces: Sequence[Piece], props: Sequence[Prop]) -> tuple[list[_Way], list[int]]:
    """The ways in which pieces are drawn, each once, and the number of each piece's."""
    ways: dict[_Way, int] = {}
    of = []
    for piece in pieces:
        material = props[piece.prop].materials[piece.material]
        cutoff = material.alpha_cutoff if material.alpha_mode == "MASK" else 0.5
        of.append(ways.setdefault(_Way(material.alpha_mode, cutoff, material.double_sided), len(ways)))
    return list(ways), of


def share_sheet(
    name: str,
    props: Sequence[Prop],
    sheet: Sheet,
    step: Step,
    *,
    tiling: Tiling = "out",
    density: Density = "even",
) -> Shared:
    """Put the islands of triangle meshes onto one sheet, their maps with them; the props themselves stay as they are.

    Parameters
    ----------
    tiling : a material whose texture repeats over an island is kept out, or repeated into the sheet, or given a strip
        over the whole width, where it repeats along one direction
    density : pixels a metre are the same everywhere, or keep to each other as they were painted

    Raises ``InvalidSettings`` where they do not fit, or none has UVs.
    """
    without = [prop.name for prop in props if not prop.mesh.uvs]
    if without:
        raise InvalidSettings(f"{', '.join(without[:3])} has no UVs; unwrap it first")
    pieces, painted, strips, kept, findings = _gather(props, tiling, lambda d, what: step(_FOUND * d, what))
    if not pieces:
        raise InvalidSettings("no material can go onto the sheet: all of them tile; repeat them into it")
    placement = place(
        pieces, painted, strips, sheet, density, lambda d: step(_FOUND + d * (_PLACED - _FOUND), "packing")
    )
    ways, of = _groups(pieces, props)
    painters = [
        Painter(props[piece.prop].materials[piece.material], props[piece.prop].images, how.repeats)
        for piece, how in zip(pieces, painted, strict=True)
    ]
    baked = bake(name, placement, painters, lambda d, what: step(_PLACED + d * (1 - _PLACED), f"{what} of the sheet"))
    materials = [_drawn_as(baked.material, way, number) for number, way in enumerate(ways)]
    prop = join_props(name, props, placement, of, materials, baked.images, kept)
    densities = [
        texture_density(piece, how) * placed.scale
        for piece, how, placed in zip(pieces, painted, placement.placed, strict=True)
    ]
    after = costs_together(prop, pieces, densities)
    return Shared(prop, costs_apart(props), after, (*findings, *_lost_extensions(painters)))


def _drawn_as(material: Material, way: _Way, number: int) -> Material:
    return replace(material, name=material.name if number == 0 else f"{material.name}_{number + 1}", **way._asdict())


def _lost_extensions(painters: Sequence[Painter]) -> list[Finding]:
    names = sorted({extension.name for painter in painters for extension in painter.material.extensions})
    if not names:
        return []
    text = f"the sheet's material goes without {', '.join(names)}, which not all materials have alike"
    return [Finding("sheet-extensions-lost", Severity.WARNING, text, len(names))]
