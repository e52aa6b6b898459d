"""What workers run: core functions on bytes, no database. Results travel back as plain values."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from plindro.core.destinations import Destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.line import StationCache, StationLine
from plindro.core.scene import Scene
from plindro.core.shipping import PrepareResult, prepare, prop_record
from plindro.core.viewing import LeftBehind, left_behind, source_model
from plindro.web.work.progress import JobChannel

_cache = StationCache()


@dataclass(frozen=True, slots=True)
class BuildOrder:
    """A source with everything it needs; ``source_key`` is the digest of all its files."""

    name: str
    data: bytes
    side_files: Mapping[str, bytes]
    line: Mapping[str, Any]
    destination: Destination
    source_key: str
    wants_source_model: bool = True


@dataclass(frozen=True, slots=True)
class BuildResult:
    """What a build gives, in plain values.

    ``record`` is the entry of the shipment's manifest; ``files`` are all files that it leaves behind; ``source_model``
    is the source as it came, where it was asked for: empty where nothing of it can be drawn. ``source_key`` is that of
    the order.
    """

    name: str
    status: str
    facts: dict[str, Any]
    findings: list[dict[str, Any]]
    record: dict[str, Any]
    seconds: float
    source_key: str
    files: tuple[LeftBehind, ...] = field(default=())
    source_model: bytes | None = None


def build(order: BuildOrder, channel: JobChannel) -> BuildResult:
    """Prepare a prop; raises what ``prepare`` raises."""
    report = channel.report()
    side_files = MemoryFiles(order.side_files)
    line = StationLine.model_validate(order.line)
    result = prepare(order.data, order.name, side_files, line, order.destination, report.span(0.0, 0.95), cache=_cache)
    report.step(0.95, "drawing the picture")
    scene = read_scene(order.data, order.name, side_files) if order.wants_source_model else None
    return result_of(result, order.name, order.source_key, scene)


def result_of(result: PrepareResult, source: str, source_key: str, scene: Scene | None) -> BuildResult:
    """A prepared prop as plain values; with its source's scene also the model of that."""
    return BuildResult(
        name=result.name,
        status=result.status,
        facts=result.facts.model_dump(mode="json"),
        findings=[finding.as_dict(with_places=True) for finding in result.findings],
        record=prop_record(result, source),
        seconds=result.seconds,
        source_key=source_key,
        files=tuple(left_behind(result)),
        source_model=None if scene is None else source_model(scene) or b"",
    )


def grow_rock(channel: JobChannel) -> bytes:
    """The dense rock of the demo as GLB bytes."""
    from plindro.demo import build_rock

    channel.report().step(0.1, "growing a rock of a million triangles")
    return build_rock()
