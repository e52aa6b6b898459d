"""The Source station on the board: choices, split and its undo, replaced sources and what they changed."""

import pytest

from plindro.demo import build_landing
from plindro.web.yard.building import SOURCE_KIND
from plindro.web.yard.models import KeptFile
from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db


@pytest.fixture
def landing(call, upload, run_jobs) -> int:
    identity: int = upload.named(build_landing())["props"][0]
    # Its levels are of no concern here.
    call("PATCH", f"props/{identity}/settings", {"changes": {"levels": {"has_levels": False}}})
    run_jobs()
    return identity


def test_choice_shows_at_once_and_the_split_is_made_and_undone(call, landing, run_jobs) -> None:
    detail = call("GET", f"props/{landing}")[1]
    assert detail["readiness"] in ("ready", "warning")
    assert [part["path"] for part in detail["parts"] if not part["ships"]] == ["Landing/Scaffold"]
    assert [row["file"] for row in detail["split"]] == ["landing_stage.glb"]
    assert call("POST", f"props/{landing}/split")[0] == 422
    view = call("GET", f"props/{landing}")[1]["source_model"]
    changes = {"source": {"split": "object", "exclude": ["ref_*"]}, "naming": {"prefix": "sk_", "case": "lower"}}
    decided = call("PATCH", f"props/{landing}/settings", {"changes": changes})[1]
    # Before anything is built again, the preview is there.
    assert [(row["file"], row["instances"]) for row in decided["split"]] == [
        ("sk_planks.glb", 1), ("sk_beams.glb", 1), ("sk_rails.glb", 1), ("sk_rungs.glb", 1), ("sk_post.glb", 6),
        ("sk_bracket_left.glb", 1), ("sk_bracket_right.glb", 1),
    ]  # fmt: skip
    run_jobs()
    status, made = call("POST", f"props/{landing}/split")
    assert status == 200
    run_jobs()
    board = {row["name"]: row for row in call("GET", "props")[1]}
    assert sorted(board) == ["beams", "bracket_left", "bracket_right", "planks", "post", "rails", "rungs"]
    assert board["rungs"]["triangles"] == 648
    detail = call("GET", f"props/{board['post']['id']}")[1]
    assert detail["levels"][0]["name"] == "sk_post_LOD0"
    assert detail["source_model"] == view, "one view serves all props of a source"
    KeptFile.objects.filter(kind=SOURCE_KIND).update(name="", digest="0" * 64)
    assert call("GET", f"props/{made['ids'][0]}")[1]["source_model"] == f"/api/files/{'0' * 64}.glb"
    call("PATCH", f"props/{made['ids'][0]}/settings", {"changes": {"levels": {"has_levels": True}}})
    run_jobs()
    assert call("GET", f"props/{made['ids'][1]}")[1]["source_model"] == view, "the next build renews it"
    assert call("POST", "props/remove", {"ids": made["ids"]})[1] == {"count": 7}
    assert call("POST", "props/restore", {"ids": [landing]})[1] == {"count": 1}
    assert [row["name"] for row in call("GET", "props")[1]] == ["landing_stage"]


def _replace(client, prop: int, **files: bytes):
    from django.core.files.uploadedfile import SimpleUploadedFile

    named = {name.replace("__", "."): data for name, data in files.items()}
    body = {"files": [SimpleUploadedFile(name, data) for name, data in named.items()], "paths": list(named)}
    return client.post(f"/api/props/{prop}/source", body)


def test_new_version_of_a_source_says_what_changed_keeps_choices_and_is_undone(call, client, upload, run_jobs) -> None:
    old = b"o lid\n" + sheet_obj() + b"\no rim\nf 1 2 3\n"
    prop = upload(box__obj=old)["props"][0]
    run_jobs()
    changes = {"source": {"excluded_parts": ["rim"]}, "levels": {"levels": [{"ratio": 0.4}]}}
    call("PATCH", f"props/{prop}/settings", {"changes": changes})
    run_jobs()
    before = call("GET", f"props/{prop}")[1]
    answer = _replace(client, prop, box_v2__obj=b"o lid\n" + sheet_obj() + b"\no knob\nf 1 2 3\nf 2 3 4\n")
    assert answer.json()["props"] == [prop]
    run_jobs()
    after = call("GET", f"props/{prop}")[1]
    assert after["overridden"] == before["overridden"]
    assert after["source_name"] == "box_v2.obj"
    rows = {row["what"]: (row["before"], row["after"]) for row in after["source_changes"]["rows"]}
    assert rows["part knob"] == ("none", "2 triangles")
    assert rows["part rim"] == ("1 triangle", "none")
    assert "choice-lost" in {finding["code"] for finding in after["findings"]}
    assert after["undo"]["label"] == "Source: box_v2.obj"
    undone = call("POST", f"props/{prop}/undo")[1]
    assert (undone["source_name"], undone["model"], undone["source_changes"]) == ("box.obj", before["model"], None)
    refused = _replace(client, prop, a__obj=old, b__obj=old)
    assert refused.status_code == 422
    assert "2 were given" in refused.json()["detail"]


def test_replacing_reaches_every_prop_of_the_source_and_a_lost_part_is_held(call, client, landing, run_jobs) -> None:
    call("PATCH", f"props/{landing}/settings", {"changes": {"source": {"split": "group"}}})
    made = call("POST", f"props/{landing}/split")[1]["ids"]
    run_jobs()
    text = (
        build_landing()["landing_stage.usda"]
        .replace(b'"Ladder"', b'"Steps"')
        .replace(b"/Landing/Ladder", b"/Landing/Steps")
    )
    answer = _replace(client, made[0], landing_stage_v2__usda=text)
    assert sorted(answer.json()["props"]) == sorted(made)
    run_jobs()
    state = {row["name"]: row["readiness"] for row in call("GET", "props")[1]}
    assert state["Ladder"] == "held"
    assert state["Deck"] in ("ready", "warning")
