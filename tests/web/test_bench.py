"""The Bench: decisions, undo and redo, kept in the database."""

import json

import numpy as np
import pytest

from plindro.web.work import registry
from plindro.web.work.models import Job
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.services import build_outdated
from tests.shapes import wavy_sheet
from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db


@pytest.fixture
def prop(upload, run_jobs) -> int:
    identity: int = upload(sheet__obj=sheet_obj())["props"][0]
    run_jobs()
    return identity


def _decide(call, prop: int, **stations):
    return call("PATCH", f"props/{prop}/settings", {"changes": stations})


def test_what_an_earlier_version_built_is_shown_and_built_again(call, prop, run_jobs) -> None:
    assert build_outdated() == 0
    Built.objects.update(key="earlier", facts={"of": "an earlier version"})
    status, detail = call("GET", f"props/{prop}")
    assert (status, detail["states"]) == (200, [])
    assert build_outdated() == 1
    assert build_outdated() == 0, "it is queued already"
    run_jobs()
    assert call("GET", f"props/{prop}")[1]["readiness"] != "working"
    assert build_outdated() == 0


def test_every_decision_is_undone_and_redone_in_order(call, prop, run_jobs) -> None:
    assert call("POST", f"props/{prop}/undo") == (422, {"detail": "there is nothing to undo"})
    _decide(call, prop, levels={"levels": [{"ratio": 0.5}, {"ratio": 0.2}]})
    run_jobs()
    call("PATCH", f"props/{prop}/name", {"name": "lid"})
    call("PATCH", f"props/{prop}/line", {"line": "small"})
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    assert (detail["name"], detail["line"], len(detail["levels"])) == ("lid", "small", 3)
    assert detail["undo"] == {"label": "Line: Small prop", "is_own": True}
    assert call("POST", f"props/{prop}/undo")[1]["line"] == "standing"
    assert call("POST", f"props/{prop}/undo")[1]["name"] == "sheet"
    last = call("POST", f"props/{prop}/undo")[1]
    assert last["overridden"] == {}
    assert (last["undo"], last["redo"]) == (None, "Levels: levels 50% / 20%")
    for _ in range(3):
        detail = call("POST", f"props/{prop}/redo")[1]
    assert (detail["name"], detail["line"], detail["redo"]) == ("lid", "small", None)


def test_new_decision_after_undo_ends_what_could_be_redone(call, prop, run_jobs) -> None:
    _decide(call, prop, normals={"source": "angle", "angle": 20})
    call("POST", f"props/{prop}/undo")
    _decide(call, prop, triangulation={"quads": "first"})
    assert call("POST", f"props/{prop}/redo") == (422, {"detail": "there is nothing to redo"})


def test_what_was_built_before_comes_back_without_work(call, prop, run_jobs) -> None:
    before = call("GET", f"props/{prop}")[1]["model"]
    _decide(call, prop, levels={"levels": [{"ratio": 0.6}]})
    run_jobs()
    assert call("GET", f"props/{prop}")[1]["model"] != before
    jobs = Job.objects.count()
    undone = call("POST", f"props/{prop}/undo")[1]
    assert (undone["model"], undone["readiness"]) == (before, "ready")
    assert Job.objects.count() == jobs


def test_late_end_of_a_build_that_was_called_off_leaves_the_result_that_was_undone_to(call, prop, run_jobs) -> None:
    call("PATCH", f"props/{prop}/settings", {"changes": {"normals": {"source": "smooth"}}})
    job = Job.objects.get(state=Job.State.QUEUED)
    Job.objects.filter(pk=job.pk).update(state=Job.State.RUNNING)
    undone = call("POST", f"props/{prop}/undo")[1]
    assert undone["readiness"] in ("ready", "warning")
    job.refresh_from_db()
    assert job.cancel_requested
    job.state = Job.State.CANCELLED
    job.save()
    registry.handler_of(job).ended(job)
    assert call("GET", f"props/{prop}")[1]["readiness"] == undone["readiness"]


def test_late_result_of_an_old_decision_does_not_overwrite_a_newer_one(call, prop, run_jobs) -> None:
    _decide(call, prop, levels={"levels": [{"ratio": 0.6}]})
    old = Job.objects.filter(state=Job.State.QUEUED).get()
    Job.objects.filter(pk=old.pk).update(state=Job.State.RUNNING)
    from plindro.web.work.progress import JobChannel
    from tests.web.conftest import InlineExecutor

    future = registry.handler_of(old).submit(old, JobChannel("/tmp", old.pk), InlineExecutor())
    _decide(call, prop, levels={"levels": [{"ratio": 0.3}]})
    old.refresh_from_db()
    assert old.cancel_requested
    handler = registry.handler_of(old)
    handler.finish(old, handler.keep(old, future.result()))
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    assert [level["triangles"] for level in detail["levels"]] in ([288, 86], [288, 85])
    assert Built.objects.count() == 3


def test_setting_equal_to_the_lines_own_is_no_override(call, prop) -> None:
    assert _decide(call, prop, normals={"angle": 50})[1]["overridden"] == {"normals": ["angle"]}
    assert _decide(call, prop, normals={"angle": 38})[1]["overridden"] == {}


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"levels": {"levels": [{"ratio": 0.2}, {"ratio": 0.4}]}}, "ratios must fall"),
        ({"normals": {"angle": 500}}, "normals.angle"),
        ({"normals": {"tilt": 5}}, "normals.tilt"),
        ({"gilding": {"carat": 5}}, "no station 'gilding'"),
    ],
)
def test_impossible_settings_are_refused_and_nothing_changes(call, prop, changes, message) -> None:
    status, problem = call("PATCH", f"props/{prop}/settings", {"changes": changes})
    assert status == 422
    assert message in problem["detail"]
    assert call("GET", f"props/{prop}")[1]["undo"] is None


def _sheet(client, url: str) -> dict[str, np.ndarray]:
    """The arrays of a sheet, read as its own documentation says."""
    data = b"".join(client.get(url))
    length = int(np.frombuffer(data, "<u4", 1)[0])
    header = json.loads(data[4 : 4 + length])
    arrays, at = {}, 4 + length
    for row in header["arrays"]:
        kind = np.dtype(row["type"])
        arrays[row["name"]] = np.frombuffer(data, kind, row["length"], at)
        at += -(-kind.itemsize * row["length"] // 4) * 4
    assert at == len(data)
    return arrays


def test_sheet_tells_how_the_view_hangs_together_and_which_edges_were_marked(call, client, prop, run_jobs) -> None:
    detail = call("GET", f"props/{prop}")[1]
    arrays = _sheet(client, detail["sheet"])
    n = detail["levels"][0]["triangles"]
    assert all(len(a) in (n, 3 * n) for a in arrays.values())
    twin = arrays["twin"]
    paired = np.flatnonzero(twin >= 0)
    assert (twin[twin[paired]] == paired).all()
    ahead = np.arange(len(twin)) // 3 * 3 + (np.arange(len(twin)) + 1) % 3
    assert (arrays["vertex"][paired] == arrays["vertex"][ahead[twin[paired]]]).all()
    assert not (arrays["edge"] & 2).any()
    grid = wavy_sheet(12).positions.reshape(13, 13, 3)
    mark = [grid[5, 6].tolist(), grid[6, 6].tolist()]
    gone = [[7.0, 0.0, 0.0], [8.0, 0.0, 0.0]]
    _decide(call, prop, normals={"hard": [mark, gone], "source": "smooth"})
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    assert detail["undo"]["label"].startswith("Normals: hard marks, 2")
    assert detail["facts"]["normals"]["marks"]["hard"] == 1
    assert [f["count"] for f in detail["findings"] if f["code"] == "mark-lost"] == [1]
    assert (_sheet(client, detail["sheet"])["edge"] & 2 > 0).sum() == 2


def test_the_way_down_says_of_every_built_level_what_it_is(call, client, prop, run_jobs) -> None:
    _decide(
        call, prop, levels={"levels": [{"triangles": 150}, {"tolerance_mm": 60, "triangles": 70}], "normals": "keep"}
    )
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    assert detail["undo"]["label"] == "Levels: levels 150 triangles / 70 triangles and 60 mm, Levels: normals keep"
    way = _sheet(client, detail["descent"])
    assert way["trianglesAt"][0] == detail["levels"][0]["triangles"]
    assert (way["parent"] < np.arange(len(way["parent"]))).all()
    for level in detail["levels"][1:]:
        (steps,) = np.nonzero(way["trianglesAt"] == level["triangles"])
        assert level["vertices"] in way["verticesAt"][steps]
        assert 0.5 * level["deviation"] <= way["largestAt"][steps].max() <= 2.0 * level["deviation"]


def test_names_of_other_props_and_odd_names_are_refused(call, prop, upload) -> None:
    upload(other__obj=sheet_obj())
    assert "already" in call("PATCH", f"props/{prop}/name", {"name": "OTHER"})[1]["detail"]
    assert "is no name" in call("PATCH", f"props/{prop}/name", {"name": "a b"})[1]["detail"]


def test_mesh_for_a_level_is_taken_checked_and_given_back(call, client, prop, run_jobs) -> None:
    def send(number: int, name: str, data: bytes):
        from django.core.files.uploadedfile import SimpleUploadedFile

        address = f"/api/props/{prop}/levels/{number}/mesh"
        answer = client.post(address, {"files": SimpleUploadedFile(name, data)})
        return answer.status_code, answer.json()

    before = call("GET", f"props/{prop}")[1]
    status, detail = send(2, "far.obj", sheet_obj(4))
    assert status == 200
    assert detail["settings"]["levels"]["levels"][1]["hand_made"] == "far.obj"
    assert detail["undo"]["label"] == "Levels: LOD2 by hand, far.obj"
    run_jobs()
    built = call("GET", f"props/{prop}")[1]
    level = built["levels"][2]
    assert (level["triangles"], level["normals"]) == (32, "by hand")
    assert level["distance"] >= built["levels"][1]["distance"]
    assert send(6, "far.obj", sheet_obj(4))[0] == 422
    assert send(1, "far.txt", b"")[0] == 422
    call("POST", f"props/{prop}/undo")
    assert call("GET", f"props/{prop}")[1]["levels"] == before["levels"]


def test_collision_by_hand_is_taken_checked_and_given_back(call, client, prop, run_jobs) -> None:
    from django.core.files.uploadedfile import SimpleUploadedFile

    def send(name: str, data: bytes):
        return client.post(f"/api/props/{prop}/collision/mesh", {"files": SimpleUploadedFile(name, data)})

    tetrahedron = b"v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"
    assert send("stops.obj", tetrahedron).status_code == 200
    run_jobs()
    built = call("GET", f"props/{prop}")[1]
    assert built["undo"]["label"] == "Collision: by hand, stops.obj"
    assert [row["shape"] for row in built["facts"]["collision"]["proxies"]] == ["mesh"]
    assert len(built["facts"]["naming"]["proxies"]) == 1
    assert send("open.obj", sheet_obj(3)).status_code == 200
    run_jobs()
    held = call("GET", f"props/{prop}")[1]
    assert held["readiness"] == "held"
    assert "collision-mesh-open" in [finding["code"] for finding in held["findings"]]
    assert send("none.txt", b"").status_code == 422
    call("POST", f"props/{prop}/undo")
    assert call("GET", f"props/{prop}")[1]["settings"]["collision"]["mesh"] == "stops.obj"


def test_settings_of_an_earlier_version_are_read_changed_and_undone_in_the_words_of_now(call, prop, run_jobs) -> None:
    Prop.objects.update(overrides={"levels": {"lowest": 60}, "normals": {"weights": "area"}}, settings_version=1)
    seen = call("GET", f"props/{prop}")[1]
    assert (seen["settings"]["levels"]["min_triangles"], seen["settings"]["normals"]["weighting"]) == (60, "area")
    assert seen["overridden"] == {"levels": ["min_triangles"], "normals": ["weighting"]}
    changed = _decide(call, prop, normals={"weighting": "angle"})[1]
    assert changed["overridden"] == {"levels": ["min_triangles"]}
    assert Prop.objects.get().settings_version > 1
    assert call("POST", f"props/{prop}/undo")[1]["settings"]["normals"]["weighting"] == "area"
