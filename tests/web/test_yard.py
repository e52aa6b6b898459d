"""The Yard: uploads of all kinds, readiness, removing and restoring."""

import io
import re
import zipfile
from datetime import timedelta

import numpy as np
import pytest
from django.test import Client
from django.utils import timezone

from plindro.web.work.models import Job
from plindro.web.yard.models import Prop
from tests.shapes import wavy_sheet

pytestmark = pytest.mark.django_db


def sheet_obj(n: int = 12, extra: str = "") -> bytes:
    """A sheet as OBJ."""
    mesh = wavy_sheet(n)
    lines = [extra, *(f"v {x} {y} {z}" for x, y, z in mesh.positions.tolist())]
    lines += [f"vt {u} {v}" for u, v in mesh.uvs[0].tolist()]
    corners = np.arange(mesh.n_corners).reshape(-1, 4)
    lines += ["f " + " ".join(f"{mesh.corner_vertex[c] + 1}/{c + 1}" for c in face) for face in corners]
    return "\n".join(lines).encode()


def zipped(**entries: bytes) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for name, data in entries.items():
            archive.writestr(name, data)
    return buffer.getvalue()


def test_upload_builds_a_prop_with_its_library_and_says_what_is_of_no_use(upload, call, run_jobs) -> None:
    answer = upload(
        sheet__obj=sheet_obj(extra="mtllib sheet.mtl\nusemtl paint"),
        sheet__mtl=b"newmtl paint\nKd 1 0 0\n",
        notes__txt=b"hello",
        broken__glb=b"text",
    )
    assert [row["name"] for row in answer["refused"]] == ["notes.txt"]
    assert all(row["readiness"] == "working" for row in call("GET", "props")[1])
    run_jobs()
    broken, sheet = call("GET", "props")[1]
    assert (broken["readiness"], broken["name"]) == ("failed", "broken")
    assert "is not a GLB file" in broken["error"]
    assert sheet["readiness"] == "ready", "its pivot was moved to the base, which is said and no more"
    assert (sheet["polygons"], sheet["triangles"], sheet["levels"]) == (144, 288, 4)
    assert sheet["size"] == pytest.approx([1, sheet["size"][1], 1])
    detail = call("GET", f"props/{sheet['id']}")[1]
    assert detail["facts"]["source"]["materials"] == ["paint"]
    assert [level["name"] for level in detail["levels"]] == [f"sheet_LOD{i}" for i in range(4)]


def test_pictures_and_models_are_served_by_content(upload, call, client, run_jobs) -> None:
    prop = upload(sheet__obj=sheet_obj())["props"][0]
    run_jobs()
    row = call("GET", "props")[1][0]
    picture = client.get(row["picture"])
    assert b"".join(picture)[:8] == b"\x89PNG\r\n\x1a\n"
    model = client.get(call("GET", f"props/{prop}")[1]["model"])
    assert b"".join(model)[:4] == b"glTF"
    assert "immutable" in model["Cache-Control"]
    assert client.get("/api/files/" + "0" * 64 + ".png").status_code == 404
    assert client.get("/api/files/..%2f..%2fsecret-key.png").status_code == 404


def test_zip_is_unpacked_and_one_that_points_outside_is_refused_whole(upload, call) -> None:
    good = zipped(**{"set/a.obj": sheet_obj(), "set/textures/x.png": b"no picture", "__MACOSX/a.obj": b"junk"})
    bad = zipped(**{"b.obj": sheet_obj(), "../evil.obj": sheet_obj()})
    answer = upload(good__zip=good, bad__zip=bad, torn__zip=b"PK not really")
    assert len(answer["props"]) == 1
    assert {row["name"]: row["message"] for row in answer["refused"]} == {
        "bad.zip": "its entry '../evil.obj' points outside the archive; nothing was taken",
        "torn.zip": "is no zip archive that can be read; pack it again without a password",
        "good.zip": "hidden entries were left out: '__MACOSX/a.obj'; rename what belongs to a prop",
    }
    assert Prop.objects.get().side_files.keys() == {"textures/x.png"}


def test_names_stay_apart_and_odd_ones_are_cleaned(upload, call) -> None:
    upload.named({"a.obj": sheet_obj(), "sub/A.obj": sheet_obj(), "Crate 01 (ä).obj": sheet_obj()})
    upload(a__obj=sheet_obj())
    assert sorted(row["name"] for row in call("GET", "props")[1]) == ["A_2", "Crate_01_a", "a", "a_3"]


def test_removed_props_come_back_with_everything_decided(upload, call, run_jobs) -> None:
    prop = upload(a__obj=sheet_obj())["props"][0]
    run_jobs()
    call("PATCH", f"props/{prop}/settings", {"changes": {"levels": {"levels": [{"ratio": 0.3}]}}})
    run_jobs()
    assert call("POST", "props/remove", {"ids": [prop]}) == (200, {"count": 1})
    assert call("GET", "props")[1] == []
    status, problem = call("GET", f"props/{prop}")
    assert (status, problem) == (404, {"detail": "this prop is not on the board any more"})
    upload(a__obj=sheet_obj())
    assert call("POST", "props/restore", {"ids": [prop]}) == (200, {"count": 1})
    detail = call("GET", f"props/{prop}")[1]
    assert (detail["name"], detail["overridden"]) == ("a_2", {"levels": ["levels"]})


def test_held_prop_says_why_and_has_its_places(upload, call, run_jobs) -> None:
    data = b"v 0 0 0\nv 1 0 0\nv 0 nan 0\nf 1 2 3\n"
    prop = upload(bad__obj=data)["props"][0]
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    assert detail["readiness"] == "held"
    assert detail["model"] is None
    assert [f["code"] for f in detail["findings"] if f["severity"] == "stop"] == ["nothing-left"]
    finding = next(f for f in detail["findings"] if f["code"] == "non-finite-positions")
    assert finding["places"] == {"kind": "vertices", "points": [[[0.0, 0.0, 0.0]], [[1.0, 0.0, 0.0]]]}


def test_waiting_job_is_called_off_and_can_be_ordered_again(upload, call, run_jobs) -> None:
    prop = upload(a__obj=sheet_obj())["props"][0]
    job = Job.objects.get()
    assert call("POST", f"jobs/{job.pk}/cancel")[0] == 200
    run_jobs()
    assert Job.objects.get().state == Job.State.CANCELLED
    assert call("GET", "props")[1][0]["readiness"] == "cancelled"
    assert call("POST", f"props/{prop}/rebuild")[1]["readiness"] == "working"
    run_jobs()
    assert call("GET", "props")[1][0]["readiness"] == "ready"


def test_board_is_read_once_and_then_only_what_changed(
    call, upload, client, run_jobs, django_assert_num_queries
) -> None:
    ids = upload.named({f"p{i}.obj": sheet_obj(4) for i in range(5)})["props"]
    run_jobs()
    with django_assert_num_queries(5):
        first = client.get("/api/props")
    assert len(first.json()) == 5
    with django_assert_num_queries(1):
        again = client.get("/api/props", headers={"If-None-Match": first["ETag"]})
    assert (again.status_code, again.content, again["ETag"]) == (304, b"", first["ETag"])
    call("PATCH", f"props/{ids[2]}/name", {"name": "zz"})
    with django_assert_num_queries(5):
        changed = client.get("/api/props", headers={"If-None-Match": first["ETag"]})
    assert [row["name"] for row in changed.json()] == ["p0", "p1", "p3", "p4", "zz"]


def test_a_page_that_knows_the_board_is_sent_its_changes(call, client, upload, run_jobs) -> None:
    ids = upload.named({f"p{i}.obj": sheet_obj(4) for i in range(3)})["props"]
    run_jobs()
    whole = call("GET", "props/changes")[1]
    assert (whole["order"], whole["rows"]) == (ids, call("GET", "props")[1])
    Prop.objects.filter(pk__in=ids[:2]).update(changed=timezone.now() - timedelta(hours=1))
    call("POST", "props/remove", {"ids": [ids[0]]})
    changes = client.get("/api/props/changes", {"since": whole["rows"][-1]["changed"]}).json()
    assert (changes["order"], [row["id"] for row in changes["rows"]]) == (ids[1:], [ids[2]])


def test_a_prop_is_sent_again_when_it_or_what_it_stands_beside_changed(call, client, upload, run_jobs) -> None:
    prop, other = upload.named({"a.obj": sheet_obj(4), "b.obj": sheet_obj(5)})["props"]
    run_jobs()
    read = lambda tag="": client.get(f"/api/props/{prop}", headers={"If-None-Match": tag})  # noqa: E731
    tag = read()["ETag"]
    assert read(tag).status_code == 304
    assert client.get(f"/api/props/{prop}", headers={"X-Plindro-Browser": "b", "If-None-Match": tag}).status_code == 200
    call("PATCH", f"props/{other}/name", {"name": "lid"})
    assert read(tag).json()["peers"][0]["name"] == "lid"
    tag = read()["ETag"]
    decided = call("PATCH", f"props/{prop}/settings", {"changes": {"normals": {"angle": 20.0}}})[1]
    assert read(tag).json() == decided, "however it is read, it says the same"
    run_jobs()
    assert read(tag).json()["readiness"] != "working"


def test_only_own_pages_change_anything(db) -> None:
    browser = Client(enforce_csrf_checks=True)
    page = browser.get("/")
    token, own = page.cookies["csrftoken"].value, "http://testserver"
    for headers in (
        {},
        {"x-csrftoken": token},
        {"origin": own},
        {"origin": "https://elsewhere.example", "x-csrftoken": token},
        {"origin": own, "x-csrftoken": "x" * len(token)},
    ):
        answer = browser.post("/api/demo/rock", headers=headers)
        assert (answer.status_code, answer.json()["detail"].split(";")[0]) == (
            403,
            "this address takes changes from its own pages only",
        )
    assert not Job.objects.exists()
    assert browser.post("/api/demo/rock", headers={"origin": own, "x-csrftoken": token}).status_code == 200
    assert "'unsafe" not in page["Content-Security-Policy"]
    assert page["Content-Security-Policy"].startswith("default-src 'none'; script-src 'self' 'wasm-unsafe-eval';")
    script = re.search(r'src="(/assets/[^"]+)"', page.content.decode())
    assert script
    assert "Access-Control-Allow-Origin" not in browser.get(script[1]).headers
