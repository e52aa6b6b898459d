"""Surfaces as they are drawn with back faces culled: finite places, areas, normals, winding, tangents."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from plindro.core.findings import Finding, Places, Severity, counted
from plindro.core.numeric.bounds import group_bounds
from plindro.core.numeric.facing import points_back
from plindro.core.numeric.groups import connected
from plindro.core.rehearsal.chain import ChainLevel
from plindro.core.rehearsal.drawn import Drawn
from plindro.core.rehearsal.found import F64, I64, FoundMaterial, Primitive

UNIT_TOLERANCE = 2e-3
OPPOSED_SHARE = 0.02
"""More than this share of triangles that face against their normals is a fault, not a fold."""
_WRONG_HAND = 0.25
"""More than this share of triangles with tangents of the other hand is no seam any more."""
_THIN, _FEWEST = 0.005, 4
"""Mean thickness over its size below which a shell of so few triangles is flat, and a wall thin."""
_ASKED = 16
"""So many triangles of LOD0 are asked which way they face around one of a level."""
_ACROSS = 0.5
"""More than this share of triangles whose tangents do not lie along U is no smoothing any more."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a level has to have."""

    normals: bool
    uvs: bool
    materials: bool


def check_surface(level: ChainLevel, drawn: Drawn, index: int, wanted: Wanted, lod0: Drawn) -> Iterator[Finding]:
    """What is wrong with the places, UVs and normals of a level of a chain with that LOD0."""

    def say(code: str, severity: Severity, text: str, count: int = 1, places: Places | None = None) -> Finding:
        return Finding(code, severity, f"{level.name}: {text}", count, index, places=places)

    if level.is_placed:
        yield say("transform-unapplied", Severity.STOP, "its node moves, turns or scales it; bake it into the vertices")
    if any(primitive.beyond for primitive in level.primitives):
        yield say("index-out-of-range", Severity.STOP, "an index names a vertex that is not there")
    if any(primitive.restarts for primitive in level.primitives):
        text = "it uses the largest index, which starts a new strip in many engines; give the vertex another number"
        yield say("index-restarts", Severity.WARNING, text)
    if not len(drawn.triangles):
        yield say("level-empty", Severity.STOP, "has no triangles", 0)
        return
    bad = int((~np.isfinite(drawn.positions).all(axis=1)).sum())
    if bad:
        yield say(
            "non-finite-positions",
            Severity.STOP,
            f"{counted(bad, 'vertex', 'vertices')} without a finite position",
            bad,
        )
    if wanted.materials and any(primitive.material is None for primitive in level.primitives):
        yield say("material-missing", Severity.WARNING, "a primitive has no material")
    if wanted.uvs and not drawn.uvs:
        yield say("uvs-missing", Severity.WARNING, "has no UVs; some engines refuse it")
    for channel, uv in drawn.uvs.items():
        wrong = int((~np.isfinite(uv).all(axis=1)).sum())
        if wrong:
            text = f"{counted(wrong, 'vertex', 'vertices')} without a finite UV in channel {channel}"
            yield say("non-finite-uvs", Severity.STOP, text, wrong)
    if drawn.flat.any():
        number = int(drawn.flat.sum())
        places = Places.of(drawn.positions[drawn.triangles[drawn.flat]])
        text = f"{counted(number, 'zero-area triangle')}; they draw nothing, remove them in Cleanup or the source"
        yield say("zero-area-triangles", Severity.WARNING, text, number, places)
    if drawn.normals is None:
        if wanted.normals:
            yield say("normals-missing", Severity.STOP, "has no normals")
    else:
        yield from _check_normals(level, drawn, drawn.normals, index)
    if not bad:
        yield from _check_inside_out(level, drawn, index, lod0)


def _check_normals(level: ChainLevel, drawn: Drawn, normals: F64, index: int) -> Iterator[Finding]:
    wrong = ~(np.abs(np.linalg.norm(normals, axis=1) - 1) < UNIT_TOLERANCE)
    if wrong.any():
        number = int(wrong.sum())
        text = f"{level.name}: {counted(number, 'normal')} not of length 1"
        places = Places.of(drawn.positions[wrong])
        yield Finding("normals-not-unit", Severity.STOP, text, number, index, places=places)
    opposed = opposed_triangles(drawn)
    if opposed.any():
        number = int(opposed.sum())
        is_severe = number > max(OPPOSED_SHARE * len(drawn.triangles), 1)
        text = f"{level.name}: {counted(number, 'triangle')} wound against the normals; the engine does not draw them"
        places = Places.of(drawn.positions[drawn.triangles[opposed]])
        severity = Severity.STOP if is_severe else Severity.WARNING
        yield Finding("winding-against-normals", severity, text, number, index, places=places)


def opposed_triangles(drawn: Drawn) -> NDArray[np.bool_]:
    """(T,) which triangles are seen from behind where their normals face the eye."""
    if drawn.normals is None:
        return np.zeros(len(drawn.triangles), bool)
    return points_back(drawn.normals[drawn.triangles], drawn.cross) & ~drawn.flat


def _check_inside_out(level: ChainLevel, drawn: Drawn, index: int, lod0: Drawn) -> Iterator[Finding]:
    """Closed shells that enclose less than nothing and lie in no other: they are drawn from within.

    Far from LOD0 the two sides of a thin wall may cross, and its volume says nothing: where it faces does.
    """
    turned = _shells_inside_out(drawn.positions, drawn.triangles)
    if turned.any() and (index == 0 or _faces_against(drawn, turned, lod0)):
        number = int(turned.sum())
        text = f"{level.name}: {counted(number, 'triangle')} of closed shells face inwards; turn their faces"
        places = Places.of(drawn.positions[drawn.triangles[turned]])
        is_most = number > len(drawn.triangles) / 2
        yield Finding("inside-out", Severity.STOP if is_most else Severity.WARNING, text, number, index, places=places)


def _faces_against(drawn: Drawn, chosen: NDArray[np.bool_], lod0: Drawn) -> bool:
    """Whether most of the chosen triangles, by area, lie nearer to what of LOD0 faces against them than to what faces
    as they do, by more than a thin wall."""
    solid = np.flatnonzero(~lod0.flat)
    if not len(solid):
        return True
    middles, facing = lod0.positions[lod0.triangles[solid]].mean(axis=1), lod0.cross[solid]
    places, vectors = drawn.positions[drawn.triangles[chosen]].mean(axis=1), drawn.cross[chosen]
    distance, near = scipy.spatial.KDTree(middles).query(places, k=range(1, min(_ASKED, len(solid)) + 1))
    is_along = np.einsum("ij,ikj->ik", vectors, facing[near]) > 0
    along, against = (np.where(which, distance, np.inf).min(axis=1) for which in (is_along, ~is_along))
    wall = _THIN * np.linalg.norm(np.ptp(lod0.positions, axis=0))
    areas = np.linalg.norm(vectors, axis=1)
    return bool(areas[along > against + wall].sum() > 0.5 * areas.sum())


def _shells_inside_out(positions: F64, triangles: I64) -> NDArray[np.bool_]:
    """(T,) the triangles of those shells."""
    number, first = _same_places(positions)
    places, corners, n = positions[first], number[triangles], len(first)
    tails, heads = corners[:, [0, 1, 2]].reshape(-1), corners[:, [1, 2, 0]].reshape(-1)
    # Two sides of a triangle hold it together.
    of_place = connected(n, corners[:, :2].reshape(-1), corners[:, 1:].reshape(-1))[0].astype(np.int64)
    shell = of_place[corners[:, 0]]
    n_shells = int(of_place.max()) + 1
    is_open = _are_open(tails, heads, shell, n_shells)
    middle = positions.mean(axis=0)
    a, b, c = (places[corners[:, k]] - middle for k in range(3))
    volume = np.bincount(shell, np.einsum("ij,ij->i", a, np.cross(b, c)), n_shells)
    low, high = group_bounds(places, places, of_place, n_shells)
    size = np.prod(high - low, axis=1)
    is_turned = ~is_open & (volume < -1e-9 * np.maximum(size, 1e-30))
    # A board that has come down to four triangles is flat: which of its two sides is above is chance.
    area = np.bincount(shell, np.linalg.norm(np.cross(b - a, c - a), axis=1), n_shells)
    is_thin = abs(volume) < 1.5 * _THIN * area * np.linalg.norm(high - low, axis=1)
    suspects = np.flatnonzero(is_turned & ~(is_thin & (np.bincount(shell, minlength=n_shells) <= _FEWEST)))
    outer = [s for s in suspects if not _lies_within(int(s), low, high)]
    return np.isin(shell, outer)


def _same_places(positions: F64) -> tuple[I64, I64]:
    """(V,) a number for every place, equal where places are, and (P,) a vertex at each."""
    keys = np.zeros(len(positions), np.uint64)
    for values in (positions + 0.0).T:  # -0 is 0
        keys = _mixed(keys ^ np.ascontiguousarray(values).view(np.uint64))
    _, first, number = np.unique(keys, return_index=True, return_inverse=True)
    return number.reshape(-1), first


def _are_open(tails: I64, heads: I64, shell: I64, n_shells: int) -> NDArray[np.bool_]:
    """(S,) shells on which some edge is not walked as often forth as back: they are not closed, or not wound one way.

    A half-edge counts as a random number of its edge, forth as plus and back as minus; over a closed shell the sum is
    zero, and over any other only once in 2^64.
    """
    low, high = np.minimum(tails, heads).astype(np.uint64), np.maximum(tails, heads).astype(np.uint64)
    weight = _mixed(_mixed(low) ^ high)
    weight = np.where(tails < heads, weight, ~weight + np.uint64(1)) * (tails != heads)
    sums = np.zeros(n_shells, np.uint64)
    np.add.at(sums, np.repeat(shell, 3), weight)
    return sums != 0


def _mixed(keys: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Numbers whose bits each hang on all bits of the key (the finalizer of Steele, Lea and Flood 2014)."""
    keys = (keys ^ (keys >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    keys = (keys ^ (keys >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return keys ^ (keys >> np.uint64(31))


def _lies_within(shell: int, low: F64, high: F64) -> bool:
    """Whether the box of a shell lies in another's: then it may be the inner side of a hollow."""
    holds = (low <= low[shell]).all(axis=1) & (high >= high[shell]).all(axis=1)
    holds[shell] = False
    return bool(holds.any())


def check_tangents(level: ChainLevel, materials: Sequence[FoundMaterial], index: int) -> Iterator[Finding]:
    """What is wrong with tangents where a normal map needs them."""
    wrong = turned = across = total = 0
    for primitive in level.primitives:
        if primitive.tangents is None:
            if _needs_tangents(primitive, materials):
                text = f"{level.name}: a material has a normal map and its vertices have no tangents"
                yield Finding("tangents-missing", Severity.INFO, text, level=index)
            continue
        tangents = primitive.tangents
        length = np.linalg.norm(tangents[:, :3], axis=1)
        wrong += int((~(np.abs(length - 1) < UNIT_TOLERANCE) | (np.abs(tangents[:, 3]) != 1)).sum())
        hand, along, counts = _against_uvs(primitive)
        turned, across, total = turned + hand, across + along, total + counts
    if wrong:
        text = f"{level.name}: {counted(wrong, 'tangent')} not of length 1 with a sign of 1 or -1"
        yield Finding("tangents-wrong", Severity.STOP, text, wrong, index)
    elif turned > _WRONG_HAND * total:
        text = f"{level.name}: tangents have the wrong hand; bumps of its normal map look like dents along one axis"
        yield Finding("tangents-wrong-hand", Severity.STOP, text, turned, index)
    elif across > _ACROSS * total:
        text = f"{level.name}: tangents do not lie along U of channel 0; its normal map is lit askew"
        yield Finding("tangents-askew", Severity.STOP, text, across, index)


def _needs_tangents(primitive: Primitive, materials: Sequence[FoundMaterial]) -> bool:
    number = primitive.material
    return number is not None and number < len(materials) and materials[number].has_normal_map


def _against_uvs(primitive: Primitive) -> tuple[int, int, int]:
    """How many triangles' tangents have the other hand than their UVs, how many lie across U, and of how many."""
    uv, normals, tangents = primitive.uvs.get(0), primitive.normals, primitive.tangents
    if uv is None or normals is None or tangents is None or not len(primitive.triangles):
        return 0, 0, 0
    a, b, c = primitive.triangles.T
    du, dv = uv[b] - uv[a], uv[c] - uv[a]
    e, f = primitive.positions[b] - primitive.positions[a], primitive.positions[c] - primitive.positions[a]
    area = du[:, 0] * dv[:, 1] - du[:, 1] * dv[:, 0]
    with np.errstate(invalid="ignore"):
        along_u = (e * dv[:, 1:] - f * du[:, 1:]) * np.sign(area)[:, None]
    hand = tangents[:, 3][primitive.triangles]
    is_plain = (
        (np.abs(area) > 0)
        & (np.abs(hand.sum(axis=1)) == 3)
        & np.isfinite(tangents[primitive.triangles]).all(axis=(1, 2))
    )
    mean = tangents[primitive.triangles, :3].sum(axis=1)
    # V counts down the picture, bitangents point up it: an unmirrored triangle turns clockwise on the sheet.
    turned = is_plain & (hand[:, 0] * area > 0)
    askew = is_plain & (np.einsum("ij,ij->i", mean, along_u) <= 0)
    return int(turned.sum()), int(askew.sum()), int(is_plain.sum())
