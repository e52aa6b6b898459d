"""The line: the stations in their fixed order, their saved settings, and the cache between them."""

import hashlib
import math
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from pydantic import Field, ValidationError

from plindro.core import cleanup, levels, naming, normals, placement, source, triangulation
from plindro.core.checks import Budget, check_prop, check_source
from plindro.core.cleanup import CleanupSettings
from plindro.core.destinations import Destination, describe, load_settings
from plindro.core.errors import InvalidSettings
from plindro.core.files import SideFiles
from plindro.core.findings import Finding, Severity, holds_back
from plindro.core.hand_made import fit_hand_made, read_hand_made
from plindro.core.levels import LevelsSettings, LevelTarget
from plindro.core.mesh.streams import count_engine_vertices, stream_bytes
from plindro.core.mesh.tangents import corner_tangents
from plindro.core.naming import NamingSettings
from plindro.core.normals import NormalsSettings
from plindro.core.placement import PlacementSettings
from plindro.core.prop import Level, Prop
from plindro.core.reduction import diagonal
from plindro.core.report import Report
from plindro.core.scene import Material, Scene
from plindro.core.settings import StationSettings
from plindro.core.source import SourceSettings
from plindro.core.triangulation import TriangulationSettings


class Line(StationSettings):
    """Settings of all stations for a kind of prop."""

    name: str = Field(pattern=r"^[a-z0-9-]+$")
    title: str
    version: int = Field(1, ge=1)
    source: SourceSettings = SourceSettings()
    placement: PlacementSettings = PlacementSettings()
    cleanup: CleanupSettings = CleanupSettings()
    triangulation: TriangulationSettings = TriangulationSettings()
    normals: NormalsSettings = NormalsSettings()
    levels: LevelsSettings = LevelsSettings()
    naming: NamingSettings = NamingSettings()
    budget: Budget = Budget()


STATIONS = ("source", "placement", "cleanup", "triangulation", "normals", "levels", "naming")
"""The stations of the line in their order; the name is also that of the settings in ``Line``."""

LINES = (
    Line(name="standing", title="Standing prop"),
    Line(
        name="small",
        title="Small prop",
        placement=PlacementSettings(usual_m=(0.01, 2.0)),
        levels=LevelsSettings(levels=(LevelTarget(ratio=0.4), LevelTarget(ratio=0.12))),
        budget=Budget(triangles=8_000, materials=2),
    ),
    Line(
        name="held",
        title="Held up to the camera, no levels",
        placement=PlacementSettings(pivot="held", usual_m=(0.02, 3.0)),
        levels=LevelsSettings(levels=()),
        budget=Budget(triangles=40_000, materials=3),
    ),
    Line(name="hanging", title="Hanging prop", placement=PlacementSettings(pivot="hangs")),
    Line(name="hinged", title="Door, lid or flap", placement=PlacementSettings(pivot="hinges")),
    Line(name="modular", title="Modular piece on a grid", placement=PlacementSettings(pivot="grid", usual_m=(0.1, 60))),
)
DEFAULT_LINE = "standing"


def get_line(name_or_file: str) -> Line:
    """A built-in line by name, or one from a JSON file; raises ``InvalidSettings``."""
    for line in LINES:
        if line.name == name_or_file:
            return line
    return load_settings(name_or_file, Line, "line", [known.name for known in LINES])


def override(line: Line, changes: dict[str, Any]) -> Line:
    """``line`` with a prop's own settings: ``{station: {setting: value}}``; raises ``InvalidSettings``."""
    merged = line.model_dump()
    for station, values in changes.items():
        if station not in (*STATIONS, "budget") or not isinstance(values, dict):
            raise InvalidSettings(f"there is no station '{station}' with settings")
        merged[station] = {**merged[station], **values}
    try:
        return Line.model_validate(merged)
    except ValidationError as error:
        raise InvalidSettings(describe(error)) from error


@dataclass(frozen=True, slots=True)
class BuiltProp:
    """A prop at the end of the line, with everything that was found and counted on the way."""

    prop: Prop
    findings: tuple[Finding, ...]
    facts: dict[str, Any]

    @property
    def is_held(self) -> bool:
        return holds_back(self.findings) or not self.prop.levels


@dataclass(slots=True)
class StationCache:
    """Results between stations by content, the most recently used few; so the last knob never redoes the first."""

    capacity: int = 12
    _kept: "OrderedDict[str, tuple[Prop, tuple[Finding, ...], dict[str, Any]]]" = field(default_factory=OrderedDict)

    def get(self, key: str) -> tuple[Prop, tuple[Finding, ...], dict[str, Any]] | None:
        if key in self._kept:
            self._kept.move_to_end(key)
        return self._kept.get(key)

    def put(self, key: str, value: tuple[Prop, tuple[Finding, ...], dict[str, Any]]) -> None:
        self._kept[key] = value
        while len(self._kept) > self.capacity:
            self._kept.popitem(last=False)


def run_line(
    scene: Scene,
    line: Line,
    destination: Destination,
    report: Report,
    *,
    source_digest: str | None = None,
    cache: StationCache | None = None,
    side_files: SideFiles | None = None,
    beside: Prop | None = None,
) -> BuiltProp:
    """Take a source through the line.

    A source that cannot be worked on (nothing chosen, positions that are not finite) comes back held, with no levels.
    ``source_digest`` names the source's content for ``cache``; ``side_files`` give the levels modelled by hand;
    with ``beside`` the pivot is where that prop of the same source has it. Raises ``Cancelled``.
    """
    found = check_source(scene)
    facts: dict[str, Any] = {"format": scene.format, "unused": dict(scene.unused)}
    name_report = Report()
    kept = cache if cache is not None and source_digest else None
    shapes = line.levels.of_shapes()
    hand_made, hand_made_digest = read_hand_made(line.levels, side_files)
    key = source_digest or ""

    def station(
        settings: StationSettings, version: int, share: tuple[float, float], work: Callable[[Report], Prop]
    ) -> Prop:
        """Run one station, or take what it gave for the same input and settings."""
        nonlocal key
        key = hashlib.sha256(f"{key}|{work.__qualname__}|{version}|{settings.model_dump_json()}".encode()).hexdigest()
        known = kept.get(key) if kept else None
        if known is None:
            inner = report.span(*share)
            inner.findings, inner.facts = [], {}
            known = (work(inner), tuple(inner.findings), inner.facts)
            if kept:
                kept.put(key, known)
        found.extend(known[1])
        facts.update(known[2])
        return known[0]

    def choose(inner: Report) -> Prop:
        return source.run(scene, line.source, inner)

    def place(inner: Report) -> Prop:
        return placement.run(prop, line.placement, inner)

    def tidy(inner: Report) -> Prop:
        return cleanup.run(prop, line.cleanup, inner)

    def triangulate(inner: Report) -> Prop:
        return triangulation.run(prop, line.triangulation, inner)

    def shade(inner: Report) -> Prop:
        return normals.run(prop, line.normals, inner)

    def build_levels(inner: Report) -> Prop:
        return levels.build(prop, shapes, inner, fit_hand_made(hand_made, prop, scene))

    prop = station(line.source, source.VERSION, (0.0, 0.03), choose)
    facts.update(prop_facts(prop))
    if prop.mesh.n_faces:
        prop = station(line.placement, placement.VERSION, (0.03, 0.06), place)
        if beside is not None:
            prop = _with_pivot_of(prop, beside)
            key += repr(beside.from_source)
        prop = station(line.cleanup, cleanup.VERSION, (0.06, 0.2), tidy)
        if not prop.mesh.n_faces:
            found.append(_nothing_left())
    if holds_back(found):
        prop = naming.run(prop, line.naming, name_report)
        return BuiltProp(prop, (*found, *name_report.findings), facts)
    prop = station(line.triangulation, triangulation.VERSION, (0.2, 0.25), triangulate)
    prop = station(line.normals, normals.VERSION, (0.25, 0.4), shade)
    engine_report = Report()
    triangulation.report_engine(prop, engine_report)
    found.extend(engine_report.findings)
    facts.update(engine_report.facts)
    key += hand_made_digest
    prop = station(shapes, levels.VERSION, (0.4, 0.95), build_levels)
    prop = levels.with_texture_steps(levels.place(prop, line.levels, name_report), line.levels)
    prop = naming.run(prop, line.naming, name_report)
    found.extend(name_report.findings)
    prop = _name_levels(prop, destination.level_template)
    if destination.tangents:
        prop = replace(prop, levels=tuple(_with_tangents(level, prop.materials) for level in prop.levels))
    facts.update(chain_facts(prop))
    facts["engine_vertices"] = facts["levels"][0]["vertices"]
    found.extend(check_prop(prop, facts["engine_vertices"], line.budget, destination.max_engine_vertices))
    report.step(1.0, "done")
    return BuiltProp(prop, tuple(found), facts)


def _with_pivot_of(prop: Prop, beside: Prop) -> Prop:
    """The prop moved so that a place of the source lies where it lies in another prop of that source."""
    own, other = np.array(prop.from_source).reshape(4, 4), np.array(beside.from_source).reshape(4, 4)
    mesh = replace(prop.mesh, positions=prop.mesh.positions + (other[:3, 3] - own[:3, 3]))
    return replace(prop, mesh=mesh, from_source=beside.from_source, place=beside.place)


def _nothing_left() -> Finding:
    return Finding("nothing-left", Severity.STOP, "no face is left after the cleanup; repair the source", 0)


def _name_levels(prop: Prop, template: str) -> Prop:
    """Level names by the destination's template; they depend on nothing that is worth computing again."""
    named = tuple(replace(x, name=template.format(prop=prop.name, level=x.index)) for x in prop.levels)
    return replace(prop, levels=named)


def _with_tangents(level: Level, materials: tuple[Material, ...]) -> Level:
    """The level with tangents on the faces whose material has a normal map; zero on the others."""
    mesh = level.mesh
    tangents = np.zeros((mesh.n_corners, 4), np.float32)
    for index in np.unique(mesh.face_material):
        normal_map = materials[index].texture("normal")
        if normal_map is not None and normal_map.channel < len(mesh.uvs):
            faces = mesh.face_material == index
            part = corner_tangents(mesh.with_faces(faces), normal_map.channel)
            tangents[np.repeat(faces, mesh.face_sides)] = part
    return replace(level, mesh=replace(mesh, tangents=tangents)) if tangents.any() else level


def chain_facts(prop: Prop) -> dict[str, Any]:
    """What is said of a chain: of each level, the last distance in metres, and the radius of the bounding sphere."""
    return {
        "levels": _level_facts(prop),
        "last_distance": prop.last_distance if math.isfinite(prop.last_distance) else None,
        "radius": diagonal(prop.levels[0].mesh) / 2 if prop.levels[0].mesh.n_faces else 0.0,
    }


def _level_facts(prop: Prop) -> list[dict[str, Any]]:
    counts = [count_engine_vertices(level.mesh) for level in prop.levels]
    return [
        {
            "index": level.index,
            "name": level.name,
            "triangles": level.mesh.n_faces,
            "vertices": count,
            "deviation": level.deviation,
            "mean_deviation": level.mean_deviation,
            "screen_size": level.screen_size,
            "distance": level.distance,
            "proposed": level.proposed,
            "change": level.change.as_dict(),
            "step": level.step.as_dict(),
            "materials": len(np.unique(level.mesh.face_material)),
            "bytes": stream_bytes(level.mesh, count),
            "normal_angle": level.normal_angle,
            "normals": level.normals,
            "dropped": list(level.dropped),
            "target": level.target,
            "texture_bytes": _texture_bytes(level, prop),
        }
        for level, count in zip(prop.levels, counts, strict=True)
    ]


def _texture_bytes(level: Level, prop: Prop) -> int:
    """Bytes of the images that a level's materials show."""
    used = {
        texture.image
        for material in np.unique(level.mesh.face_material)
        if material < len(prop.materials)
        for texture in prop.materials[material].all_textures()
    }
    return sum(len(prop.images[image].data) for image in used)


def survey_scene(scene: Scene) -> tuple[dict[str, Any], list[Finding]]:
    """What a source holds as a whole, and everything that is wrong with it; nothing is kept of what was repaired."""
    report = Report()
    line = LINES[0]
    facts: dict[str, Any] = {
        "format": scene.format, "unused": dict(scene.unused), "unit": scene.unit, "up": scene.up,
        "says_unit": scene.says_unit,
    }  # fmt: skip
    report.findings += check_source(scene)
    prop = source.run(scene, line.source, report)
    facts.update(prop_facts(prop))
    if prop.mesh.n_faces:
        prop = placement.run(prop, line.placement, report)
        prop = cleanup.run(prop, line.cleanup, report)
        if not prop.mesh.n_faces:
            report.find(_nothing_left())
    if prop.mesh.n_faces and not holds_back(report.findings):
        prop = triangulation.run(prop, line.triangulation, report)
        triangulation.report_engine(prop, report)
    kept = {key: report.facts[key] for key in report.facts if key not in ("sides", "triangles")}
    return {**facts, **kept}, report.findings


def prop_facts(prop: Prop) -> dict[str, Any]:
    """Counts of a prop as it comes from its source."""
    mesh = prop.mesh
    sides, numbers = np.unique(mesh.face_sides, return_counts=True)
    low, high = mesh.bounds() * prop.unit
    return {
        "polygons": mesh.n_faces,
        "triangles": mesh.n_triangles,
        "points": mesh.n_vertices,
        "engine_vertices": count_engine_vertices(mesh) if mesh.n_corners else 0,
        "sides": {int(side): int(number) for side, number in zip(sides, numbers, strict=True)},
        "size": (high - low).tolist(),
        "bounds": [low.tolist(), high.tolist()],
        "uv_channels": len(mesh.uvs),
        "has_normals": mesh.normals is not None,
        "has_colors": mesh.colors is not None,
        "materials": [material.name for material in prop.materials],
        "textures": [
            {"name": i.name, "width": i.width, "height": i.height, "bytes": len(i.data), "digest": i.digest}
            for i in prop.images
        ],
    }
