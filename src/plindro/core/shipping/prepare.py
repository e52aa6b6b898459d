"""From a source's bytes to shippable bytes: read, run the line, write, rehearse. Pure: bytes in, bytes out."""

import hashlib
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import PurePosixPath
from typing import Literal

from plindro.core.destinations import ENDINGS, Destination
from plindro.core.files import SideFiles, read_scene
from plindro.core.findings import Finding, Severity, holds_back
from plindro.core.line import BuiltProp, Facts, Line, StationCache, run_line
from plindro.core.prop import Prop
from plindro.core.rehearsal import Expected, SeenProp, rehearse
from plindro.core.report import Report
from plindro.core.scene import Scene
from plindro.core.shipping.shape import shape_of
from plindro.core.shipping.splitting import split_levels
from plindro.core.shipping.states import StateBuilt, base_line, fallen_back, state_findings, state_line
from plindro.core.shipping.writing import ShippedFile, write_prop
from plindro.core.stations.levels import LEVELS
from plindro.core.textures.kept import TextureCache
from plindro.core.waivers import Waiver, codes_of

ROOM_VERSIONS = {"reading": 3, "checks": 2, "writing": 1, "rehearsal": 2, "viewing": 4}
"""Raised, as a station's version, whenever what is done outside the stations gives another result."""

_SAME_FAULT = {
    "uvs-missing": "uvs-missing",
    "engine-vertices-over-limit": "engine-vertices-over-limit",
    "zero-area-triangles": "zero-area-triangles",
    "materials-over-budget": "materials-over-budget",
    "light-map-missing": "light-map-missing",
    "light-map-overlaps": "light-map-missing",
}
"""Findings of the rehearsal, and the finding about the source that says the same."""


@dataclass(frozen=True, slots=True)
class PrepareResult:
    """What became of one source. ``files`` is empty where a finding holds the prop back; ``states`` are those besides
    its base, ``scene`` the source as it was read; ``is_as_seen``: its file is laid out as the view draws it; ``seen``
    is what the rehearsal saw of the base, ``shape`` what it should have,
    ``waivers`` what was not to hold it back."""

    scene: Scene
    name: str
    status: Literal["shipped", "held"]
    built: BuiltProp
    files: tuple[ShippedFile, ...]
    findings: tuple[Finding, ...]
    facts: Facts
    seconds: float
    states: tuple[StateBuilt, ...] = ()
    is_as_seen: bool = True
    seen: SeenProp | None = None
    shape: Expected | None = None
    waivers: tuple[Waiver, ...] = ()


def prepare(
    data: bytes,
    name: str,
    side_files: SideFiles,
    line: Line,
    destination: Destination,
    report: Report | None = None,
    *,
    cache: StationCache | None = None,
    textures: TextureCache | None = None,
    waivers: tuple[Waiver, ...] = (),
) -> PrepareResult:
    """Take one source through the line and write it for the destination; the bytes are read back before they count.

    ``textures`` keeps what was made of images; findings of ``waivers`` do not hold it back. Raises ``UnreadableFile``
    for a source that cannot be read, and ``Cancelled``.
    """
    report = report or Report()
    started = time.perf_counter()
    report.step(0.0, f"reading {PurePosixPath(name).name}")
    scene = read_scene(data, name, side_files)
    digest = hashlib.sha256(b"|".join([name.encode(), data, *(i.digest.encode() for i in scene.images)])).hexdigest()
    result = prepare_scene(
        scene,
        line,
        destination,
        report.span(0.2, 1.0),
        source_digest=digest,
        cache=cache,
        side_files=side_files,
        textures=textures,
        waivers=waivers,
    )
    return replace(result, seconds=time.perf_counter() - started)


def prepare_scene(
    scene: Scene,
    line: Line,
    destination: Destination,
    report: Report | None = None,
    *,
    source_digest: str | None = None,
    cache: StationCache | None = None,
    side_files: SideFiles | None = None,
    textures: TextureCache | None = None,
    waivers: tuple[Waiver, ...] = (),
    tries_codecs: bool = True,
) -> PrepareResult:
    """As ``prepare`` for a source that was read: one of the props that it gives, as the line's Source station says.

    ``tries_codecs``: whether the facts say what each codec would give of each image.
    """
    report = report or Report()
    started = time.perf_counter()
    states = line.of(LEVELS).states
    share = 0.8 / (1 + len(states))

    def run(own: Line, number: int, beside: Prop | None) -> BuiltProp:
        span = report.span(number * share, (number + 1) * share)
        return run_line(
            scene, own, destination, span, source_digest=source_digest, cache=cache, side_files=side_files,
            beside=beside, textures=textures, waived=codes_of(waivers), tries_codecs=tries_codecs,
        )  # fmt: skip

    built = run(base_line(line), 0, None)
    findings = list(built.findings)
    files: tuple[ShippedFile, ...] = ()
    whole_states: list[StateBuilt] = []
    seen: SeenProp | None = None
    if not built.is_held:
        report.step(share, "writing")
        files, seen = _written(built.prop, destination, findings, partial(report.step, share, "writing"))
        for number, state in enumerate(states, 1):
            own_line = state_line(line, state, built.prop.name, destination)
            of_state = run(own_line, number, built.prop)
            findings += state_findings(state, of_state)
            if of_state.is_held or not of_state.prop.levels:
                continue
            done = (number + 1) * share
            whole = fallen_back(
                state, of_state.prop, built.prop, own_line, destination,
                partial(report.step, done, "comparing states"),
            )  # fmt: skip
            findings += whole.findings
            whole_states.append(whole)
            files += _written(whole.prop, destination, findings, partial(report.step, done, "writing"))[0]
    findings = _as_asked(findings, destination)
    facts = built.facts
    if whole_states and (chain := facts.of(LEVELS)) is not None:
        states_built = [whole.facts() for whole in whole_states]
        facts = facts.with_facts(LEVELS, chain.model_copy(update={"states": states_built}))
    report.step(0.98, "rehearsed")
    is_held = built.is_held or holds_back(findings, codes_of(waivers))
    status: Literal["shipped", "held"] = "held" if is_held else "shipped"
    report.step(1.0, "done")
    return PrepareResult(
        scene=scene,
        name=built.prop.name,
        status=status,
        built=built,
        # A prop and its states may use the same texture.
        files=tuple({file.path: file for file in files}.values()) if status == "shipped" else (),
        findings=tuple(findings),
        facts=facts,
        seconds=time.perf_counter() - started,
        states=tuple(whole_states),
        is_as_seen=destination.is_as_seen,
        seen=seen,
        shape=shape_of(built.prop) if seen else None,
        waivers=waivers,
    )


def _as_asked(findings: list[Finding], destination: Destination) -> list[Finding]:
    """The findings, those that the destination names with the severity of a stop."""
    return [replace(f, severity=Severity.STOP) if f.code in destination.stops else f for f in findings]


def _written(
    prop: Prop, destination: Destination, findings: list[Finding], on_step: Callable[[], None]
) -> tuple[tuple[ShippedFile, ...], SeenProp]:
    """The files of a prop, and what was seen when they were read back; what that finds is added to ``findings``."""
    whole, split = split_levels(prop, destination, on_step)
    findings += split
    files = write_prop(whole, destination, on_step)
    # Of a format's endings the first is that of the files with meshes.
    mains = [file.path for file in files if file.path.endswith(ENDINGS[destination.format][0])]
    rehearsed = rehearse(mains, {file.path: file.data for file in files}, destination, shape_of(whole))
    findings += _new(rehearsed.findings, findings)
    return files, rehearsed.seen


def _new(rehearsed: tuple[Finding, ...], known: list[Finding]) -> list[Finding]:
    """What only the rehearsal saw: the source's own faults are already said."""
    codes = {finding.code for finding in known}
    said = {shipped for shipped, source in _SAME_FAULT.items() if source in codes}
    return [finding for finding in rehearsed if finding.code not in said]
