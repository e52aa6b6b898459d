"""Nothing is lost without a word: names, archives, sources replaced meanwhile, rows that no job looks after."""

import errno
import io
import json
import zipfile
from typing import Any

import pytest
from django.db import DatabaseError, IntegrityError, OperationalError

from plindro.web import store
from plindro.web.errors import UNEXPECTED
from plindro.web.shipping import tasks as shipping_tasks
from plindro.web.shipping.models import ShipmentItem
from plindro.web.work import registry
from plindro.web.work.models import Job
from plindro.web.yard import services
from plindro.web.yard.models import Prop
from tests.web.test_yard import sheet_obj, zipped

pytestmark = pytest.mark.django_db


def _without_levels(call, prop: int, **settings: Any) -> None:
    status, said = call("PATCH", f"props/{prop}/settings", {"changes": {"levels": {"has_levels": False}, **settings}})
    assert status == 200, said


def _full(*_: Any) -> None:
    raise OSError(errno.ENOSPC, "No space left on device")


def test_props_that_would_ship_as_one_file_are_held_and_both_named(call, client, upload, run_jobs) -> None:
    ids = upload.named({"thing.obj": sheet_obj(4), "SM_Thing.obj": sheet_obj(5), "other.obj": sheet_obj(3)})["props"]
    for prop in ids:
        _without_levels(call, prop)
    _without_levels(call, ids[0], naming={"prefix": "SM_"})
    run_jobs()
    body = {"ids": ids, "destination": "plain"}
    rows = {row["prop"]: row for row in call("POST", "shipments/preview", body)[1]["rows"]}
    assert [rows[prop]["held"] for prop in ids] == [True, True, False]
    assert rows[ids[0]]["note"] == "'thing' and 'SM_Thing' both ship SM_thing.glb; rename one of them, or its state"
    number = call("POST", "shipments", body)[1]["id"]
    run_jobs()
    shipment = call("GET", f"shipments/{number}")[1]
    assert (shipment["state"], shipment["held"], shipment["shipped"]) == ("done", 2, 1)
    held = [item for item in shipment["items"] if item["state"] == "held"]
    assert [[f["code"] for f in item["findings"]] for item in held] == [["file-name-taken"]] * 2
    archive = zipfile.ZipFile(io.BytesIO(b"".join(client.get(shipment["archive"]))))
    assert archive.namelist() == ["manifest.json", "report.html", "contact-sheet.png", "other.glb"]


def test_names_are_compared_again_when_files_are_written(call, upload, run_jobs) -> None:
    ids = upload.named({"a.obj": sheet_obj(4), "b.obj": sheet_obj(5)})["props"]
    for prop in ids:
        _without_levels(call, prop)
    run_jobs()
    number = call("POST", "shipments", {"ids": ids, "destination": "plain-wide"})[1]["id"]
    # As if a state of b had come out of its build under the name of a, in another case.
    ShipmentItem.objects.filter(name="b").update(files={"A.GLB": "0" * 64})
    run_jobs()
    item = call("GET", f"shipments/{number}")[1]["items"][0]
    assert (item["state"], item["findings"][0]["code"], item["findings"][0]["severity"]) == (
        "held",
        "file-name-taken",
        "stop",
    )
    assert item["files"] == []


def test_names_that_windows_keeps_are_refused(call, upload, run_jobs) -> None:
    prop = upload.named({"con.obj": sheet_obj(3)})["props"][0]
    assert call("GET", "props")[1][0]["name"] == "con_prop"
    for name in ("CON", "nul", "Lpt1"):
        status, said = call("PATCH", f"props/{prop}/name", {"name": name})
        assert (status, said["detail"]) == (
            422,
            f"'{name}' is a device on Windows, so no file can be called so; choose another name",
        )
    status, said = call("PATCH", f"props/{prop}/settings", {"changes": {"naming": {"name": "aux"}}})
    assert status == 422
    assert "'aux' is a device on Windows" in said["detail"]


def test_each_archive_is_a_folder_of_its_own_and_nothing_vanishes(upload, call) -> None:
    first, second, third = (sheet_obj(n) for n in (3, 4, 5))
    inner = zipped(**{"model.obj": third, "paint.png": b"third"})
    answer = upload.named({
        "first.zip": zipped(**{"model.obj": first, "paint.png": b"first", ".DS_Store": b"x", "__MACOSX/a.obj": b"x"}),
        "second.zip": zipped(**{"model.obj": second, "paint.png": b"second", "inner.zip": inner}),
        "sub/second.zip": zipped(**{"notes.txt": b"hello"}),
    })  # fmt: skip
    props = {prop.source: prop for prop in Prop.objects.all()}
    assert len(answer["props"]) == len(props) == 3
    for data, paint in ((first, b"first"), (second, b"second"), (third, b"third")):
        prop = props[store.files().keep(data)]
        assert store.files().load(prop.side_files["paint.png"]) == paint
    assert {row["name"]: row["message"].split(";")[0] for row in answer["refused"]} == {
        "first.zip": "hidden entries were left out: '.DS_Store' and 1 more",
        "sub/second/notes.txt": "files ending in '.txt' are not read",
    }
    again = upload.named(
        {"set.zip": zipped(**{"a.obj": first, "A/a.obj": first}), "SET.zip": zipped(**{"a.obj": second})}
    )
    assert len(again["props"]) == 3


def test_a_shipment_ships_the_source_that_it_was_ordered_with(call, client, upload, run_jobs) -> None:
    prop = upload(crate__obj=sheet_obj(4))["props"][0]
    _without_levels(call, prop)
    run_jobs()
    number = call("POST", "shipments", {"ids": [prop], "destination": "plain"})[1]["id"]
    new = {"files": [io.BytesIO(sheet_obj(9))]}
    new["files"][0].name = "crate_v2.obj"
    assert client.post(f"/api/props/{prop}/source", new).status_code == 200
    run_jobs()
    item = call("GET", f"shipments/{number}")[1]["items"][0]
    assert (item["state"], item["levels"][0]["triangles"]) == ("shipped", 2 * 4 * 4)
    assert call("GET", f"props/{prop}")[1]["levels"][0]["triangles"] == 2 * 9 * 9


def test_settings_that_do_not_fit_are_said_and_hold_up_nobody_else(call, upload, run_jobs) -> None:
    old, other, lost = upload.named({n: sheet_obj(4) for n in ("old.obj", "other.obj", "lost.obj")})["props"]
    for prop in (old, other, lost):
        _without_levels(call, prop)
    number = call("POST", "shipments", {"ids": [old, other], "destination": "plain"})[1]["id"]
    ShipmentItem.objects.filter(prop=old).update(line={"name": "x", "wrong": 1})
    run_jobs()
    items = call("GET", f"shipments/{number}")[1]["items"]
    assert [(item["name"], item["state"]) for item in items] == [("old", "failed"), ("other", "shipped")]
    assert "do not fit this version" in items[0]["error"]

    Prop.objects.filter(pk=old).update(overrides={"levels": {"has_levels": False}, "normals": {"gone": 1}})
    Prop.objects.filter(pk=lost).update(line="/etc/passwd")
    services.build_outdated()
    rows = {row["name"]: row for row in call("GET", "props")[1]}
    assert {name: row["readiness"] for name, row in rows.items()} == {
        "old": "failed",
        "other": "ready",
        "lost": "failed",
    }
    assert "'normals.gone' is not a setting" in rows["old"]["error"]
    assert "there is no line '/etc/passwd'" in rows["lost"]["error"]
    shown = call("GET", f"props/{old}")[1]
    assert (shown["readiness"], shown["settings"]["levels"]["has_levels"]) == ("failed", False)
    shipment = call("POST", "shipments", {"ids": [old, other], "destination": "plain"})[1]
    assert [item["state"] for item in shipment["items"]] == ["failed", "shipped"], "what is built already ships at once"
    # Any decision takes the place of what does not fit.
    assert call("PATCH", f"props/{old}/settings", {"changes": {"normals": {"source": "smooth"}}})[0] == 200
    run_jobs()
    assert call("GET", f"props/{old}")[1]["readiness"] == "ready"


def test_lines_and_destinations_are_names_and_never_files(call, upload, tmp_path) -> None:
    prop = upload(a__obj=sheet_obj(3))["props"][0]
    secret = tmp_path / "secret.json"
    secret.write_text('{"name": "secret", "title": "Secret"}')
    for path, body in (
        (f"props/{prop}/line", {"line": str(secret)}),
        ("shipments", {"ids": [prop], "destination": str(secret)}),
        ("shipments/preview", {"ids": [prop], "destination": str(secret)}),
    ):
        status, said = call("PATCH" if path.startswith("props") else "POST", path, body)
        assert status == 422
        assert said["detail"].startswith("there is no ")


def test_no_row_waits_for_a_job_that_is_not_there(call, upload, run_jobs) -> None:
    prop = upload(a__obj=sheet_obj())["props"][0]
    Job.objects.all().delete()
    registry.settle()
    run_jobs()
    assert call("GET", "props")[1][0]["readiness"] == "ready"
    number = call("POST", "shipments", {"ids": [prop], "destination": "plain-wide"})[1]["id"]
    # Once a job of the item is lost, and once that of the archive.
    for kind, state in (("ship", "running"), ("pack", "done")):
        assert call("GET", f"shipments/{number}")[1]["state"] == state
        assert Job.objects.filter(kind=kind).delete()[0] == 1
        registry.settle()
        job = Job.objects.get(kind=kind, state=Job.State.QUEUED)
        if kind == "ship":
            run_jobs.one(job)
    run_jobs()
    assert call("GET", f"shipments/{number}")[1]["archive"]
    registry.settle()
    assert not Job.objects.filter(state__in=Job.ACTIVE).exists()


def test_an_archive_that_finds_no_room_fails_its_shipment_in_words(
    call, upload, run_jobs, monkeypatch: pytest.MonkeyPatch
) -> None:
    prop = upload(a__obj=sheet_obj(3))["props"][0]
    _without_levels(call, prop)
    run_jobs()
    monkeypatch.setattr(shipping_tasks.zipfile, "ZipFile", _full)
    number = call("POST", "shipments", {"ids": [prop], "destination": "plain"})[1]["id"]
    run_jobs()
    shipment = call("GET", f"shipments/{number}")[1]
    assert (shipment["state"], shipment["shipped"], shipment["archive"]) == ("failed", 1, None)
    assert shipment["error"] == "the disk that Plindro keeps its files on is full; make room and try again"
    assert call("GET", "shipments")[1][0]["state"] == "failed"


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (OSError(errno.ENOSPC, "No space left on device"), "is full; make room"),
        (OSError(errno.EROFS, "Read-only file system"), "cannot be written (Read-only file system)"),
        (OperationalError("database or disk is full"), "is full; make room"),
        (OperationalError("database is locked"), "in use by another program"),
        (DatabaseError("database disk image is malformed"), "is damaged; put back a copy"),
        (IntegrityError("UNIQUE constraint failed: yard_prop.name"), UNEXPECTED),
    ],
)
def test_what_the_disk_does_not_take_is_answered_in_words(call, client, upload, monkeypatch, error, words) -> None:
    prop = upload(a__obj=sheet_obj(3))["props"][0]

    def fail(*_: Any, **__: Any) -> None:
        raise error

    monkeypatch.setattr(services.store.Store, "take", fail)
    monkeypatch.setattr(Prop, "save", fail)
    named = io.BytesIO(sheet_obj(4))
    named.name = "b.obj"
    for answer in (
        client.post("/api/props/upload", {"files": [named]}),
        client.generic("PATCH", f"/api/props/{prop}/name", json.dumps({"name": "c"}), content_type="application/json"),
    ):
        assert answer.status_code == (500 if words == UNEXPECTED else 507)
        assert words in answer.json()["detail"]


def test_a_job_whose_row_cannot_be_written_now_is_written_later(call, upload, run_jobs, monkeypatch) -> None:
    upload(a__obj=sheet_obj())
    real, failed = Job.save, []

    def busy(self: Job, *args: Any, **kwargs: Any) -> None:
        if self.state == Job.State.DONE and not failed:
            failed.append(self.pk)
            raise OperationalError("database is locked")
        real(self, *args, **kwargs)

    monkeypatch.setattr(Job, "save", busy)
    with pytest.raises(OperationalError):
        run_jobs()
    assert (Job.objects.get().state, call("GET", "props")[1][0]["readiness"]) == ("running", "working")
    run_jobs.again()
    assert (Job.objects.get().state, call("GET", "props")[1][0]["readiness"]) == ("done", "ready")
