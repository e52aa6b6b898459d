"""What nothing refers to any more goes after a time of grace, and nothing else does."""

import io
import json
from datetime import timedelta

import pytest
from click.testing import CliRunner
from django.utils import timezone

from plindro.cli.main import cli
from plindro.web import store
from plindro.web.bench.models import Decision
from plindro.web.upkeep import services
from plindro.web.work.models import Job
from plindro.web.yard.models import Built, KeptFile, Prop
from tests.web.test_trust import zipped
from tests.web.test_yard import sheet_obj

pytestmark = pytest.mark.django_db
NOW = timedelta(0)


@pytest.fixture(autouse=True)
def nothing_under_way(settings):
    """So that files may be collected at once."""
    settings.JOB_SECONDS = 0


def test_files_of_a_build_or_an_upload_under_way_stay_whatever_is_asked(settings) -> None:
    settings.JOB_SECONDS = 900
    digest = store.files().keep(b"its row is not written yet")
    assert services.collect(NOW).files == 0
    assert digest in _stored()


def _stored() -> set[str]:
    return {path.name for path in store.files().stored()}


def _use(call, client) -> None:
    """Everything that can be looked at must be there."""
    for row in call("GET", "props")[1]:
        detail = call("GET", f"props/{row['id']}")[1]
        for address in (row["picture"], detail["model"], detail["source_model"], detail["sheet"]):
            assert client.get(address).status_code == 200


def test_only_what_nothing_needs_is_collected_and_only_when_it_is_old(call, client, upload, run_jobs) -> None:
    kept, gone = upload.named({"kept.obj": sheet_obj(4), "gone.obj": sheet_obj(5)})["props"]
    run_jobs()
    # An earlier source that undo leads back to, and an earlier result that nothing shows.
    first = Prop.objects.get(pk=kept)
    file = io.BytesIO(sheet_obj(6))
    file.name = "kept.obj"
    client.post(f"/api/props/{kept}/source", {"files": [file]})
    run_jobs()
    call("POST", "props/remove", {"ids": [gone]})
    stray = store.files().keep(b"of no use to anybody")
    removed = Prop.objects.get(pk=gone)
    before = _stored()

    assert services.collect(timedelta(days=7)).files == 0
    assert _stored() == before
    # While it can be put back, everything of the prop stays.
    call("POST", "props/restore", {"ids": [gone]})
    _use(call, client)
    call("POST", "props/remove", {"ids": [gone]})

    done = services.collect(NOW)
    assert (done.props, done.results) == (1, 2), "the removed prop; its result and that of the earlier source"
    assert not {stray, removed.source} & _stored()
    assert {first.source, Prop.objects.get(pk=kept).source} <= _stored()
    assert not Job.objects.exists()
    _use(call, client)
    # What was collected is made again where somebody comes back to it.
    call("POST", f"props/{kept}/undo")
    run_jobs()
    _use(call, client)
    assert services.collect(NOW).props == 0


def test_a_removed_prop_of_the_ledger_stays_with_its_shipped_files(call, client, upload, run_jobs) -> None:
    prop = upload(a__obj=sheet_obj(3))["props"][0]
    run_jobs()
    number = call("POST", "shipments", {"ids": [prop], "destination": "plain"})[1]["id"]
    run_jobs()
    call("POST", "props/remove", {"ids": [prop]})
    services.collect(NOW)
    shipment = call("GET", f"shipments/{number}")[1]
    item = shipment["items"][0]
    assert item["state"] == "shipped"
    for address in (shipment["archive"], f"/api/shipments/items/{item['id']}/{item['files'][0]['path']}"):
        assert client.get(address).status_code == 200


def test_decisions_beyond_the_history_go_and_the_newest_can_be_undone(call, upload, monkeypatch) -> None:
    monkeypatch.setattr(services, "HISTORY", 3)
    one, other = upload.named({"one.obj": sheet_obj(3), "other.obj": sheet_obj(4)})["props"]
    for angle in (10.0, 20.0, 30.0, 40.0, 50.0):
        call("PATCH", f"props/{one}/settings", {"changes": {"normals": {"source": "angle", "angle": angle}}})
    call("PATCH", f"props/{other}/name", {"name": "lid"})
    assert services.collect(NOW).decisions == 2
    assert (Decision.objects.filter(prop=one).count(), Decision.objects.filter(prop=other).count()) == (3, 1)
    assert call("POST", f"props/{one}/undo")[1]["settings"]["normals"]["angle"] == 40.0


def test_a_file_that_comes_back_while_it_is_collected_stays(settings) -> None:
    kept = store.files()
    digest = kept.keep(b"wanted again")
    assert not kept.remove(digest, kept.path_of(digest).stat().st_mtime)
    assert kept.load(digest) == b"wanted again"
    assert kept.remove(digest, timezone.now().timestamp() + 1)
    assert digest not in _stored()


def test_a_refused_upload_leaves_nothing(call, client, upload, settings) -> None:
    settings.MAX_ENTRIES = 2
    many = zipped(**{f"{n}.obj": sheet_obj(3) for n in range(3)})
    for files in ({"many.zip": many}, {"notes.txt": b"no prop"}, {"alone.png": b"no source"}, {"broken.zip": b"PK"}):
        answer = upload.named(files)
        assert (answer["props"], len(answer["refused"])) == ([], 1)
    prop = upload(a__obj=sheet_obj(3))["props"][0]
    before = _stored()
    two = [io.BytesIO(sheet_obj(n)) for n in (7, 8)]
    for number, file in enumerate(two):
        file.name = f"{number}.obj"
    assert client.post(f"/api/props/{prop}/source", {"files": two}).status_code == 422
    assert _stored() == before
    assert not list((settings.FILES / "incoming").iterdir())


def test_the_stores_size_is_told_and_freed_by_one_command(call, client, upload, run_jobs) -> None:
    prop = upload(a__obj=sheet_obj(4))["props"][0]
    run_jobs()
    call("POST", "props/remove", {"ids": [prop]})
    told = call("GET", "storage")[1]
    shares = {share["name"]: share for share in told["shares"]}
    assert shares["sources"]["files"] == 1
    assert shares["results"]["files"] == len(set(KeptFile.objects.values_list("digest", flat=True)) - {""})
    assert told["bytes"] == sum(share["bytes"] for share in told["shares"])
    assert call("POST", "storage/free")[1]["files"] == 0, "it is not old enough"
    freed = json.loads(CliRunner().invoke(cli, ["storage", "--free", "--days", "0", "--json"]).stdout)
    assert freed["freed"]["files"] == shares["sources"]["files"] + shares["results"]["files"]
    assert (Prop.objects.count(), Built.objects.count(), _stored()) == (0, 0, set())
