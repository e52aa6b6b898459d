"""What workers run: core functions on bytes, no database. Results travel back as plain values."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from plindro.core.destinations import Destination
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.viewing.descent import write_descent
from plindro.core.files.gltf.writer import write_glb
from plindro.core.viewing.sheet import write_sheet
from plindro.core.line import Line, StationCache
from plindro.core.viewing.picture import render_picture
from plindro.core.shipping import PrepareResult, prepare
from plindro.core.stations.source import view_of_source
from plindro.core.polygons import triangulate
from plindro.core.stations.triangulation import compare_engine
from plindro.web.work.progress import JobChannel

PICTURE_SIZE = 256
_cache = StationCache()


@dataclass(frozen=True, slots=True)
class BuildOrder:
    """A source with everything it needs."""

    name: str
    data: bytes
    side_files: Mapping[str, bytes]
    line: Line
    destination: Destination
    wants_source_view: bool = True


@dataclass(frozen=True, slots=True)
class BuildResult:
    """What a build gives: ``view`` are GLB bytes to look at, also of a prop that is held.

    ``files`` are those that ship, by name; ``sheet`` is what the view needs to know of LOD0 beyond them, ``descent``
    the way down from it.
    ``state_views`` are GLB bytes of the prop's other states by their names, to look at.
    ``source_view`` is the source as it came, part by part, where it was asked for and can be drawn.
    """

    name: str
    status: str
    facts: dict[str, Any]
    findings: list[dict[str, Any]]
    view: bytes | None
    picture: bytes
    seconds: float
    files: dict[str, bytes] = field(default_factory=dict)
    sheet: bytes | None = None
    descent: bytes | None = None
    state_views: dict[str, bytes] = field(default_factory=dict)
    source_view: bytes | None = None


def build(order: BuildOrder, channel: JobChannel) -> BuildResult:
    """Prepare a prop; raises what ``prepare`` raises."""
    report = channel.report()
    result = prepare(
        order.data,
        order.name,
        MemoryFiles(order.side_files),
        order.line,
        order.destination,
        report.span(0.0, 0.95),
        cache=_cache,
    )
    report.step(0.95, "drawing the picture")
    return BuildResult(
        name=result.name,
        status=result.status,
        facts=result.facts,
        findings=[finding.as_dict(with_places=True) for finding in result.findings],
        view=_view(result),
        picture=render_picture(result.built.prop, PICTURE_SIZE),
        seconds=result.seconds,
        files={file.path: file.data for file in result.files},
        sheet=_sheet(result),
        descent=write_descent(result.built.prop),
        state_views={built.state.name: write_glb(built.prop) for built in result.states},
        source_view=_source_view(order) if order.wants_source_view else None,
    )


def _source_view(order: BuildOrder) -> bytes | None:
    scene = read_scene(order.data, order.name, MemoryFiles(order.side_files))
    view = view_of_source(scene, triangulate(scene.mesh).mesh)
    return write_glb(view) if view.levels else None


def _sheet(result: PrepareResult) -> bytes | None:
    cuts = compare_engine(result.built.prop)
    return write_sheet(result.built.prop, None if cuts is None else cuts.flags)


def _view(result: PrepareResult) -> bytes | None:
    """The shipped bytes themselves; what is held is written for looking at only."""
    if result.files and result.files[0].path.endswith(".glb"):
        return result.files[0].data
    return write_glb(result.built.prop) if result.built.prop.levels else None


def rock(channel: JobChannel) -> bytes:
    """The dense rock of the demo as GLB bytes."""
    from plindro.demo import build_rock

    channel.report().step(0.1, "growing a rock of a million triangles")
    return build_rock()
