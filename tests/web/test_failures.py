"""What the server does where something fails: gone files, a full disk, odd requests, a board that has moved on."""

import errno
import json
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from plindro.web import store
from plindro.web.work.models import Job
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
    store.files().path_of(Prop.objects.get().source).unlink()
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
        store.files().path_of(kept.digest).unlink()
    call("POST", f"props/{prop}/rebuild")
    run_jobs()
    assert call("GET", f"props/{prop}")[1]["model"] == first["model"]
    assert all(store.files().path_of(kept.digest).is_file() for kept in KeptFile.objects.filter(kind="shipped"))


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


def test_a_build_that_was_called_off_is_no_failure_and_ships_when_it_is_ordered(call, upload, run_jobs) -> None:
    prop = upload(a__obj=sheet_obj(3))["props"][0]
    job = Job.objects.get()
    call("POST", f"jobs/{job.pk}/cancel")
    run_jobs()
    row = call("GET", "props")[1][0]
    assert (row["readiness"], row["error"]) == ("cancelled", "")
    (promised,) = call("POST", "shipments/preview", {"ids": [prop], "destination": "plain"})[1]["rows"]
    assert (promised["held"], promised["note"]) == (False, "its build was cancelled; it is built for the shipment")
    number = call("POST", "shipments", {"ids": [prop], "destination": "plain"})[1]["id"]
    run_jobs()
    assert call("GET", f"shipments/{number}")[1]["shipped"] == 1


def test_a_file_is_sent_whole_and_in_ranges_with_its_media_type(client, prop) -> None:
    address = client.get(f"/api/props/{prop}").json()["model"]
    whole = client.get(address)
    data = b"".join(whole)
    assert (len(data), whole["Content-Type"]) == (int(whole["Content-Length"]), "model/gltf-binary")
    for asked, part in (("0-3", data[:4]), ("4-", data[4:]), ("-5", data[-5:]), ("7-99999999", data[7:])):
        answer = client.get(address, headers={"range": f"bytes={asked}"})
        assert (answer.status_code, b"".join(answer)) == (206, part)
        assert answer["Content-Range"].endswith(f"/{len(data)}")
    for asked in (f"{len(data)}-", "5-3", "-0", "-"):
        answer = client.get(address, headers={"range": f"bytes={asked}"})
        assert (answer.status_code, answer["Content-Range"]) == (416, f"bytes */{len(data)}")


def test_an_upload_that_the_disk_does_not_take_is_answered_in_words(client, db, monkeypatch) -> None:
    def full(*_: Any, **__: Any) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("django.http.request.HttpRequest.parse_file_upload", full)
    client.raise_request_exception = False
    client.handler.enforce_csrf_checks = True
    page = client.get("/")
    headers = {"origin": "http://testserver", "x-csrftoken": page.cookies["csrftoken"].value}
    answer = client.post("/api/props/upload", {"files": [SimpleUploadedFile("a.obj", sheet_obj(3))]}, headers=headers)
    assert answer.status_code == 507
    assert answer.json()["detail"] == "the disk that Plindro keeps its files on is full; make room and try again"
