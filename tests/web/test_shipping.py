"""Shipments: preview, files, manifest, archive, cancelling, and taking up after a stop."""

import hashlib
import io
import json
import zipfile
from typing import Any

import pytest

from plindro.core.destinations import get_destination
from plindro.core.stations.naming import ShippedNames
from plindro.web.events import snapshot
from plindro.web.shipping.left_behind import left_at
from plindro.web.shipping.models import ShipmentItem
from plindro.web.work.models import Job
from plindro.web.work.services import take_up_again
from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db


@pytest.fixture
def props(upload, run_jobs) -> list[int]:
    named = {
        "a.obj": sheet_obj(8),
        "b.obj": sheet_obj(10),
        "bad.obj": b"v 0 0 0\nv 1 0 0\nv 0 nan 0\nf 1 2 3\n",
        "torn.glb": b"x",
    }
    ids: list[int] = upload.named(named)["props"]
    run_jobs()
    return ids


def _body(ids: list[int], destination: str = "plain") -> dict[str, object]:
    return {"ids": ids, "destination": destination}


def _paths(row: dict[str, Any]) -> list[str]:
    return [file["path"] for file in row["files"]]


def test_preview_names_the_files_before_anything_is_made(call, props) -> None:
    rows = call("POST", "shipments/preview", _body(props))[1]["rows"]
    assert {row["name"]: _paths(row) for row in rows} == {"a": ["a.glb"], "b": ["b.glb"], "bad": [], "torn": []}
    assert rows[0]["levels"] == [f"a_LOD{i}" for i in range(4)]
    (bad,) = (row for row in rows if row["name"] == "bad")
    assert (bad["held"], [f["code"] for f in bad["stops"]]) == (True, ["nothing-left"])
    assert [row["since"] for row in rows] == ["new"] * 4
    assert not call("GET", "shipments")[1], "looking orders nothing"


def test_props_stand_in_one_order_on_the_board_and_in_shipments_whatever_their_case(call, props) -> None:
    call("PATCH", f"props/{props[0]}/name", {"name": "Zinc"})
    order = [*props[1:], props[0]]
    assert call("GET", "props/changes")[1]["order"] == order
    assert [row["prop"] for row in call("POST", "shipments/preview", _body(props))[1]["rows"]] == order
    assert [item["prop"] for item in call("POST", "shipments", _body(props))[1]["items"]] == order


def test_shipment_for_a_destination_of_polygons_holds_obj_and_its_library(call, client, props, run_jobs) -> None:
    body = {"ids": props[:1], "destination": "polygons-obj"}
    assert _paths(call("POST", "shipments/preview", body)[1]["rows"][0]) == ["a.obj", "a.mtl"]
    shipment = call("POST", "shipments", body)[1]
    run_jobs()
    shipment = call("GET", f"shipments/{shipment['id']}")[1]
    data = b"".join(client.get(shipment["archive"]))
    archive = zipfile.ZipFile(io.BytesIO(data))
    assert archive.namelist() == ["manifest.json", "report.html", "contact-sheet.png", "a.mtl", "a.obj"]
    assert archive.read("a.obj").startswith(b"mtllib a.mtl")
    again = call("POST", "shipments", body)[1]
    run_jobs()
    files = call("GET", f"shipments/{again['id']}")[1]["items"][0]["files"]
    assert {file["path"] for file in files} == {"a.obj", "a.mtl"}


def test_shipment_writes_files_manifest_and_archive(call, client, props, run_jobs) -> None:
    shipment = call("POST", "shipments", _body(props))[1]
    run_jobs()
    shipment = call("GET", f"shipments/{shipment['id']}")[1]
    assert (shipment["state"], shipment["shipped"], shipment["held"], shipment["failed"]) == ("done", 2, 1, 1)
    data = b"".join(client.get(shipment["archive"]))
    archive = zipfile.ZipFile(io.BytesIO(data))
    assert archive.namelist() == ["manifest.json", "report.html", "contact-sheet.png", "a.glb", "b.glb"]
    manifest = json.loads(archive.read("manifest.json"))
    assert [p["status"] for p in manifest["props"]] == ["shipped", "shipped", "held", "failed"]
    for prop in manifest["props"][:2]:
        (file,) = prop["files"]
        content = archive.read(file["path"])
        assert (len(content), hashlib.sha256(content).hexdigest()) == (file["bytes"], file["sha256"])
    item = shipment["items"][0]
    alone = client.get(f"/api/shipments/items/{item['id']}/a.glb")
    assert b"".join(alone) == archive.read("a.glb")
    assert client.get(f"/api/shipments/items/{item['id']}/b.glb").status_code == 404


def test_what_is_decided_later_does_not_change_an_ordered_shipment(call, props, run_jobs) -> None:
    shipment = call("POST", "shipments", _body(props[:1]))[1]
    call("PATCH", f"props/{props[0]}/settings", {"changes": {"levels": {"levels": []}}})
    run_jobs()
    item = call("GET", f"shipments/{shipment['id']}")[1]["items"][0]
    assert len(item["levels"]) == 4


def test_cancelling_keeps_what_has_shipped(call, client, props, run_jobs) -> None:
    shipment = call("POST", "shipments", _body(props[:2], "plain-wide"))[1]
    second = ShipmentItem.objects.get(name="b")
    Job.objects.filter(kind="ship", subject=second.pk).delete()
    run_jobs()
    from plindro.web.work.services import enqueue

    enqueue("ship", second.pk)
    call("POST", f"shipments/{shipment['id']}/cancel")
    run_jobs()
    shipment = call("GET", f"shipments/{shipment['id']}")[1]
    assert (shipment["state"], shipment["shipped"], shipment["cancelled"]) == ("cancelled", 1, 1)
    data = b"".join(client.get(shipment["archive"]))
    assert zipfile.ZipFile(io.BytesIO(data)).namelist()[-1] == "a.glb"


def test_shipment_is_finished_after_a_stop_in_the_middle(call, props, run_jobs) -> None:
    shipment = call("POST", "shipments", _body(props[:2], "plain-wide"))[1]
    Job.objects.filter(kind="ship", subject=ShipmentItem.objects.get(name="a").pk).update(state=Job.State.RUNNING)
    assert take_up_again() == 1
    run_jobs()
    assert call("GET", f"shipments/{shipment['id']}")[1]["shipped"] == 2


def test_same_props_give_the_same_archive(call, client, props, run_jobs) -> None:
    archives = []
    for _ in range(2):
        shipment = call("POST", "shipments", _body(props[:2]))[1]
        run_jobs()
        url = call("GET", f"shipments/{shipment['id']}")[1]["archive"]
        archives.append(b"".join(client.get(url)))
    assert archives[0] == archives[1]


def test_nothing_chosen_is_refused(call, db) -> None:
    assert call("POST", "shipments", _body([]))[1] == {"detail": "choose at least one prop to ship"}
    assert call("POST", "shipments", {"ids": [1], "destination": "moon"})[0] == 422


def test_names_with_prefix_suffix_and_case_are_those_of_the_preview(call, upload, run_jobs) -> None:
    prop = upload.named({"Crate-Old.obj": sheet_obj(8)})["props"][0]
    naming = {"prefix": "SM_", "suffix": "_A", "case": "lower", "hyphens": False}
    status, said = call("PATCH", f"props/{prop}/settings", {"changes": {"naming": naming}})
    assert status == 200, said
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    (promised,) = call("POST", "shipments/preview", _body([prop]))[1]["rows"]
    shipment = call("POST", "shipments", _body([prop]))[1]
    run_jobs()
    (item,) = call("GET", f"shipments/{shipment['id']}")[1]["items"]
    assert _paths(promised) == [file["path"] for file in item["files"]] == ["SM_crate_old_A.glb"]
    assert promised["levels"] == [level["name"] for level in item["levels"]]
    assert detail["names"][0]["root"] == "SM_crate_old_A"
    assert detail["names"][0]["levels"] == promised["levels"]


def test_states_ship_as_they_are_promised_and_are_counted(call, client, upload, run_jobs) -> None:
    body, dent = sheet_obj(10), sheet_obj(6)
    n = body.count(b"\nv ") + body.startswith(b"v ")
    shifted = [
        b"f " + b" ".join(b"/".join(str(int(i) + n).encode() for i in c.split(b"/")) for c in line.split()[1:])
        if line.startswith(b"f ")
        else line
        for line in dent.split(b"\n")
    ]
    source = b"o whole\n" + body + b"\no dented\n" + b"\n".join(shifted)
    prop = upload.named({"box.obj": source})["props"][0]
    states = [{"name": "dented", "parts": ["dented"], "levels": [{"ratio": 0.5}]}]
    status, said = call("PATCH", f"props/{prop}/settings", {"changes": {"levels": {"states": states}}})
    assert status == 200, said
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    assert [names["root"] for names in detail["names"]] == ["box", "box_dented"]
    (promised,) = call("POST", "shipments/preview", _body([prop]))[1]["rows"]
    shipment = call("POST", "shipments", _body([prop]))[1]
    run_jobs()
    shipment = call("GET", f"shipments/{shipment['id']}")[1]
    (item,) = shipment["items"]
    assert _paths(promised) == [file["path"] for file in item["files"]]
    archive = zipfile.ZipFile(io.BytesIO(b"".join(client.get(shipment["archive"]))))
    manifest = json.loads(archive.read("manifest.json"))
    (record,) = manifest["props"]
    (state,) = record["states"]
    assert (state["name"], state["prop"]) == ("dented", "box_dented")
    whole = sum(level["triangles"] for chain in (record, state) for level in chain["levels"])
    assert manifest["totals"]["triangles"] == whole == shipment["triangles"]


def test_a_new_name_tells_the_files_that_it_leaves_behind(call, upload, run_jobs) -> None:
    (prop,) = upload(crate__obj=sheet_obj())["props"]
    run_jobs()
    body = {"ids": [prop], "destination": "plain"}
    call("POST", "shipments", body)
    run_jobs()
    assert call("GET", f"props/{prop}/left-behind")[1] == []
    call("PATCH", f"props/{prop}/name", {"name": "chest", "version": 0})
    run_jobs()
    left = call("GET", f"props/{prop}/left-behind")[1]
    assert left == [{"destination": "Plain glTF, 16-bit indices", "files": ["crate.glb"]}]
    assert call("POST", "shipments/preview", body)[1]["rows"][0]["left"] == ["crate.glb"]
    call("POST", "shipments", body)
    run_jobs()
    assert call("GET", f"props/{prop}/left-behind")[1] == []


def test_a_shipment_is_delivered_and_again_only_what_changed(call, upload, run_jobs, settings, tmp_path) -> None:
    settings.DELIVERIES = tmp_path / "game"
    crate, post = upload.named({"crate.obj": sheet_obj(), "post.obj": sheet_obj(8)})["props"]
    run_jobs()

    def ship() -> str:
        number = call("POST", "shipments", {"ids": [crate, post], "destination": "plain"})[1]["id"]
        run_jobs()
        return f"shipments/{number}"

    first = ship()
    plan = call("GET", f"{first}/delivery?folder=props")[1]
    assert {row["change"] for row in plan["files"]} == {"made"}
    assert not (tmp_path / "game").exists(), "looking writes nothing"
    before = snapshot()["shipments"]
    call("POST", f"{first}/deliver", {"folder": "props"})
    run_jobs()
    assert snapshot()["shipments"] != before, "pages are told that it ended, though they never saw it run"
    assert call("GET", first)[1]["delivery"]["made"] == 5
    assert {p.name for p in (tmp_path / "game/props").glob("*.glb")} == {"crate.glb", "post.glb"}
    call("PATCH", f"props/{crate}/name", {"name": "chest", "version": 0})
    run_jobs()
    second = ship()
    plan = call("GET", f"{second}/delivery?folder=props")[1]
    changes = {row["path"]: row["change"] for row in plan["files"]}
    assert (changes["chest.glb"], changes["post.glb"], changes["manifest.json"]) == ("made", "same", "replaced")
    assert plan["left"] == ["crate.glb"]
    call("POST", f"{second}/deliver", {"folder": "props", "removes": True})
    assert call("POST", f"{first}/deliver", {"folder": "props"})[0] == 422, "another is on its way into that folder"
    run_jobs()
    assert {p.name for p in (tmp_path / "game/props").glob("*.glb")} == {"chest.glb", "post.glb"}
    assert call("GET", second)[1]["delivery"] | {"error": ""} == {
        "folder": "props", "state": "done", "error": "", "made": 1, "replaced": 3, "same": 1, "foreign": 0,
        "removed": 1,
        "rolls_back": False,
    }  # fmt: skip
    for folder in ("../out", "a/../../b", "a//b", ""):
        status, answer = call("POST", f"{second}/deliver", {"folder": folder})
        assert (status, "is no folder below" in answer["detail"]) == (422, True)


def test_states_are_left_behind_and_images_beside_a_file_are_not() -> None:
    names = (ShippedNames("crate", ("crate.obj", "crate.mtl"), ("crate_LOD0",)),)
    before = ["crate.obj", "crate_dented.obj", "crate_wood_ab12cd.png", "old.obj", "old_wood_ab12cd.png"]
    left = left_at(names, get_destination("polygons-obj"), before)
    assert left == ["crate_dented.obj", "old.obj", "old_wood_ab12cd.png"]
