"""What would fail in an engine that reads a shipped file."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Places, Severity, counted, grouped
from plindro.core.rehearsal.proxies import check_proxies
from plindro.core.rehearsal.reader import ShippedLevel, ShippedProp, read_shipped

UNIT_TOLERANCE = 2e-3
OPPOSED_SHARE = 0.02
"""More than this share of triangles that face against their normals is a fault, not a fold."""


_STEP = re.compile(r"_T\d+$")


def _bare(material: str) -> str:
    """A material's name without its step: with smaller textures it is still that material."""
    return _STEP.sub("", material)


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """What a receiving engine sees: the prop, its levels (name, triangles, vertices), and what is wrong."""

    prop: str
    levels: tuple[dict[str, Any], ...]
    findings: tuple[Finding, ...]


def rehearse(data: bytes, name: str, destination: Destination, beside: Mapping[str, bytes] | None = None) -> Rehearsal:
    """Read shipped GLB bytes, or a glTF with what lies ``beside`` it, and check them; raises ``UnreadableFile`` where
    they cannot be read at all."""

    def is_other(root: str, node: str) -> bool:
        owner = destination.owner_of(root)
        numbers = (destination.proxy_number(owner, node), destination.level_number(owner, node))
        return any(number is not None for number in numbers)

    prop = read_shipped(data, name, beside, is_nested=destination.hierarchy == "nested", is_other=is_other)
    prop.name = destination.owner_of(prop.name)
    named = [(destination.proxy_number(prop.name, level.name), level) for level in prop.levels]
    proxies = [(number, level) for number, level in named if number is not None]
    prop.levels = [level for number, level in named if number is None]
    findings = [*_check_chain(prop, destination), *check_proxies(proxies)]
    for index, level in enumerate(prop.levels):
        findings += _check_level(level, index, wants_normals=destination.normals)
        count, limit = level.largest_mesh, destination.max_engine_vertices
        if count > limit:
            text = f"{level.name}: {grouped(count)} vertices in a mesh; the destination holds {grouped(limit)}"
            severity = Severity.WARNING if destination.past_limit == "warn" else Severity.STOP
            findings.append(Finding("engine-vertices-over-limit", severity, text, count, index))
    levels = tuple(
        {"index": i, "name": x.name, "triangles": len(x.triangles), "vertices": len(x.positions)}
        for i, x in enumerate(prop.levels)
    )
    return Rehearsal(prop.name, levels, tuple(findings))


def _stop(code: str, message: str, count: int = 1, level: int | None = None, places: Places | None = None) -> Finding:
    return Finding(code, Severity.STOP, message, count, level, places=places)


def _check_chain(prop: ShippedProp, destination: Destination) -> list[Finding]:
    """Names, their order, falling counts, the same materials."""
    findings: list[Finding] = []
    if prop.n_roots != 1:
        findings.append(_stop("several-roots", f"{prop.n_roots} root nodes where one is expected", prop.n_roots))
    if not prop.levels:
        return [*findings, _stop("levels-missing", "no mesh node lies below the root; there is nothing to draw", 0)]
    numbers = []
    for index, level in enumerate(prop.levels):
        expected = destination.level_name(prop.name, index)
        number = destination.level_number(prop.name, level.name)
        if number is None:
            text = f"'{level.name}' is not named as the destination expects ('{expected}'); the chain is not recognised"
            findings.append(_stop("level-name-wrong", text, level=index))
        else:
            numbers.append(number)
    if numbers != sorted(numbers):
        findings.append(_stop("levels-out-of-order", f"the levels come in the order {numbers}"))
    elif len(set(numbers)) < len(numbers):
        findings.append(_stop("level-name-twice", f"a level number comes twice in {numbers}"))
    elif len(numbers) == len(prop.levels) and numbers != list(range(len(numbers))):
        findings.append(_stop("level-number-missing", f"the levels are numbered {numbers}; count from 0 without gaps"))
    counts = [len(level.triangles) for level in prop.levels]
    for index, (above, below) in enumerate(pairwise(counts), 1):
        if below >= above:
            name = prop.levels[index].name
            text = f"{name} has {grouped(below)} triangles, the level above has {grouped(above)}; counts must fall"
            findings.append(_stop("triangles-not-decreasing", text, level=index))
    known = {_bare(name) for name in prop.levels[0].material_names}
    for index, level in enumerate(prop.levels[1:], 1):
        new = {name for name in level.material_names if _bare(name) not in known}
        if new:
            text = f"{level.name} uses {len(new)} materials that LOD0 does not have"
            findings.append(Finding("materials-differ", Severity.WARNING, text, len(new), index))
    return findings


def _check_level(level: ShippedLevel, index: int, *, wants_normals: bool) -> list[Finding]:
    findings: list[Finding] = []

    def say(code: str, severity: Severity, text: str, count: int = 1, places: Places | None = None) -> None:
        findings.append(Finding(code, severity, f"{level.name}: {text}", count, index, places=places))

    if level.is_placed:
        say("transform-unapplied", Severity.STOP, "its node moves, turns or scales it; bake it into the vertices")
    if level.index_beyond:
        say("index-out-of-range", Severity.STOP, "an index names a vertex that is not there")
    if not len(level.triangles):
        say("level-empty", Severity.STOP, "has no triangles", 0)
        return findings
    bad = ~np.isfinite(level.positions).all(axis=1)
    if bad.any():
        say("non-finite-positions", Severity.STOP, f"{bad.sum()} vertices have no finite position", int(bad.sum()))
    if any(material is None for material in level.materials):
        say("material-missing", Severity.WARNING, "a primitive has no material")
    if not level.uvs:
        say("uvs-missing", Severity.WARNING, "has no UVs; some engines refuse it")
    for channel, uv in enumerate(level.uvs):
        wrong = int((~np.isfinite(uv).all(axis=1)).sum())
        if wrong:
            say("non-finite-uvs", Severity.STOP, f"{wrong} vertices have no finite UV in channel {channel}", wrong)
    cross, degenerate = _check_triangles(level)
    if degenerate.any():
        number = int(degenerate.sum())
        places = Places.of(level.positions[level.triangles[degenerate]])
        say(
            "zero-area-triangles",
            Severity.WARNING,
            counted(number, "zero-area triangle"),
            number,
            places,
        )
    if level.normals is None:
        if wants_normals:
            say("normals-missing", Severity.STOP, "has no normals")
        return findings
    findings += _check_normals(level, level.normals, cross, degenerate, index)
    if level.lacks_tangents:
        say("tangents-missing", Severity.INFO, "a material has a normal map and its vertices have no tangents")
    if level.tangents is not None:
        length = np.linalg.norm(level.tangents[:, :3], axis=1)
        wrong = int((~(np.abs(length - 1) < UNIT_TOLERANCE) | (np.abs(level.tangents[:, 3]) != 1)).sum())
        if wrong:
            say("tangents-wrong", Severity.STOP, f"{wrong} tangents are not unit vectors with a sign of 1 or -1", wrong)
    return findings


def _check_triangles(level: ShippedLevel) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """Area vectors of all triangles, and which of them have no area."""
    with np.errstate(invalid="ignore"):
        a, b, c = (level.positions[level.triangles[:, k]] for k in range(3))
        cross = np.cross(b - a, c - a)
        extent = np.nanmax(np.ptp(level.positions, axis=0)) if len(level.positions) else 0.0
        return cross, ~(np.linalg.norm(cross, axis=1) > 1e-12 * float(extent) ** 2)


def _check_normals(
    level: ShippedLevel,
    normals: NDArray[np.float64],
    cross: NDArray[np.float64],
    degenerate: NDArray[np.bool_],
    index: int,
) -> list[Finding]:
    findings = []
    length = np.linalg.norm(normals, axis=1)
    wrong = ~(np.abs(length - 1) < UNIT_TOLERANCE)
    if wrong.any():
        number = int(wrong.sum())
        text = f"{level.name}: {number} normals are not unit vectors"
        findings.append(_stop("normals-not-unit", text, number, index, Places.of(level.positions[wrong])))
    mean = normals[level.triangles].sum(axis=1)
    opposed = (np.einsum("ij,ij->i", mean, cross) < 0) & ~degenerate
    if opposed.any():
        number = int(opposed.sum())
        severe = number > max(OPPOSED_SHARE * len(level.triangles), 1)
        text = f"{level.name}: {number} triangles are wound against their normals; the engine does not draw them"
        places = Places.of(level.positions[level.triangles[opposed]])
        severity = Severity.STOP if severe else Severity.WARNING
        findings.append(Finding("winding-against-normals", severity, text, number, index, places=places))
    return findings
