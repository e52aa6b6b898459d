"""What the server does where something fails: gone files, a full disk, odd requests, a board that has moved on."""

import errno
import json
from typing import Any

import pytest

from plindro.web import store
from plindro.web.yard.models import Built, KeptFile, Prop
from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db


@pytest.fixture
def prop(upload, run_jobs) -> int:
    number: int = upload(crate__obj=sheet_obj())["props"][0]
    run_jobs()
    return number


def test_a_source_that_is_gone_from_the_disk_is_said_and_the_last_result_stays(call, prop, run_jobs) -> None:
    before = call("GET", f"props/{prop}")[1]
    store.path_of(Prop.objects.get().source).unlink()
    call("PATCH", f"props/{prop}/settings", {"changes": {"normals": {"source": "smooth"}}})
    run_jobs()
    after = call("GET", f"props/{prop}")[1]
    assert after["error"] == "crate.obj: its stored file is gone; import it again"
    assert after["model"] == before["model"]
    row = call("GET", "props")[1][0]
    assert row["readiness"] == "failed"


def test_a_result_of_which_a_file_is_gone_is_built_again(call, client, prop, run_jobs) -> None:
    first = call("GET", f"props/{prop}")[1]
    for kept in KeptFile.objects.filter(kind="shipped"):
        store.path_of(kept.digest).unlink()
    call("POST", f"props/{prop}/rebuild")
    run_jobs()
    assert call("GET", f"props/{prop}")[1]["model"] == first["model"]
    assert all(store.path_of(kept.digest).is_file() for kept in KeptFile.objects.filter(kind="shipped"))


def test_a_full_disk_fails_the_build_in_a_sentence_and_leaves_no_half_result(
    call, upload, run_jobs, monkeypatch: pytest.MonkeyPatch
) -> None:
    prop = upload(crate__obj=sheet_obj())["props"][0]

    def full(path: Any, data: bytes) -> None:
        raise OSError(errno.ENOSPC, "No space left on device", str(path))

    monkeypatch.setattr(store, "write_whole", full)
    run_jobs()
    row = call("GET", "props")[1][0]
    assert row["readiness"] == "failed"
    assert row["error"]
    assert "Traceback" not in row["error"]
    assert not Built.objects.exists()
    assert not KeptFile.objects.exists()
    monkeypatch.undo()
    call("POST", f"props/{prop}/rebuild")
    run_jobs()
    assert call("GET", "props")[1][0]["readiness"] == "ready"


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "words"),
    [
        ("GET", "props/99", None, 404, "not on the board"),
        ("POST", "props/99/undo", None, 404, "not on the board"),
        ("PATCH", "props/99/settings", {"changes": {}}, 404, "not on the board"),
        ("GET", "shipments/99", None, 404, "no shipment 99"),
        ("POST", "jobs/99/cancel", None, 404, "no job 99"),
        ("POST", "shipments", {"ids": [99], "destination": "plain"}, 422, ""),
        ("POST", "shipments/preview", {"ids": [1], "destination": "moon"}, 422, "moon"),
        ("PATCH", "project", {"name": "  "}, 422, "name"),
    ],
)
def test_a_request_that_cannot_be_met_is_one_sentence(call, db, method, path, body, status, words) -> None:
    answered, said = call(method, path, body)
    assert answered == status
    assert words in said["detail"]
    assert isinstance(said["detail"], str)


def test_odd_bodies_are_refused_with_what_is_wrong(client, prop) -> None:
    for body in (b"{", b"[]", json.dumps({"changes": {"normals": {"angle": "steep"}}}).encode()):
        answer = client.generic("PATCH", f"/api/props/{prop}/settings", body, content_type="application/json")
        assert answer.status_code in (400, 422)
        assert isinstance(answer.json()["detail"], str), answer.content
    assert Prop.objects.get().overrides == {}


def test_files_are_served_by_their_digest_alone(client, prop) -> None:
    for path in ("../../etc/passwd", "0" * 64 + ".glb", "abc.png", "%2e%2e%2fplindro.sqlite3"):
        assert client.get(f"/api/files/{path}").status_code == 404
