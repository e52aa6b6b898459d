"""Two browsers at one prop: nobody's decision goes under without a word, and each undoes its own."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db
ANN, BOB = "ann", "bob"


@pytest.fixture
def prop(upload) -> int:
    identity: int = upload(sheet__obj=sheet_obj(4))["props"][0]
    return identity


@pytest.fixture
def decide(call, prop):
    """Decide something in a browser that looks at a version; returns status and answer."""

    def send(browser: str, version: int | None, what: str = "settings", **changes):
        body = {"changes": changes} if what == "settings" else changes
        return call("PATCH", f"props/{prop}/{what}", {**body, "version": version}, browser=browser)

    return send


def _seen(call, prop: int, browser: str):
    return call("GET", f"props/{prop}", browser=browser)[1]


def test_a_stale_decision_is_refused_with_both_values_and_can_be_made_all_the_same(call, prop, decide) -> None:
    seen = _seen(call, prop, ANN)["version"]
    assert decide(ANN, seen, normals={"source": "angle", "angle": 20.0})[0] == 200
    status, said = decide(BOB, seen, normals={"angle": 50.0, "weighting": "area"})
    assert status == 409
    assert said["rows"] == [
        {"key": "normals.angle", "label": "Normals: angle", "theirs": "20", "yours": "50"},
    ]
    assert said["detail"].startswith("decided in another browser meanwhile: Normals: angle 20 there, 50 here")
    now = _seen(call, prop, BOB)
    assert (now["settings"]["normals"]["angle"], now["version"]) == (20.0, said["version"])
    assert now["settings"]["normals"]["weighting"] != "area", "a refused decision is refused whole"
    assert decide(BOB, said["version"], normals={"angle": 50.0})[0] == 200
    assert _seen(call, prop, ANN)["settings"]["normals"]["angle"] == 50.0


def test_what_nobody_else_touched_is_never_in_dispute(call, prop, decide) -> None:
    seen = _seen(call, prop, ANN)["version"]
    assert decide(ANN, seen, normals={"angle": 20.0})[0] == 200
    # Another setting; one's own earlier decision; and the same value as the other's.
    assert decide(BOB, seen, levels={"has_levels": False})[0] == 200
    assert decide(ANN, seen, normals={"angle": 25.0})[0] == 200
    assert decide(BOB, seen, normals={"angle": 25.0})[0] == 200


@pytest.mark.parametrize("what", ["name", "line"])
def test_names_and_lines_are_not_overwritten_unseen(call, prop, decide, what) -> None:
    lines = [line["name"] for line in call("GET", "project")[1]["lines"] if line["name"] != "standing"]
    first, second = ("lid", "cap") if what == "name" else lines[:2]
    seen = _seen(call, prop, ANN)["version"]
    assert decide(ANN, seen, what, **{what: first})[0] == 200
    status, said = decide(BOB, seen, what, **{what: second})
    assert (status, said["rows"][0]["key"]) == (409, what)
    assert _seen(call, prop, BOB)[what] == first
    assert decide(BOB, said["version"], what, **{what: second})[0] == 200


@pytest.mark.parametrize(
    ("address", "key"),
    [
        ("source", "source"),
        ("levels/1/mesh", "levels.levels"),
        ("collision/mesh", "collision.mesh"),
    ],
)
def test_files_are_not_put_over_those_of_another_unseen(call, client, prop, address, key) -> None:
    def send(browser: str, size: int, version: int):
        files = {"files": SimpleUploadedFile(f"of_{browser}.obj", sheet_obj(size))}
        path = f"/api/props/{prop}/{address}?version={version}"
        answer = client.post(path, files, headers={"X-Plindro-Browser": browser})
        return answer.status_code, answer.json()

    seen = _seen(call, prop, ANN)["version"]
    assert send(ANN, 5, seen)[0] == 200
    status, said = send(BOB, 6, seen)
    assert (status, [row["key"] for row in said["rows"]]) == (409, [key])
    assert ("of_ann.obj" in said["rows"][0]["theirs"], "of_bob.obj" in said["rows"][0]["yours"]) == (True, True)
    assert "of_ann.obj" in _seen(call, prop, BOB)["undo"]["label"]
    assert send(BOB, 6, said["version"])[0] == 200
    assert "of_bob.obj" in _seen(call, prop, BOB)["undo"]["label"]


def test_undo_takes_back_ones_own_decision_and_leaves_the_others(call, prop, decide) -> None:
    seen = _seen(call, prop, ANN)["version"]
    decide(ANN, seen, normals={"angle": 20.0})
    decide(BOB, seen, levels={"has_levels": False})
    assert _seen(call, prop, ANN)["undo"] == {"label": "Normals: angle 20", "is_own": True}
    undone = call("POST", f"props/{prop}/undo", browser=ANN)[1]
    assert undone["overridden"] == {"levels": ["has_levels"]}
    assert (undone["redo"], _seen(call, prop, BOB)["redo"]) == ("Normals: angle 20", None)
    # Only another's is left: it is named, and is taken back when that is meant.
    assert undone["undo"] == {"label": "Levels: has levels off", "is_own": False}
    status, said = call("POST", f"props/{prop}/undo", browser=ANN)
    assert (status, "made in another browser" in said["detail"]) == (422, True)
    assert call("POST", f"props/{prop}/undo?of_anyone=true", browser=ANN)[1]["overridden"] == {}
    for _ in range(2):
        assert call("POST", f"props/{prop}/redo", browser=ANN)[0] == 200
    assert _seen(call, prop, ANN)["overridden"] == {"levels": ["has_levels"], "normals": ["angle"]}


def test_undo_never_takes_back_what_another_decided_over_it(call, prop, decide) -> None:
    decide(ANN, None, normals={"angle": 20.0})
    decide(BOB, None, normals={"angle": 50.0})
    status, said = call("POST", f"props/{prop}/undo", browser=ANN)
    assert (status, said["detail"]) == (
        422,
        "'Normals: angle 20' was decided over in another browser since; decide it anew",
    )
    assert call("POST", f"props/{prop}/undo", browser=BOB)[1]["settings"]["normals"]["angle"] == 20.0
    assert call("POST", f"props/{prop}/undo", browser=ANN)[1]["overridden"] == {}
