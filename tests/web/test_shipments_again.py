"""Shipments over time: what changed, waivers, selections, compared, tried again, rolled back, and all of it quickly."""

import io
import json
import re
import zipfile
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone
from PIL import Image

from plindro.core.rehearsal.disk import DiskFiles
from plindro.core.rehearsal.folder import check_files
from plindro.web import store
from plindro.web.events import snapshot
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.work.models import Job
from plindro.web.yard.models import Built, Prop
from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db


class Yard:
    """A board with props, shipped and delivered through the API."""

    def __init__(self, call: Any, run_jobs: Any, ids: list[int]) -> None:
        self.call, self.run_jobs, self.ids = call, run_jobs, ids

    def ship(self, folder: str = "props", *, removes: bool = False, destination: str = "plain") -> dict[str, Any]:
        body = {"ids": self.ids, "destination": destination, "folder": folder, "removes": removes}
        number = self.call("POST", "shipments", body)[1]["id"]
        self.run_jobs()
        return self.read(number)

    def read(self, number: int) -> dict[str, Any]:
        shipment: dict[str, Any] = self.call("GET", f"shipments/{number}")[1]
        return shipment

    def preview(self, folder: str = "", destination: str = "plain") -> dict[str, Any]:
        body = {"ids": self.ids, "destination": destination, "folder": folder}
        answer: dict[str, Any] = self.call("POST", "shipments/preview", body)[1]
        return answer

    def reduce(self, prop: int) -> None:
        levels = {"levels": {"levels": [{"ratio": 0.3}]}}
        assert self.call("PATCH", f"props/{prop}/settings", {"changes": levels})[0] == 200
        self.run_jobs()


@pytest.fixture
def game(settings: Any, tmp_path: Path) -> Path:
    settings.DELIVERIES = tmp_path / "game"
    return tmp_path / "game" / "props"


@pytest.fixture
def yard(call, upload, run_jobs, game: Path) -> Yard:
    ids = upload.named({"crate.obj": sheet_obj(8), "post.obj": sheet_obj(6)})["props"]
    run_jobs()
    return Yard(call, run_jobs, ids)


def test_a_folder_is_previewed_with_sizes_before_anything_is_made(yard: Yard, game: Path) -> None:
    first = yard.preview("props")
    files = [file for row in first["rows"] for file in row["files"]]
    assert [(file["path"], file["change"]) for file in files] == [("crate.glb", "made"), ("post.glb", "made")]
    assert all(file["bytes"] > 1000 for file in files)
    assert not game.exists()
    yard.ship()
    yard.reduce(yard.ids[0])
    again = yard.preview("props")
    assert {f["path"]: f["change"] for row in again["rows"] for f in row["files"]} == {
        "crate.glb": "replaced",
        "post.glb": "same",
    }
    assert [row["since"] for row in again["rows"]] == ["changed", "same"]
    unbuilt = yard.preview("props", "plain-wide")
    assert [row["is_built"] for row in unbuilt["rows"]] == [False, False]
    assert [file["bytes"] for row in unbuilt["rows"] for file in row["files"]] == [None, None]
    assert [row["since"] for row in unbuilt["rows"]] == ["new", "new"]


def test_what_is_delivered_agrees_with_its_manifest_also_after_others_were(yard: Yard, game: Path) -> None:
    shipment = yard.ship()
    assert shipment["delivery"]["state"] == "done"
    manifest = json.loads((game / "manifest.json").read_text())
    assert [record["name"] for record in manifest["props"]] == ["crate", "post"]
    for record in manifest["props"]:
        assert record["line"] == {"name": "standing", "version": 0}
        assert len(record["source_sha256"]) == 64
        assert record["rehearsal"]["levels"][0]["pieces"] == 1
    one = Yard(yard.call, yard.run_jobs, yard.ids[:1])
    one.reduce(yard.ids[0])
    one.ship()
    manifest = json.loads((game / "manifest.json").read_text())
    assert [record["name"] for record in manifest["props"]] == ["crate", "post"], "post lies there as before"
    assert list(check_files(DiskFiles(game), manifest)) == []


def test_an_archive_holds_a_report_and_a_contact_sheet(yard: Yard, client: Client) -> None:
    shipment = yard.ship()
    archive = zipfile.ZipFile(io.BytesIO(b"".join(client.get(shipment["archive"]))))  # type: ignore[arg-type]
    report = archive.read("report.html").decode()
    for word in ("crate_LOD0", "SHA-256", "Read back: ", "data:image/png;base64,", "destination plain, version 0"):
        assert word in report
    assert "http" not in report.replace("http-equiv", ""), "it opens from disk, and asks nobody"
    sheet = Image.open(io.BytesIO(archive.read("contact-sheet.png")))
    assert sheet.width >= 400
    assert len(sheet.convert("RGB").getcolors(1 << 20) or []) > 100
    page = client.get(shipment["report"])
    assert page.status_code == 200
    assert "script-src" not in page["Content-Security-Policy"]
    assert "default-src 'none'" in page["Content-Security-Policy"]


def test_a_stop_is_waived_by_name_and_said_everywhere(call, upload, run_jobs, client, game: Path) -> None:
    tiling = re.sub(rb"vt (\S+) (\S+)", lambda m: b"vt %f %f" % (3 * float(m[1]), 3 * float(m[2])), sheet_obj(8))
    (prop,) = upload.named({"crate.obj": tiling})["props"]
    status, said = call("PATCH", f"props/{prop}/settings", {"changes": {"uvs": {"light_map": "source"}}})
    assert status == 200, said
    run_jobs()
    yard = Yard(call, run_jobs, [prop])
    row = yard.preview()["rows"][0]
    assert (row["held"], [f["code"] for f in row["stops"]]) == (True, ["light-map-missing"])
    held = yard.ship("")
    assert (held["held"], held["shipped"]) == (1, 0)
    for by, reason in (("", "why"), ("Ines", " ")):
        waiver = {"code": "light-map-missing", "by": by, "reason": reason}
        assert call("POST", f"props/{prop}/waivers", waiver)[0] == 422
    assert call("POST", f"props/{prop}/waivers", {"code": "no-faces", "by": "Ines", "reason": "why"})[0] == 422
    waiver = {"code": "light-map-missing", "by": "Ines Halvorsen", "reason": "the engine bakes none here"}
    assert call("POST", f"props/{prop}/waivers", waiver)[1]["waivers"] == [waiver]
    run_jobs()
    assert call("GET", "props")[1][0]["readiness"] == "warning"
    # Held back before, it ships where it is tried again.
    assert call("POST", f"shipments/{held['id']}/retry")[0] == 200
    run_jobs()
    shipped = yard.read(held["id"])
    assert shipped["items"][0]["waivers"] == [waiver]
    archive = zipfile.ZipFile(io.BytesIO(b"".join(client.get(shipped["archive"]))))
    assert json.loads(archive.read("manifest.json"))["props"][0]["waivers"] == [waiver]
    assert "waived by Ines Halvorsen: the engine bakes none here" in archive.read("report.html").decode()
    call("DELETE", f"props/{prop}/waivers/light-map-missing")
    run_jobs()
    assert call("GET", "props")[1][0]["readiness"] == "held"
    assert call("DELETE", f"props/{prop}/waivers/light-map-missing")[0] == 404


def test_pages_are_told_when_the_archive_is_there(yard: Yard) -> None:
    body = {"ids": yard.ids, "destination": "plain"}
    number = yard.call("POST", "shipments", body)[1]["id"]
    before = snapshot()["shipments"]
    assert (yard.read(number)["is_packing"], yard.read(number)["archive"]) == (True, None)
    yard.run_jobs()
    assert yard.read(number)["archive"]
    assert snapshot()["shipments"] != before


def test_selections_are_kept_by_name(yard: Yard) -> None:
    call = yard.call
    assert call("POST", "selections", {"name": " pier  ", "props": [*yard.ids, 999]})[1] == [
        {"name": "pier", "props": yard.ids}
    ]
    call("POST", "props/remove", {"ids": yard.ids[:1]})
    assert call("GET", "selections")[1] == [{"name": "pier", "props": yard.ids[1:]}]
    assert call("POST", "selections", {"name": "", "props": yard.ids})[0] == 422
    assert call("POST", "selections", {"name": "none", "props": []})[0] == 422
    assert call("DELETE", "selections/pier")[1] == []
    assert call("DELETE", "selections/pier")[0] == 404


def test_a_shipment_is_repeated_and_compared_with_the_one_before(yard: Yard) -> None:
    first = yard.ship()
    assert (first["before"], first["goes_back_to"]) == (None, None)
    assert yard.call("GET", f"shipments/{first['id']}/compare")[1] == {"other": None, "props": [], "same": 0}
    yard.reduce(yard.ids[0])
    second = yard.call("POST", f"shipments/{first['id']}/repeat")[1]
    yard.run_jobs()
    second = yard.read(second["id"])
    assert (second["before"], second["goes_back_to"], second["folder"]) == (first["id"], first["id"], "props")
    compared = yard.call("GET", f"shipments/{second['id']}/compare")[1]
    assert (compared["other"], compared["same"]) == (first["id"], 1)
    (row,) = compared["props"]
    assert (row["name"], row["change"]) == ("crate", "changed")
    assert (len(row["before"]["triangles"]), len(row["after"]["triangles"])) == (4, 2)
    assert row["before"]["bytes"] > row["after"]["bytes"]
    for side in (row["before"], row["after"]):
        assert store.files().path_of(side["picture"].split("/")[-1].split(".")[0]).is_file()


def test_a_folder_is_rolled_back_to_the_shipment_before(yard: Yard, upload, game: Path) -> None:
    first = yard.ship()
    before = {path.name: path.read_bytes() for path in game.glob("*.glb")}
    yard.reduce(yard.ids[0])
    yard.ids += upload.named({"lamp.obj": sheet_obj(5)})["props"]
    yard.run_jobs()
    second = yard.ship()
    assert {path.name for path in game.glob("*.glb")} == {"crate.glb", "post.glb", "lamp.glb"}
    back = yard.call("POST", f"shipments/{second['id']}/roll-back")[1]
    yard.run_jobs()
    assert back["id"] == first["id"]
    assert {path.name: path.read_bytes() for path in game.glob("*.glb")} == before
    told = yard.read(first["id"])["delivery"]
    assert (told["rolls_back"], told["replaced"] >= 1, told["removed"]) == (True, True, 1)
    assert [r["name"] for r in json.loads((game / "manifest.json").read_text())["props"]] == ["crate", "post"]
    assert yard.call("POST", f"shipments/{first['id']}/roll-back")[0] == 422


def test_failures_are_tried_again_and_stop_nobody(yard: Yard, monkeypatch: pytest.MonkeyPatch) -> None:
    for kept in store.files().stored():
        if kept.name == Prop.objects.get(pk=yard.ids[0]).source:
            data = kept.read_bytes()
            kept.unlink()
            break
    shipment = yard.ship("", destination="plain-wide")
    assert [item["state"] for item in shipment["items"]] == ["failed", "shipped"]
    store.files().keep(data)
    Shipment.objects.update(created=timezone.now() - timedelta(days=1))
    yard.call("POST", f"shipments/{shipment['id']}/retry")
    yard.run_jobs()
    again = yard.read(shipment["id"])
    assert again["seconds"] < 3600, "the day that it waited to be tried again is not what it took"
    assert [item["state"] for item in again["items"]] == ["shipped", "shipped"]
    assert yard.call("POST", f"shipments/{shipment['id']}/retry")[0] == 422


def test_many_props_are_shipped_again_without_a_build(yard: Yard, game: Path) -> None:
    """One job for the delivery and one for the archive, and the file of the one prop that changed."""
    template = Prop.objects.get(pk=yard.ids[0])
    names = [f"crate_{number:03}" for number in range(40)]
    Prop.objects.bulk_create(
        Prop(
            name=name,
            source_name=template.source_name,
            source=template.source,
            source_bytes=template.source_bytes,
            overrides={"levels": {"levels": []}},
            state=Prop.State.WAITING,
        )
        for name in names
    )
    yard.ids = list(Prop.objects.filter(name__in=names).values_list("pk", flat=True))
    yard.ship()
    stamps = {path.name: path.stat().st_mtime_ns for path in game.glob("*.glb")}
    assert len(stamps) == 40
    yard.call("PATCH", f"props/{yard.ids[7]}/settings", {"changes": {"levels": {"levels": [{"ratio": 0.4}]}}})
    yard.run_jobs()
    before, built = Job.objects.count(), Built.objects.count()
    shipment = yard.ship()
    assert (shipment["shipped"], shipment["delivery"]["replaced"], shipment["delivery"]["same"]) == (40, 2, 39)
    assert (Job.objects.count() - before, Built.objects.count()) == (2, built)
    after = {path.name: path.stat().st_mtime_ns for path in game.glob("*.glb")}
    assert [name for name in stamps if stamps[name] != after[name]] == ["crate_007.glb"]


def test_shipped_files_stay_when_results_are_collected(yard: Yard, client: Client) -> None:
    from datetime import timedelta

    from plindro.web.upkeep.services import collect

    item = yard.ship()["items"][0]
    yard.reduce(yard.ids[0])
    digests = set(ShipmentItem.objects.get(pk=item["id"]).files.values())
    collect(timedelta(0))
    assert all(store.files().path_of(digest).is_file() for digest in digests)
    assert client.get(f"/api/shipments/items/{item['id']}/crate.glb").status_code == 200
    assert yard.call("GET", f"shipments/items/{item['id']}/rehearsal")[1]["seen"]["prop"] == "crate"


def test_each_prop_in_a_folder_of_its_own_is_promised_shipped_and_left_behind_so(
    yard: Yard, game: Path, client: Client
) -> None:
    plain = yard.call("GET", "catalogue/destination/plain")[1]["data"]
    data = {**plain, "name": "apart", "folders": "prop", "data_file": True}
    assert yard.call("POST", "catalogue/destination", {"data": data})[0] == 200
    promised = yard.preview("props", "apart")["rows"]
    assert [file["path"] for file in promised[0]["files"]] == ["crate/crate.glb", "crate/crate.npz"]
    shipment = yard.ship(destination="apart")
    item = shipment["items"][0]
    assert [file["path"] for file in item["files"]] == ["crate/crate.glb", "crate/crate.npz"]
    answer = client.get(f"/api/shipments/items/{item['id']}/crate/crate.glb")
    assert answer["Content-Disposition"] == 'attachment; filename="crate.glb"'
    assert client.get(f"/api/shipments/items/{item['id']}/crate/../post/post.glb").status_code == 404
    yard.call("PATCH", f"props/{yard.ids[0]}/name", {"name": "chest", "version": 0})
    yard.run_jobs()
    row = yard.preview("props", "apart")["rows"][0]
    assert (row["name"], row["left"]) == ("chest", ["crate/crate.glb", "crate/crate.npz"])
    yard.ship(destination="apart", removes=True)
    assert {path.name for path in game.iterdir() if path.is_dir()} == {"chest", "post"}


def test_files_of_others_are_told_before_and_never_replaced(yard: Yard, game: Path) -> None:
    game.mkdir(parents=True)
    (game / "crate.glb").write_bytes(b"by hand")
    files = {file["path"]: file["change"] for row in yard.preview("props")["rows"] for file in row["files"]}
    assert files == {"crate.glb": "foreign", "post.glb": "made"}
    delivery = yard.ship()["delivery"]
    assert (delivery["foreign"], delivery["made"]) == (1, 2)
    assert (game / "crate.glb").read_bytes() == b"by hand"
    assert [r["name"] for r in json.loads((game / "manifest.json").read_text())["props"]] == ["crate", "post"]


def test_a_prop_that_is_held_back_is_told_as_it_lies_there(yard: Yard, game: Path) -> None:
    yard.ship()
    before = (game / "crate.glb").read_bytes()
    Prop.objects.filter(pk=yard.ids[0]).update(line="gone")
    shipment = yard.ship()
    assert (shipment["shipped"], shipment["failed"]) == (1, 1)
    assert (game / "crate.glb").read_bytes() == before
    assert list(check_files(DiskFiles(game), json.loads((game / "manifest.json").read_text()))) == []


def test_a_comparison_tells_what_came_and_what_went(yard: Yard, upload: Any) -> None:
    yard.ship()
    yard.ids = [*yard.ids[1:], *upload.named({"lamp.obj": sheet_obj(5)})["props"]]
    yard.run_jobs()
    second = yard.ship()
    compared = yard.call("GET", f"shipments/{second['id']}/compare")[1]
    assert {row["name"]: row["change"] for row in compared["props"]} == {"crate": "gone", "lamp": "added"}
    assert compared["same"] == 1
    assert yard.call("GET", f"shipments/{second['id']}/compare?other=99")[0] == 404
