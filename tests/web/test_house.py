"""The house's own ways: versions of lines and destinations, drafts, trials, rules, and what a change makes stale."""

from typing import Any

import pytest

from plindro.web.catalogue.services import line_for
from plindro.web.yard.models import Prop
from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db


@pytest.fixture
def board(upload, run_jobs) -> list[int]:
    """Two built props."""
    ids: list[int] = upload(door_a__obj=sheet_obj(), crate__obj=sheet_obj(8))["props"]
    run_jobs()
    return ids


def _line(call: Any, name: str = "standing") -> dict[str, Any]:
    return call("GET", f"catalogue/line/{name}")[1]


def _rows(call: Any) -> dict[str, dict[str, Any]]:
    return {row["name"]: row for row in call("GET", "props")[1]}


def test_a_changed_line_is_a_version_with_its_difference_and_makes_its_props_stale(call, board, run_jobs) -> None:
    line = _line(call)
    assert (line["number"], line["is_ours"], [u["name"] for u in line["users"]]) == (0, True, ["crate", "door_a"])
    line["data"]["levels"]["levels"] = [{"ratio": 0.5}]
    line["data"]["budget"]["triangles"] = 100
    status, saved = call("POST", "catalogue/line", {"data": line["data"], "seen": 0, "by": "Ada"})
    assert (status, saved["number"]) == (200, 1)
    newest = saved["versions"][0]
    assert (newest["by"], {c["field"] for c in newest["changes"]}) == ("Ada", {"levels.levels", "budget.triangles"})
    again = call("POST", "catalogue/line", {"data": line["data"], "seen": 1, "by": "Ada"})[1]
    assert again["number"] == 1, "what is as it was is no version"
    assert all(row["is_stale"] and row["levels"] == 4 for row in _rows(call).values()), "nothing is built unasked"
    assert next(r for r in call("GET", "catalogue/line")[1] if r["name"] == "standing")["stale"] == 2
    assert call("POST", "lines/build-stale?line=hanging")[1]["count"] == 0
    assert call("POST", "lines/build-stale?line=standing")[1]["count"] == 2
    run_jobs()
    call("POST", "catalogue/line", {"data": line["data"], "seen": 1, "by": "Ada"})
    assert {(r["is_stale"], r["levels"], r["triangle_budget"]) for r in _rows(call).values()} == {(False, 2, 100)}
    assert call("POST", "catalogue/line", {"data": line["data"], "seen": 0})[0] == 422, "another saved it meanwhile"
    titled = {**line["data"], "title": "Stands"}
    assert call("POST", "catalogue/line", {"data": titled, "seen": 1})[1]["number"] == 2
    assert not any(row["is_stale"] for row in _rows(call).values()), "a title changes no result"
    back = call("POST", "catalogue/line/standing/restore", {"number": 0, "seen": 2, "by": "Ada"})[1]
    assert (back["number"], back["data"]["budget"]["triangles"]) == (3, 20_000)
    assert {row["is_stale"] for row in _rows(call).values()} == {True}
    again = {**back["data"], "levels": line["data"]["levels"], "budget": line["data"]["budget"]}
    call("POST", "catalogue/line", {"data": again, "seen": 3})
    assert {row["is_stale"] for row in _rows(call).values()} == {False}, "as they were built, they are not stale"
    call("POST", "catalogue/line/standing/restore", {"number": 0, "seen": 4})
    assert call("POST", "lines/build-stale")[1]["count"] == 2
    assert {r["levels"] for r in _rows(call).values()} == {4}, "what was built before is still there"


def test_faults_of_a_draft_are_told_at_their_fields_and_nothing_is_saved(call, board) -> None:
    data = call("GET", "catalogue/destination/plain")[1]["data"]
    wrong = {**data, "level_template": "{prop}_{lvl}", "up": "z"}
    faults = call("POST", "catalogue/destination/draft", {"data": wrong})[1]["faults"]
    assert {fault["field"]: fault["place"] for fault in faults} == {"level_template": 7, "up": None}
    status, refused = call("POST", "catalogue/destination", {"data": wrong, "seen": 0})
    assert (status, {fault["field"] for fault in refused["faults"]}) == (422, {"level_template", "up"})
    assert call("GET", "catalogue/destination/plain")[1]["number"] == 0
    assert call("POST", "catalogue/destination", {"data": data})[0] == 422, "a new one needs a name of its own"
    assert call("GET", "catalogue/destination/schema")[1]["properties"]["level_template"]["description"]


def test_a_draft_names_every_prop_tells_clashes_and_files_left_behind(call, board, run_jobs) -> None:
    data = call("GET", "catalogue/destination/plain")[1]["data"]
    own = {**data, "name": "ours", "title": "Ours", "format": "stl", "file_template": "{prop}"}
    assert call("POST", "catalogue/destination", {"data": own})[0] == 200
    call("POST", "shipments", {"ids": board, "destination": "ours"})
    run_jobs()
    draft = {**own, "level_template": "{prop}-{level}"}
    seen = call("POST", "catalogue/destination/draft", {"data": draft})[1]
    assert seen["changes"] == [{"field": "level_template", "before": "{prop}_LOD{level}", "after": "{prop}-{level}"}]
    crate = next(row for row in seen["props"] if row["name"] == "crate")
    assert crate["files"] == [f"crate-{k}.stl" for k in range(4)] == [f"{node}.stl" for node in crate["nodes"]]
    assert crate["left"] == [f"crate_LOD{k}.stl" for k in range(4)]
    assert crate["figures"]["triangles"][0] == 128
    assert not any(row["clash"] for row in seen["props"])
    Prop.objects.filter(name="door_a").update(name="CRAT")
    line = _line(call)["data"]
    both = call("POST", "catalogue/line/draft", {"data": {**line, "naming": {**line["naming"], "longest": 4}}})[1]
    assert all("crate" in row["clash"] and "CRAT" in row["clash"] for row in both["props"])


def test_a_trial_builds_the_draft_beside_what_is_there(call, board, run_jobs) -> None:
    data = _line(call)["data"]
    data["levels"]["levels"] = [{"ratio": 0.25}]
    status, trial = call("POST", "catalogue/line/trial", {"data": data, "props": board[:1]})
    assert (status, trial["rows"][0]["state"]) == (200, "waiting")
    run_jobs()
    (row,) = call("GET", f"trials/{trial['id']}")[1]["rows"]
    assert (row["state"], row["name"]) == ("done", "door_a")
    assert (len(row["before"]["levels"]), len(row["after"]["levels"])) == (4, 2)
    assert row["after"]["levels"][1]["triangles"] == pytest.approx(72, abs=2)
    assert _rows(call)["door_a"]["levels"] == 4, "a trial decides nothing"
    plain = call("GET", "catalogue/destination/plain")[1]["data"]
    ply = {**plain, "format": "ply", "up": "z", "unit": "cm"}
    trial = call("POST", "catalogue/destination/trial", {"data": ply, "props": board[:1]})[1]
    run_jobs()
    (row,) = call("GET", f"trials/{trial['id']}")[1]["rows"]
    assert [file["path"] for file in row["files"]] == [f"door_a_LOD{k}.ply" for k in range(4)]
    assert all(file["address"] and len(file["sha256"]) == 64 for file in row["files"])
    trial = call("POST", "catalogue/line/trial", {"data": {**data, "cleanup": {"weld": {}}}, "props": board})
    assert trial[0] == 422
    trial = call("POST", "catalogue/line/trial", {"data": data, "props": board[1:]})[1]
    call("POST", f"trials/{trial['id']}/cancel")
    run_jobs()
    assert call("GET", f"trials/{trial['id']}")[1]["rows"][0]["state"] == "cancelled"


def test_own_settings_go_back_to_the_line_or_into_it(call, board, run_jobs) -> None:
    door, crate = board
    for prop, prefix in ((door, "A_"), (crate, "B_")):
        call("PATCH", f"props/{prop}/settings", {"changes": {"naming": {"prefix": prefix}}, "version": 0}, "me")
    run_jobs()
    users = {user["name"]: user["overrides"] for user in _line(call)["users"]}
    assert users["door_a"] == [{"field": "naming.prefix", "before": "", "after": "A_"}]
    assert call("POST", "lines/bring-back", {"props": [crate], "fields": ["naming.prefix"]}, "me")[1]["count"] == 1
    assert not {user["name"]: user["overrides"] for user in _line(call)["users"]}["crate"]
    call("POST", f"props/{crate}/undo", {}, "me")
    assert {user["name"]: user["overrides"] for user in _line(call)["users"]}["crate"]
    taken = call("POST", "lines/take-over", {"prop": door, "fields": ["naming.prefix"], "seen": 0, "by": "Ada"}, "me")[
        1
    ]
    assert (taken["number"], taken["data"]["naming"]["prefix"]) == (1, "A_")
    assert not next(user for user in taken["users"] if user["name"] == "door_a")["overrides"]
    stale = {user["name"]: user["is_stale"] for user in taken["users"]}
    assert stale == {"crate": False, "door_a": False}, "one has it now as before, the other has its own still"
    assert call("GET", f"props/{door}")[1]["settings"]["naming"]["prefix"] == "A_"


def test_a_line_of_the_house_is_made_used_kept_while_used_and_removed(call, board, run_jobs) -> None:
    data = {**_line(call)["data"], "name": "doors", "title": "Doors"}
    assert call("POST", "catalogue/line", {"data": data})[1]["is_ours"] is False
    assert "doors" in {line["name"] for line in call("GET", "project")[1]["lines"]}
    call("PATCH", f"props/{board[0]}/line", {"line": "doors", "version": 0})
    run_jobs()
    assert "door_a" in call("POST", "catalogue/line/doors/remove")[1]["detail"]
    call("PATCH", f"props/{board[0]}/line", {"line": "standing", "version": 1})
    assert call("POST", "catalogue/line/doors/remove")[0] == 200
    assert call("POST", "catalogue/line/standing/remove")[0] == 422
    assert call("GET", "catalogue/line/doors")[0] == 404


def test_rules_choose_the_line_of_a_new_prop_by_name_or_folder(call, upload, board) -> None:
    rules = [
        {"of": "name", "pattern": "Door_*", "line": "hinged"},
        {"of": "folder", "pattern": "*/held", "line": "held"},
    ]
    saved = call("POST", "line-rules", {"rules": rules})[1]
    assert [rule["fits"] for rule in saved] == [["door_a"], []]
    ids = upload.named({"set/held/cup.obj": sheet_obj(), "set/DOOR_b.obj": sheet_obj(), "set/other.obj": sheet_obj()})
    lines = dict(Prop.objects.filter(pk__in=ids["props"]).values_list("name", "line"))
    assert lines == {"cup": "held", "DOOR_b": "hinged", "other": "standing"}
    assert call("POST", "line-rules", {"rules": [{"of": "name", "pattern": "*", "line": "gone"}]})[0] == 422
    assert line_for("door_x.glb") == "hinged"


def test_a_shipment_keeps_the_destination_of_its_moment(call, board, run_jobs) -> None:
    shipment = call("POST", "shipments", {"ids": board, "destination": "plain"})[1]
    data = call("GET", "catalogue/destination/plain")[1]["data"]
    call("POST", "catalogue/destination", {"data": {**data, "file_template": "new_{prop}"}, "seen": 0})
    run_jobs()
    rows = call("GET", f"shipments/{shipment['id']}")[1]["items"]
    assert {file["path"] for row in rows for file in row["files"]} == {"crate.glb", "door_a.glb"}
    assert {row["is_stale"] for row in call("GET", "props")[1]} == {True}, "the board's destination is another now"
