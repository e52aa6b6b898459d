"""From a source's bytes to shippable bytes: read, run the line, write, rehearse. Pure: bytes in, bytes out."""

import hashlib
import time
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import Any, Literal

from plindro.core.destinations import Destination
from plindro.core.files import SideFiles, read_scene
from plindro.core.findings import Finding, holds_back
from plindro.core.line import BuiltProp, Line, StationCache, run_line
from plindro.core.rehearsal import rehearse
from plindro.core.report import Report
from plindro.core.scene import Scene
from plindro.core.shipping.writing import ShippedFile, reread, write_prop

_SAME_FAULT = {
    "uvs-missing": "uvs-missing",
    "engine-vertices-over-limit": "engine-vertices-over-limit",
    "degenerate-triangles": "triangles-without-area",
}
"""Findings of the rehearsal, and the finding about the source that says the same."""


@dataclass(frozen=True, slots=True)
class PrepareResult:
    """What became of one source. ``files`` is empty where a finding holds the prop back."""

    name: str
    status: Literal["shipped", "held"]
    built: BuiltProp
    files: tuple[ShippedFile, ...]
    findings: tuple[Finding, ...]
    facts: dict[str, Any]
    seconds: float


def prepare(
    data: bytes,
    name: str,
    side_files: SideFiles,
    line: Line,
    destination: Destination,
    report: Report | None = None,
    *,
    cache: StationCache | None = None,
) -> PrepareResult:
    """Take one source through the line and write it for the destination; the bytes are read back before they count.

    Raises ``UnreadableFile`` for a source that cannot be read and ``Cancelled``.
    """
    report = report or Report()
    started = time.perf_counter()
    report.step(0.0, f"reading {PurePosixPath(name).name}")
    scene = read_scene(data, name, side_files)
    digest = hashlib.sha256(b"|".join([name.encode(), data, *(i.digest.encode() for i in scene.images)])).hexdigest()
    result = prepare_scene(
        scene, line, destination, report.span(0.2, 1.0), source_digest=digest, cache=cache, side_files=side_files
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
) -> PrepareResult:
    """As ``prepare`` for a source that was read: one of the props that it gives, as the line's Source station says."""
    report = report or Report()
    started = time.perf_counter()
    built = run_line(
        scene, line, destination, report.span(0.0, 0.8), source_digest=source_digest, cache=cache, side_files=side_files
    )
    findings = list(built.findings)
    files: tuple[ShippedFile, ...] = ()
    if not built.is_held:
        report.step(0.8, "writing")
        files = write_prop(built.prop, destination.format)
        report.step(0.95, "rehearsing")
        if destination.format == "glb":
            findings += _new(rehearse(files[0].data, files[0].path, destination).findings, findings)
        else:
            findings += reread(built.prop, files)
    status: Literal["shipped", "held"] = "held" if built.is_held or holds_back(findings) else "shipped"
    report.step(1.0, "done")
    return PrepareResult(
        name=built.prop.name,
        status=status,
        built=built,
        files=files if status == "shipped" else (),
        findings=tuple(findings),
        facts=built.facts,
        seconds=time.perf_counter() - started,
    )


def _new(rehearsed: tuple[Finding, ...], known: list[Finding]) -> list[Finding]:
    """What only the rehearsal saw: the source's own faults are already said."""
    codes = {finding.code for finding in known}
    said = {shipped for shipped, source in _SAME_FAULT.items() if source in codes}
    return [finding for finding in rehearsed if finding.code not in said]
