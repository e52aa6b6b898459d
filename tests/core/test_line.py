"""The line: the demo's props through all stations, the cache between them, cancelling."""

from collections.abc import Callable
from pathlib import Path

import pytest

from plindro.core.destinations import get_destination
from plindro.core.errors import Cancelled, InvalidSettings
from plindro.core.files import FolderFiles
from plindro.core.line import StationCache, override
from plindro.core.lines import get_line
from plindro.core.names import unique_names
from plindro.core.rehearsal import rehearse
from plindro.core.report import Report
from plindro.core.shipping import PrepareResult, prepare
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.source import SOURCE
from plindro.demo import DEMO_PROPS

PLAIN = get_destination("plain")

EXPECTED = {
    "fog_bell": {"inside-out-shells"},
    "signal_lamp": {"missing-texture"},
    "mooring_bollard": {"pivot-moved", "height-made-normal"},
    "channel_buoy": {"materials-over-budget"},
    "rope_coil": {"triangles-over-budget"},
    "cable_drum": {"unusual-size"},
    "davit": {"non-manifold-edges"},
    "barometer": {"non-power-of-two-texture", "opaque-alpha"},
    "storm làntern 01": {"name-cleaned", "duplicate-faces"},
    "tide_board": {"zero-area-faces", "normal-map-green-down"},
    "gas_bottle": {"uvs-missing", "non-power-of-two-texture"},
    "weather_vane": {"uv-density-uneven"},
    "net_float": {"uv-bleeding"},
}


def _prepare(folder: Path, stem: str, line=None, report: Report | None = None, cache: StationCache | None = None):
    path = folder / stem / f"{stem}.obj"
    return prepare(
        path.read_bytes(), path.name, FolderFiles(path.parent), line or get_line("standing"), PLAIN, report, cache=cache
    )


@pytest.mark.parametrize("stem", list(DEMO_PROPS))
def test_demo_prop_ships_with_falling_levels_and_its_fault_is_found(
    demo_result: Callable[[str], PrepareResult], stem: str
) -> None:
    result = demo_result(stem)
    assert result.status == "shipped"
    assert 2_000 <= result.facts.of(SOURCE).triangles <= 60_000
    assert len(result.facts.of(SOURCE).parts) > 3
    assert any(sides > 4 for sides in result.facts.of(SOURCE).sides), "a modeller leaves n-gons"
    counts = [level.triangles for level in result.facts.of(LEVELS).levels]
    assert len(counts) >= 3
    assert counts == sorted(set(counts), reverse=True)
    assert EXPECTED.get(stem, set()) <= {finding.code for finding in result.findings}
    seen = rehearse(["prop.glb"], {"prop.glb": result.files[0].data}, PLAIN)
    stated = [(level.triangles, level.vertices) for level in result.facts.of(LEVELS).levels]
    assert [(level.triangles, level.vertices) for level in seen.seen.levels] == stated
    worst = [
        f for f in result.findings if f.code in ("winding-against-normals", "normals-not-unit", "zero-area-triangles")
    ]
    assert not [finding.message for finding in worst]


def test_turning_the_last_knob_does_not_redo_the_first_stations(demo_sources: Path) -> None:
    cache = StationCache()
    said: list[str] = []
    report = Report(on_progress=lambda fraction, doing: said.append(doing))
    first = _prepare(demo_sources, "tide_board", report=report, cache=cache)
    assert "cutting polygons" in said
    said.clear()
    line = override(get_line("standing"), {"levels": {"levels": [{"ratio": 0.4}]}})
    second = _prepare(demo_sources, "tide_board", line, report, cache)
    assert "cutting polygons" not in said
    assert "building levels" in said
    assert len(second.facts.of(LEVELS).levels) == 2
    fresh = _prepare(demo_sources, "tide_board", line)
    assert [f.data for f in fresh.files] == [f.data for f in second.files], "the cache changes the result"
    assert first.facts.of(LEVELS).levels[0] == second.facts.of(LEVELS).levels[0]


def test_cancelling_stops_at_the_next_step(demo_sources: Path) -> None:
    steps: list[float] = []
    report = Report(on_progress=lambda fraction, doing: steps.append(fraction), is_cancelled=lambda: len(steps) > 4)
    with pytest.raises(Cancelled):
        _prepare(demo_sources, "life_ring", report=report)
    assert steps == sorted(steps)


def test_settings_that_do_not_validate_say_which_and_why() -> None:
    line = get_line("standing")
    for changes, message in (
        ({"levels": {"levels": [{"ratio": 0.5}, {"ratio": 0.6}]}}, "ratios must fall"),
        ({"normals": {"angle": 200}}, "normals.angle"),
        ({"normals": {"angel": 20}}, "normals.angel"),
        ({"polish": {"shine": 1}}, "no station 'polish'"),
    ):
        with pytest.raises(InvalidSettings, match=message):
            override(line, changes)


def test_names_are_never_two_the_same() -> None:
    assert unique_names(["a", "A", "b", "a", "a_2"]) == ["a", "A_2", "b", "a_3", "a_2_2"]
