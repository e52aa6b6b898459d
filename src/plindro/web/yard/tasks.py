"""What workers run: core functions on bytes, no database. Results travel back as plain values."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from plindro.core.destinations import Destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.line import Line, StationCache
from plindro.core.shipping import prepare, prop_record
from plindro.core.viewing import LeftBehind, left_behind, source_model
from plindro.web.work.progress import JobChannel

_cache = StationCache()


@dataclass(frozen=True, slots=True)
class BuildOrder:
    """A source with everything it needs."""

    name: str
    data: bytes
    side_files: Mapping[str, bytes]
    line: Mapping[str, Any]
    destination: Destination
    wants_source_model: bool = True


@dataclass(frozen=True, slots=True)
class BuildResult:
    """What a build gives, in plain values.

    ``record`` is the entry of the shipment's manifest; ``files`` are all files that it leaves behind; ``source_model``
    is the source as it came, where it was asked for: empty where nothing of it can be drawn.
    """

    name: str
    status: str
    facts: dict[str, Any]
    findings: list[dict[str, Any]]
    record: dict[str, Any]
    seconds: float
    files: tuple[LeftBehind, ...] = field(default=())
    source_model: bytes | None = None


def build(order: BuildOrder, channel: JobChannel) -> BuildResult:
    """Prepare a prop; raises what ``prepare`` raises."""
    from plindro.core.line import StationLine

    report = channel.report()
    side_files = MemoryFiles(order.side_files)
    line: Line = StationLine.model_validate(order.line)
    result = prepare(order.data, order.name, side_files, line, order.destination, report.span(0.0, 0.95), cache=_cache)
    report.step(0.95, "drawing the picture")
    source = None
    if order.wants_source_model:
        source = source_model(read_scene(order.data, order.name, side_files)) or b""
    return BuildResult(
        name=result.name,
        status=result.status,
        facts=result.facts.model_dump(mode="json"),
        findings=[finding.as_dict(with_places=True) for finding in result.findings],
        record=prop_record(result, order.name),
        seconds=result.seconds,
        files=tuple(left_behind(result)),
        source_model=source,
    )
