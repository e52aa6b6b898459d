"""A station is one object: everything about a line comes from the list of them."""

from dataclasses import replace

import pytest

from plindro.core.destinations import DESTINATIONS
from plindro.core.findings import Finding, Severity
from plindro.core.line import StationCache, facts_type, line_type, override, run_line
from plindro.core.mesh.surgery import turn_faces
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Material, Part, Scene
from plindro.core.settings import StationFacts, StationSettings
from plindro.core.station import LaterStep, Station, alone
from plindro.core.stations.registry import STATIONS
from tests.shapes import bumpy_sphere

PLAIN = DESTINATIONS[0]


class _MirrorSettings(StationSettings):
    on: bool = True


class _MirrorFacts(StationFacts):
    faces: int
    levels: int = 0


def _mirror(prop: Prop, settings: _MirrorSettings, report: Report) -> Prop:
    """A made-up station: the prop mirrored across X."""
    report.step(0.5, "mirroring")
    mesh = prop.mesh
    if settings.on:
        report.find(Finding("mirrored", Severity.INFO, "the prop was mirrored"))
        mesh = turn_faces(replace(mesh, positions=mesh.positions * (-1, 1, 1)), mesh.face_sides > 0)
    report.state(_MirrorFacts(faces=mesh.n_faces))
    return replace(prop, mesh=mesh)


def _count(prop: Prop, settings: _MirrorSettings, report: Report) -> Prop:
    report.state(report.stated(_MirrorFacts).model_copy(update={"levels": len(prop.levels)}))
    return prop


MIRROR = Station(
    name="mirror",
    title="Mirror",
    settings=_MirrorSettings,
    facts=_MirrorFacts,
    version=1,
    share=20,
    run=alone(_mirror),
    later=(LaterStep(alone(_count)),),
)
WITH_MIRROR = (*STATIONS[:3], MIRROR, *STATIONS[3:])


@pytest.fixture(scope="module")
def scene() -> Scene:
    mesh = triangulate(bumpy_sphere(10)).mesh
    return Scene("ball", "OBJ", mesh, (Part("ball", "ball"),), (Material("grey"),))


def test_a_made_up_station_takes_its_place_with_one_line_in_the_list(scene: Scene) -> None:
    line = line_type(WITH_MIRROR).model_validate({"name": "mirrored", "title": "Mirrored"})
    assert line.of(MIRROR) == _MirrorSettings()
    doings: list[tuple[float, str]] = []
    report = Report(on_progress=lambda fraction, doing: doings.append((fraction, doing)))
    built = run_line(scene, line, PLAIN, report)
    facts = built.facts.of(MIRROR)
    assert facts == _MirrorFacts(faces=scene.mesh.n_faces, levels=len(built.prop.levels))
    assert [f.station for f in built.findings if f.code == "mirrored"] == ["mirror"]
    (at,) = [fraction for fraction, doing in doings if doing == "mirroring"]
    before = sum(station.share for station in STATIONS[:3])
    assert at == pytest.approx((before + 10) / (sum(station.share for station in STATIONS) + 20))
    off = override(line, {"mirror": {"on": False}})
    assert run_line(scene, off, PLAIN, Report()).prop.mesh.positions[0, 0] == -built.prop.mesh.positions[0, 0]
    assert set(facts_type(WITH_MIRROR).model_fields) == {station.name for station in WITH_MIRROR}


def test_a_result_of_an_older_station_is_never_taken_for_one_of_the_newer(scene: Scene) -> None:
    cache, runs = StationCache(), []

    def watched(prop: Prop, settings: _MirrorSettings, report: Report) -> Prop:
        runs.append(1)
        return _mirror(prop, settings, report)

    for version in (1, 1, 2):
        station = replace(MIRROR, run=alone(watched), version=version)
        line = line_type((*STATIONS[:3], station, *STATIONS[3:])).model_validate({"name": "m", "title": "M"})
        assert line.station_versions()["mirror"] == version
        run_line(scene, line, PLAIN, Report(), source_digest="ball", cache=cache)
    assert len(runs) == 2


def test_every_finding_of_a_line_names_its_station_and_every_station_states_its_facts(scene: Scene) -> None:
    line = line_type(STATIONS).model_validate({"name": "plain", "title": "Plain", "budget": {"triangles": 10}})
    built = run_line(scene, line, PLAIN, Report())
    assert {finding.station for finding in built.findings} <= {station.name for station in STATIONS}
    assert all(built.facts.of(station) is not None for station in STATIONS)
    with pytest.raises(TypeError, match="no setting 'angel'"):
        line.with_settings(STATIONS[4], angel=3)
