"""A shared sheet: ordered, made, its props on the board beside those that they were made from."""

from dataclasses import replace

import pytest

from plindro.core.files.gltf.writer import write_glb
from plindro.core.prop import Level
from plindro.web.work.models import Job
from tests.painted import painted

LINE = {"levels": {"levels": [{"ratio": 0.5}]}}


@pytest.fixture
def two(upload, call, run_jobs) -> list[int]:
    """Two painted props on the board."""
    made = [painted(name, seed) for seed, name in enumerate(("left", "right"))]
    files = {f"{prop.name}.glb": write_glb(replace(prop, levels=(Level(0, prop.mesh, prop.name),))) for prop in made}
    ids = upload.named(files)["props"]
    for prop in ids:
        call("PATCH", f"props/{prop}/settings", {"changes": LINE})
    run_jobs()
    return list(ids)


def test_props_on_a_sheet_come_to_the_board_and_ship_one_material(call, two, run_jobs) -> None:
    status, sheet = call("POST", "sheets", {"ids": two, "name": "pair", "size": 256, "padding": 4})
    assert (status, sheet["state"], sheet["members"]) == (200, "running", ["left", "right"])
    before = [call("GET", f"props/{prop}")[1]["model"] for prop in two]
    run_jobs()
    done = call("GET", f"sheets/{sheet['id']}")[1]
    assert (done["state"], done["error"], done["messages"]) == ("done", "", [])
    assert (done["before"]["draw_calls"], done["after"]["draw_calls"]) == (2, 2)
    assert done["after"]["texture_bytes"] == int(256 * 256 * 4 * 4 / 3)
    made = [call("GET", f"props/{prop}")[1] for prop in done["props"]]
    assert done["picture"].endswith(".png")
    assert [prop["name"] for prop in made] == ["left_pair", "right_pair"]
    assert [prop["facts"]["source"]["materials"] for prop in made] == [["pair"], ["pair"]]
    assert all(len(prop["levels"]) > 1 for prop in made)
    assert [prop["facts"]["uvs"]["channels"][0]["outside"] for prop in made] == [0.0, 0.0]
    assert [call("GET", f"props/{prop}")[1]["model"] for prop in two] == before, "what was there stays as it is"


def test_a_sheet_that_cannot_be_made_says_why_and_leaves_nothing(call, two, run_jobs) -> None:
    call("PATCH", f"props/{two[0]}/settings", {"changes": {"source": {"exclude": ["*"]}}})
    run_jobs()
    held = call("POST", "sheets", {"ids": two, "size": 256})[1]
    small = call("POST", "sheets", {"ids": two[1:], "size": 64, "padding": 64})[1]
    run_jobs()
    told = [call("GET", f"sheets/{sheet['id']}")[1] for sheet in (held, small)]
    assert [sheet["state"] for sheet in told] == ["failed", "failed"]
    assert told[0]["error"].startswith("left is held back")
    assert "do not fit into 64 x 64 pixels" in told[1]["error"]
    assert len(call("GET", "props")[1]) == 2
    assert call("POST", "sheets", {"ids": [999]})[0] == 422
    assert call("GET", "sheets/999")[0] == 404


def test_a_sheet_is_called_off_and_one_without_its_job_gets_one(call, two, run_jobs) -> None:
    off = call("POST", "sheets", {"ids": two, "size": 256})[1]
    call("POST", f"sheets/{off['id']}/cancel")
    run_jobs()
    assert call("GET", f"sheets/{off['id']}")[1]["state"] == "cancelled"
    kept = call("POST", "sheets", {"ids": two, "size": 256})[1]
    Job.objects.filter(kind="sheet", state="queued").delete()
    from plindro.web.work import registry

    registry.settle()
    run_jobs()
    assert call("GET", f"sheets/{kept['id']}")[1]["state"] == "done"
