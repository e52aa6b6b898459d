"""What workers run: core functions on stored files, no database. Results travel back as plain values."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from plindro.core.destinations import Destination
from plindro.core.files import PathFiles
from plindro.core.line import StationCache, StationLine
from plindro.core.shipping import PrepareResult, prepare, prop_record
from plindro.core.viewing import LeftBehind, last_level, left_behind, source_model
from plindro.core.waivers import Waiver
from plindro.web.store import Store
from plindro.web.work.progress import JobChannel

_cache = StationCache()


@dataclass(frozen=True, slots=True)
class BuildOrder:
    """A source with everything it needs, by the digests of its files; ``source_key`` is that of all of them.

    Of a preview only the shape of its last level is kept, which the view draws in the materials of LOD0.
    """

    store: Store
    name: str
    source: str
    side_files: Mapping[str, str]
    line: Mapping[str, Any]
    destination: Destination
    source_key: str
    wants_source_model: bool = True
    is_preview: bool = False
    waivers: tuple[Waiver, ...] = ()


@dataclass(frozen=True, slots=True)
class StoredFile:
    """A file that a build left behind in the store."""

    kind: str
    name: str
    digest: str


@dataclass(frozen=True, slots=True)
class BuildResult:
    """What a build gives, in plain values.

    ``record`` is the entry of the shipment's manifest; ``files`` are all files that it left behind; ``source_model``
    is that of the source as it came, where it was asked for: empty where nothing of it can be drawn. ``source_key`` is
    that of the order.
    """

    name: str
    status: str
    facts: dict[str, Any]
    findings: list[dict[str, Any]]
    record: dict[str, Any]
    seconds: float
    source_key: str
    files: tuple[StoredFile, ...] = field(default=())
    source_model: str | None = None


def build(order: BuildOrder, channel: JobChannel) -> BuildResult:
    """Prepare a prop and store what that leaves; raises what ``prepare`` raises, and ``OSError``."""
    report, kept = channel.report(), order.store
    data = kept.load(order.source)
    side_files = PathFiles({name: kept.path_of(digest) for name, digest in order.side_files.items()})
    line = StationLine.model_validate(order.line)
    result = prepare(
        data, order.name, side_files, line, order.destination, report.span(0.0, 0.95), cache=_cache,
        textures=kept.textures, waivers=order.waivers,
    )  # fmt: skip
    report.step(0.95, "drawing the picture")
    left = (
        last_level(result)
        if order.is_preview
        else left_behind(result, lambda: report.step(0.97, "measuring the way down"))
    )
    return result_of(result, order.name, order.source_key, kept, left=left, wants_source_model=order.wants_source_model)


def result_of(
    result: PrepareResult,
    source: str,
    source_key: str,
    kept: Store,
    *,
    left: Iterable[LeftBehind] | None = None,
    wants_source_model: bool,
) -> BuildResult:
    """A prepared prop as plain values, what is ``left`` of it stored, and its source's model where that is wanted."""
    left = left_behind(result) if left is None else left
    model = (source_model(result.scene) or b"") if wants_source_model else None
    return BuildResult(
        name=result.name,
        status=result.status,
        facts=result.facts.model_dump(mode="json"),
        findings=[finding.as_dict(with_places=True) for finding in result.findings],
        record=prop_record(result, source),
        seconds=result.seconds,
        source_key=source_key,
        files=tuple(StoredFile(file.kind, file.name, kept.keep(file.data)) for file in left),
        source_model=None if model is None else kept.keep(model) if model else "",
    )


def grow_rock(channel: JobChannel) -> bytes:
    """The dense rock of the demo as GLB bytes."""
    from plindro.demo import build_rock

    channel.report().step(0.1, "growing a rock of a million triangles")
    return build_rock()
