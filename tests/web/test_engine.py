"""The simulated engine project: what it notices, imports, keeps and misses."""

from pathlib import Path
from typing import Any

import pytest
from django.test import Client

from tests.web.test_shipments_again import Yard, game, yard  # noqa: F401

pytestmark = pytest.mark.django_db


def _read(call: Any) -> dict[str, Any]:
    answer: dict[str, Any] = call("GET", "engine?folder=props")[1]
    return answer


def _imported(call: Any, run_jobs: Any) -> dict[str, Any]:
    project = _read(call)
    assert call("POST", f"engine/{project['id']}/import")[0] == 200
    run_jobs()
    return _read(call)


def test_a_second_shipment_is_imported_over_the_first_with_its_places_kept(
    yard: Yard,  # noqa: F811
    game: Path,  # noqa: F811
    client: Client,
) -> None:
    call, run_jobs = yard.call, yard.run_jobs
    yard.ship()
    assert _read(call)["noticed"] == ["crate.glb", "post.glb"]
    project = _imported(call, run_jobs)
    assert project["noticed"] == []
    crate, post = project["assets"]
    assert [level["name"] for level in crate["seen"]["levels"]] == [f"crate_LOD{i}" for i in range(4)]
    assert crate["distances"] == sorted(crate["distances"])
    assert crate["distances"][1] > 0
    assert (crate["x"], crate["z"]) != (post["x"], post["z"])
    call("PATCH", f"engine/{project['id']}/assets/{crate['id']}", {"x": 3.5, "z": -2, "turn": 400})
    yard.reduce(yard.ids[0])
    call("PATCH", f"props/{yard.ids[1]}/name", {"name": "pole", "version": 0})
    run_jobs()
    yard.ship(removes=True)
    project = _read(call)
    assert {asset["path"]: asset["change"] for asset in project["assets"]} == {
        "crate.glb": "changed",
        "post.glb": "vanished",
    }
    assert project["noticed"] == ["pole.glb"]
    project = _imported(call, run_jobs)
    crate, _, post = project["assets"]
    assert len(crate["seen"]["levels"]) == 2
    assert (crate["x"], crate["z"], crate["turn"]) == (3.5, -2.0, 40.0)
    assert (post["change"], post["model"]) == ("vanished", None)
    data = b"".join(client.get(crate["model"]))  # type: ignore[arg-type]
    assert data == (game / "crate.glb").read_bytes()
    call("DELETE", f"engine/{project['id']}/assets/{post['id']}")
    assert [asset["path"] for asset in _read(call)["assets"]] == ["crate.glb", "pole.glb"]
    assert call("POST", f"engine/{project['id']}/import")[0] == 422


def test_it_reads_as_strictly_as_it_is_set_up(yard: Yard, game: Path) -> None:  # noqa: F811
    call, run_jobs = yard.call, yard.run_jobs
    yard.ship()
    (game / "wrong.glb").write_bytes(b"glTF")
    project = _imported(call, run_jobs)
    wrong = project["assets"][-1]
    assert (wrong["seen"], "not a whole GLB" in wrong["error"]) == (None, True)
    assert (project["indices"], project["vertex_limit"]) == (16, 65_535)
    data = {
        **call("GET", "catalogue/destination/plain")[1]["data"],
        "name": "numbered",
        "level_template": "{prop}_L{level}",
    }
    assert call("POST", "catalogue/destination", {"data": data})[0] == 200
    call("PATCH", f"engine/{project['id']}", {"destination": "numbered", "indices": 32})
    run_jobs()
    project = _read(call)
    assert project["vertex_limit"] == 4_000_000_000
    codes = {finding["code"] for finding in project["assets"][0]["findings"]}
    assert "level-name-wrong" in codes, "another engine expects other names"
    assert call("PATCH", f"engine/{project['id']}", {"destination": "moon", "indices": 16})[0] == 422


def test_an_empty_folder_can_be_set_up_before_anything_lies_in_it(call) -> None:  # type: ignore[no-untyped-def]
    project = call("GET", "engine?folder=empty")[1]
    status, answer = call("PATCH", f"engine/{project['id']}", {"destination": "plain", "indices": 32})
    assert (status, answer["indices"], answer["is_importing"]) == (200, 32, False)


@pytest.mark.parametrize("path", ["../secret", ".plindro-delivery.json", "a/../../secret", "none.glb"])
def test_it_gives_files_of_its_folder_alone(yard: Yard, game: Path, client: Client, path: str) -> None:  # noqa: F811
    yard.ship()
    (game.parent / "secret").write_text("no")
    number = _read(yard.call)["id"]
    assert client.get(f"/api/engine/{number}/files/1/{path}").status_code == 404
    assert yard.call("GET", "engine?folder=../out")[0] == 422
