"""Settings that were saved by an earlier version mean the same when they are read by this one."""

import json
from pathlib import Path

import pytest

from plindro.core.errors import InvalidSettings
from plindro.core.line import StationLine
from plindro.core.lines import LINES, get_line
from plindro.core.settings_versions import CURRENT, brought_up

FIRST = {
    "name": "crate",
    "title": "Crate",
    "version": 1,
    "placement": {"turn": 90},
    "normals": {"weights": "area"},
    "levels": {"levels": [{"ratio": 0.5, "even": True, "normals": "kept"}], "lowest": 60, "bias": 1.5},
}


def test_a_line_file_of_the_first_version_is_read_in_the_words_of_now(tmp_path: Path) -> None:
    unsaid = {key: value for key, value in FIRST.items() if key != "version"}
    for number, document in enumerate((FIRST, unsaid)):
        file = tmp_path / f"{number}.json"
        file.write_text(json.dumps(document))
        line = get_line(str(file))
        settings = line.model_dump()
        assert (line.version, settings["placement"]["yaw"], settings["normals"]["weighting"]) == (CURRENT, 90, "area")
        assert (settings["levels"]["min_triangles"], settings["levels"]["switch_bias"]) == (60, 1.5)
        assert (settings["levels"]["levels"][0]["remesh"], settings["levels"]["levels"][0]["normals"]) == (True, "keep")


@pytest.mark.parametrize("line", LINES, ids=lambda line: line.name)
def test_settings_of_now_are_left_alone_whatever_version_they_are_taken_for(line: StationLine) -> None:
    written = line.model_dump(mode="json")
    assert brought_up(written, 1) == written
    assert StationLine.model_validate({**written, "version": 1}) == line
    assert line.version == CURRENT


def test_a_line_of_a_version_to_come_is_refused_in_words(tmp_path: Path) -> None:
    file = tmp_path / "later.json"
    file.write_text(json.dumps({"name": "later", "title": "Later", "version": CURRENT + 1}))
    with pytest.raises(InvalidSettings, match="version"):
        get_line(str(file))
