"""How findings and figures read, what a report passes on, and names that every engine takes."""

import math
import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.core.errors import Cancelled
from plindro.core.findings import PLACE_LIMIT, Finding, Places, Severity, counted, grouped, holds_back, length, metres
from plindro.core.measure.game_view import View
from plindro.core.names import MAX_LENGTH, clean_name, is_reserved, unique_names
from plindro.core.report import Report
from plindro.core.stations.cleanup import CleanupFacts
from plindro.core.stations.levels import LevelsFacts

FACTOR = {"km": 1000.0, "m": 1.0, "mm": 0.001}


@given(st.floats(1e-6, 1e6))
def test_a_length_reads_as_what_it_is_in_a_unit_that_suits_it(value: float) -> None:
    figure, unit = length(value).split()
    assert float(figure) * FACTOR[unit] == pytest.approx(value, rel=0.006)
    assert re.fullmatch(r"[0-9.e+-]+", figure)
    if 1e-4 <= value < 1e5:
        assert "e" not in figure, "nobody reads powers of ten"
        assert len(figure.replace(".", "").lstrip("0")) <= 4
    figure, unit = metres(value).split()
    assert float(figure) * FACTOR[unit] == pytest.approx(value, rel=0.006)


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (0.00042, "0.42 mm"),
        (0.017, "17 mm"),
        (0.0999, "99.9 mm"),
        (0.1, "0.1 m"),
        (9.614, "9.61 m"),
        (999.8, "1 km"),
        (9614.0, "9.61 km"),
    ],
)
def test_lengths_as_they_are_read(value: float, text: str) -> None:
    assert length(value) == text


@given(st.integers(0, 10**9))
def test_counts_are_grouped_and_agree_with_what_is_counted(number: int) -> None:
    assert int(grouped(number).replace("\u202f", "")) == number
    assert all(len(group) <= 3 for group in grouped(number).split("\u202f"))
    assert counted(number, "hole") == f"{grouped(number)} {'hole' if number == 1 else 'holes'}"
    assert counted(number, "vertex", "vertices").endswith("vertex" if number == 1 else "vertices")


@pytest.mark.parametrize(("shape", "kind"), [((5, 3), "vertices"), ((5, 2, 3), "edges"), ((5, 3, 3), "triangles")])
def test_places_are_of_a_kind_finite_and_few(shape: tuple[int, ...], kind: str) -> None:
    points = np.arange(float(np.prod(shape))).reshape(shape)
    points.reshape(5, -1)[2, 1] = np.nan
    places = Places.of(points)
    assert places.kind == kind
    assert places.points.shape == (4, {"vertices": 1, "edges": 2, "triangles": 3}[kind], 3)
    assert places.points.dtype == np.float32
    many = Places.of(np.zeros((3 * PLACE_LIMIT, *shape[1:])))
    assert len(many.points) == PLACE_LIMIT
    row = Finding("hole", Severity.WARNING, "it has holes", 9, places=places).as_dict(with_places=True)
    assert row["places"]["kind"] == kind
    assert (row["severity"], row["count"]) == ("warning", 9)
    assert "places" not in Finding("hole", Severity.INFO, "it has holes").as_dict()
    assert Finding("hole", Severity.INFO, "it has holes").as_dict(with_places=True)["places"] is None


def test_only_a_stop_holds_back() -> None:
    mild = [Finding("a", severity, "a") for severity in (Severity.INFO, Severity.WARNING)]
    assert not holds_back(mild)
    assert not holds_back([])
    assert holds_back([*mild, Finding("b", Severity.STOP, "b")])


def test_a_part_of_the_work_reports_its_share_and_shares_what_is_found() -> None:
    told: list[tuple[float, str]] = []
    whole = Report(lambda fraction, doing: told.append((fraction, doing)), station="cleanup")
    inner = whole.span(0.2, 0.6).span(0.5, 1.0)
    inner.step(0.0, "looking")
    inner.step(0.5, "looking")
    inner.step(7.0, "looking")
    assert [fraction for fraction, _ in told] == pytest.approx([0.4, 0.5, 0.6])
    inner.find(Finding("hole", Severity.WARNING, "it has holes"))
    inner.find(Finding("gap", Severity.WARNING, "it has gaps", station="source"))
    assert [(f.code, f.station) for f in whole.findings] == [("hole", "cleanup"), ("gap", "source")]
    apart = whole.apart(0.6, 1.0, "levels")
    apart.find(Finding("level-skipped", Severity.INFO, "skipped"))
    assert [f.station for f in apart.findings] == ["levels"]
    assert len(whole.findings) == 2, "a station's findings are its own until they are taken over"


def test_facts_are_stated_once_for_all_parts_and_asked_for_by_kind() -> None:
    report = Report()
    with pytest.raises(LookupError, match="no LevelsFacts"):
        report.stated(LevelsFacts)
    facts = LevelsFacts(levels=[], cull_distance=None, radius=0.5)
    report.span(0.0, 0.5).state(facts)
    assert report.stated(LevelsFacts) is facts
    with pytest.raises(LookupError, match="no CleanupFacts"):
        report.stated(CleanupFacts)


def test_work_that_was_called_off_stops_at_its_next_step_in_every_part() -> None:
    called_off = [False]
    report = Report(is_cancelled=lambda: called_off[0])
    inner = report.span(0.0, 0.5).apart(0.0, 1.0, "levels")
    inner.step(0.1, "reducing")
    called_off[0] = True
    for part in (report, inner):
        with pytest.raises(Cancelled, match="nothing was written"):
            part.step(0.2, "reducing")


NAMES = st.text(max_size=90)


@given(NAMES, st.sampled_from(["keep", "lower", "upper", "title"]), st.booleans(), st.integers(1, 80))
def test_a_clean_name_is_taken_everywhere_and_cleaned_again_stays(name: str, case, hyphens: bool, longest: int) -> None:
    clean = clean_name(name, case=case, hyphens=hyphens, longest=longest)
    assert re.fullmatch(r"[A-Za-z0-9_-]+" if hyphens else r"[A-Za-z0-9_]+", clean)
    assert not is_reserved(clean)
    assert len(clean) <= max(longest, len("prop"), len("com1_prop"))
    assert clean[0] not in "_-"
    assert clean[-1] not in "_-"
    if case == "upper" and clean != "prop" and not clean.endswith("_prop"):
        assert clean == clean.upper()
    if longest >= MAX_LENGTH and case == "keep":
        assert clean_name(clean, hyphens=hyphens, longest=longest) == clean


@pytest.mark.parametrize(
    ("name", "clean"),
    [
        ("Storm làntern 01", "Storm_lantern_01"),
        ("con", "con_prop"),
        ("LPT1", "LPT1_prop"),
        ("  ", "prop"),
        ("鋼", "prop"),
    ],
)
def test_names_as_they_are_cleaned(name: str, clean: str) -> None:
    assert clean_name(name) == clean


@given(st.lists(st.sampled_from(["a", "A", "a_2", "b", "B_2", "a_3"]), max_size=12))
def test_unique_names_are_apart_in_any_case_and_keep_their_beginnings(names: list[str]) -> None:
    unique = unique_names(names)
    assert len({name.lower() for name in unique}) == len(names)
    for name, found in zip(names, unique, strict=True):
        assert found == name or re.fullmatch(re.escape(name) + r"_\d+", found)


VIEWS = st.builds(View, st.integers(200, 4000), st.floats(20, 120), st.floats(0.0, 5.0))


@given(VIEWS, st.floats(1e-4, 10.0), st.floats(0.1, 50.0))
def test_what_covers_so_many_pixels_does_so_from_its_distance(view: View, size: float, pixels: float) -> None:
    distance = view.distance(size, pixels)
    assert view.pixels(size, distance) == pytest.approx(pixels, rel=1e-6)
    assert view.length(pixels, distance) == pytest.approx(size, rel=1e-6)
    assert view.pixels(size, 2.0 * distance) < pixels, "further away it covers less"
    assert view.distance(size, 2.0 * pixels) <= distance


@given(VIEWS, st.floats(0.01, 10.0), st.floats(0.01, 3.0))
def test_a_share_of_the_view_is_stated_as_it_is_also_beyond_the_whole(
    view: View, diameter: float, share: float
) -> None:
    distance = view.distance_of_share(diameter, share)
    assert view.share(diameter, distance) == pytest.approx(share, rel=1e-9)


def test_views_at_their_limits() -> None:
    view = View(radius=1.0)
    assert view.pixels(0.1, 0.5) == math.inf, "the eye may be at it"
    assert view.pixels(0.0, 0.5) == 0.0
    assert view.length(3.0, 0.5) == 0.0
    assert view.distance(0.0, 1.0) == 0.0
    assert view.distance(0.1, 0.0) == math.inf
    assert (view.share(1.0, 0.0), view.share(0.0, 1.0)) == (math.inf, 0.0)
    assert view.distance_of_share(1.0, 0.0) == math.inf
