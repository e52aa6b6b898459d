"""The line: the stations in their fixed order with their saved settings, and running a source through them."""

import hashlib
from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Self, cast

from pydantic import Field, ValidationError, create_model, model_validator

from plindro.core.checks import Budget, check_prop
from plindro.core.destinations import DESTINATIONS, Destination, describe
from plindro.core.errors import InvalidSettings
from plindro.core.files import SideFiles
from plindro.core.findings import Finding, holds_back
from plindro.core.prop import Prop, prop_from_scene
from plindro.core.report import Collected, Report
from plindro.core.scene import Scene
from plindro.core.settings import StationFacts, StationSettings
from plindro.core.settings_versions import CURRENT, brought_up
from plindro.core.station import Context, F, LaterStep, S, Station
from plindro.core.stations.registry import STATIONS
from plindro.core.textures.kept import TextureCache


class Line(StationSettings):
    """Settings of all stations for a kind of prop; a field for each station besides those here.

    ``version`` is that of the settings' names and values; one that is read without it may be of the first.
    """

    stations: ClassVar[tuple[Station[Any, Any], ...]] = ()

    name: str = Field(pattern=r"^[a-z0-9-]+$", description="by which it is chosen")
    title: str = Field(description="what people read")
    version: int = Field(CURRENT, ge=1, le=CURRENT, description="of the settings' names and values")
    budget: Budget = Field(Budget(), description="what a prop of this kind may cost")

    @model_validator(mode="before")
    @classmethod
    def _bring_up(cls, data: Any) -> Any:
        version = data.get("version", 1) if isinstance(data, dict) else CURRENT
        if not isinstance(version, int) or not 1 <= version < CURRENT:
            return data
        return {**brought_up(data, version), "version": CURRENT}

    def of(self, station: Station[S, F]) -> S:
        """The settings of a station."""
        return cast(S, getattr(self, station.name))

    def with_settings(self, station: Station[S, F], **changes: Any) -> Self:
        """The line with some settings of a station changed; their values are not validated again."""
        unknown = set(changes) - set(station.settings.model_fields)
        if unknown:
            raise TypeError(f"{station.name} has no setting '{sorted(unknown)[0]}'")
        return self.model_copy(update={station.name: self.of(station).model_copy(update=changes)})

    def station_versions(self) -> dict[str, int]:
        """The version of each station: a result of other ones is not the same."""
        return {station.name: station.version for station in self.stations}


class Facts(StationFacts):
    """The facts of all stations that a prop has been through; a field for each, None where it has not."""

    def of(self, station: Station[S, F]) -> F | None:
        """The facts of a station."""
        return cast("F | None", getattr(self, station.name))

    def with_facts(self, station: Station[S, F], facts: F) -> Self:
        """The facts with those of a station replaced."""
        return self.model_copy(update={station.name: facts})


def line_type(stations: tuple[Station[Any, Any], ...]) -> type[Line]:
    """The class of lines through these stations."""
    fields: dict[str, Any] = {
        station.name: (station.settings, Field(station.settings(), description=f"settings of {station.title}"))
        for station in stations
    }
    made = create_model("StationLine", __base__=Line, **fields)
    made.stations = stations
    return made


def facts_type(stations: tuple[Station[Any, Any], ...]) -> type[Facts]:
    """The class of the facts of these stations."""
    fields: dict[str, Any] = {station.name: (station.facts | None, None) for station in stations}
    return create_model("StationsFacts", __base__=Facts, **fields)


def settings_type(stations: tuple[Station[Any, Any], ...]) -> type[StationSettings]:
    """The class of the settings of these stations alone."""
    fields: dict[str, Any] = {station.name: (station.settings, ...) for station in stations}
    return create_model("StationsSettings", __base__=StationSettings, **fields)


StationLine = line_type(STATIONS)
StationsFacts = facts_type(STATIONS)
StationsSettings = settings_type(STATIONS)


def override(line: Line, changes: Mapping[str, Any]) -> Line:
    """``line`` with a prop's own settings: ``{station: {setting: value}}``; raises ``InvalidSettings``."""
    merged = line.model_dump()
    known = (*(station.name for station in line.stations), "budget")
    for station, values in changes.items():
        if station not in known or not isinstance(values, dict):
            raise InvalidSettings(f"there is no station '{station}' with settings")
        merged[station] = {**merged[station], **values}
    try:
        return type(line).model_validate(merged)
    except ValidationError as error:
        raise InvalidSettings(describe(error)) from error


@dataclass(frozen=True, slots=True)
class BuiltProp:
    """A prop at the end of the line, with everything that was found and counted on the way."""

    prop: Prop
    findings: tuple[Finding, ...]
    facts: Facts
    waived: frozenset[str] = frozenset()

    @property
    def is_held(self) -> bool:
        return holds_back(self.findings, self.waived) or not self.prop.levels


@dataclass(frozen=True, slots=True)
class _Kept:
    """What a station gave for one input."""

    prop: Prop
    findings: tuple[Finding, ...]
    facts: StationFacts | None


@dataclass(slots=True)
class StationCache:
    """Results between stations by content, the most recently used few; so the last knob never redoes the first."""

    capacity: int = 12
    _kept: "OrderedDict[str, _Kept]" = field(default_factory=OrderedDict)

    def get(self, key: str) -> _Kept | None:
        if key in self._kept:
            self._kept.move_to_end(key)
        return self._kept.get(key)

    def put(self, key: str, value: _Kept) -> None:
        self._kept[key] = value
        while len(self._kept) > self.capacity:
            self._kept.popitem(last=False)


class _Run:
    """One prop on its way through the stations of a line."""

    def __init__(
        self,
        line: Line,
        context: Context,
        report: Report,
        key: str,
        cache: StationCache | None,
        waived: frozenset[str] = frozenset(),
    ) -> None:
        self.waived = waived
        self._line, self._context, self._report = line, context, report
        self._key, self._cache = key, cache
        self._waiting: list[tuple[Station[Any, Any], LaterStep[Any]]] = []
        self.prop = prop_from_scene(context.scene)
        self.collected: dict[str, Collected] = {}
        self.findings: list[Finding] = []

    @property
    def is_stopped(self) -> bool:
        return bool(self.collected) and (not self.prop.mesh.n_faces or holds_back(self.findings, self.waived))

    def take(self, station: Station[Any, Any], start: float, end: float) -> None:
        """Run one station, or take what it gave for the same input and settings; then what waited for it."""
        settings = self._line.of(station)
        inputs = station.inputs(settings, self._context)
        self._key = hashlib.sha256(f"{self._key}|{station.name}|{station.version}|{inputs}".encode()).hexdigest()
        known = self._cache.get(self._key) if self._cache else None
        if known is None:
            inner = self._report.apart(start, end, station.name)
            prop = station.run(self.prop, settings, inner, self._context)
            known = _Kept(prop, tuple(inner.findings), inner.collected.facts)
            if self._cache:
                self._cache.put(self._key, known)
        self.prop = known.prop
        self.findings.extend(known.findings)
        self.collected[station.name] = Collected([], known.facts)
        self._waiting += [(station, step) for step in station.later]
        self._catch_up(station.name)

    def finish(self) -> None:
        """Run the steps that waited for the end of the line."""
        self._catch_up(None)

    def _catch_up(self, after: str | None) -> None:
        due = [(station, step) for station, step in self._waiting if after is None or step.after == after]
        self._waiting = [pair for pair in self._waiting if pair not in due]
        for station, step in due:
            own = self.collected[station.name]
            inner = self._report.apart(1.0, 1.0, station.name)
            inner.collected = Collected([], own.facts)
            self.prop = step.run(self.prop, self._line.of(station), inner, self._context)
            own.facts = inner.collected.facts
            self.findings.extend(inner.findings)

    def facts(self) -> Facts:
        made = facts_type(self._line.stations) if self._line.stations is not STATIONS else StationsFacts
        stated: dict[str, Any] = {name: collected.facts for name, collected in self.collected.items()}
        return made.model_construct(**stated)


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
    textures: TextureCache | None = None,
    waived: frozenset[str] = frozenset(),
    tries_codecs: bool = True,
) -> BuiltProp:
    """Take a source through the line.

    A source that cannot be worked on (nothing chosen, positions that are not finite) comes back held, with no levels.
    ``source_digest`` names the source's content for ``cache``; ``side_files`` give the levels modelled by hand;
    with ``beside`` the pivot is where that prop of the same source has it; ``textures`` keeps what was made of images;
    findings of ``waived`` codes do not hold it back; ``tries_codecs``: whether the facts say what each codec would
    give. Raises ``Cancelled``.
    """
    context = Context(scene, destination, side_files, beside, textures, tries_codecs)
    run = _Run(line, context, report, source_digest or "", cache if source_digest else None, waived)
    whole = sum(station.share for station in line.stations)
    done = 0.0
    for station in line.stations:
        if not run.is_stopped or station.always_runs:
            run.take(station, done / whole, (done + station.share) / whole)
        done += station.share
    if not run.is_stopped:
        run.finish()
        run.findings += check_prop(run.prop, line.budget, destination)
        report.step(1.0, "done")
    return BuiltProp(run.prop, tuple(run.findings), run.facts(), waived)


def run_until(
    scene: Scene,
    line: Line,
    destination: Destination,
    report: Report,
    last: Station[Any, Any],
    *,
    source_digest: str | None = None,
    cache: StationCache | None = None,
) -> tuple[Prop, list[Finding]]:
    """Take a source through the line as far as one station, that included; the prop as it is then, and what was found.

    A prop that is held back on the way comes as it was there. Raises ``Cancelled``.
    """
    run = _Run(line, Context(scene, destination), report, source_digest or "", cache if source_digest else None)
    whole, done = sum(station.share for station in line.stations), 0.0
    for station in line.stations:
        if run.is_stopped:
            break
        run.take(station, done / whole, (done + station.share) / whole)
        done += station.share
        if station is last:
            break
    return run.prop, run.findings


def survey_scene(scene: Scene) -> tuple[Facts, list[Finding], Prop | None]:
    """What a source holds as a whole, everything that is wrong with it, and the prop as repaired and triangulated; None
    where a finding holds it back."""
    line = StationLine(name="survey", title="Survey")
    run = _Run(line, Context(scene, DESTINATIONS[0]), Report(), "", None)
    for station in line.stations:
        if station.is_surveyed and not run.is_stopped:
            run.take(station, 0.0, 1.0)
    if run.is_stopped:
        return run.facts(), run.findings, None
    run.finish()
    return run.facts(), run.findings, run.prop
