"""Delivering into a folder: only what changed is written, nothing foreign is touched, and leftovers go when asked."""

import errno
import hashlib
import json
import random
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from plindro.core.errors import InvalidSettings
from plindro.core.shipping import delivery, write_whole
from plindro.core.shipping.delivery import RECORD, Delivered, Plan, deliver, plan_delivery

ROOT = Path(__file__).resolve().parents[2]
Files = dict[str, tuple[set[str], bytes]]


def _rows(files: Files) -> list[Delivered]:
    return [Delivered(p, frozenset(o), len(d), hashlib.sha256(d).hexdigest()) for p, (o, d) in files.items()]


def _deliver(folder: Path, files: Files, *, removes: bool = False) -> Plan:
    return deliver(folder, _rows(files), lambda path: files[path][1], removes=removes)


def _changes(plan: Plan) -> dict[str, str]:
    return {row.file.path: row.change for row in plan.files}


FIRST: Files = {"a.glb": ({"1"}, b"a"), "b.glb": ({"2"}, b"b"), "textures/t.dds": ({"1", "2"}, b"t")}


def test_only_what_changed_is_written_again(tmp_path: Path) -> None:
    assert set(_changes(_deliver(tmp_path, FIRST)).values()) == {"made"}
    before = {path: (tmp_path / path).stat().st_mtime_ns for path in FIRST}
    again = _deliver(tmp_path, {**FIRST, "b.glb": ({"2"}, b"other")})
    assert _changes(again) == {"a.glb": "same", "b.glb": "replaced", "textures/t.dds": "same"}
    after = {path: (tmp_path / path).stat().st_mtime_ns for path in FIRST}
    assert [path for path in FIRST if before[path] != after[path]] == ["b.glb"]
    assert (tmp_path / "b.glb").read_bytes() == b"other"


def test_files_that_no_delivery_wrote_are_told_and_left_alone(tmp_path: Path) -> None:
    (tmp_path / "a.glb").write_bytes(b"mine")
    plan = _deliver(tmp_path, FIRST)
    assert _changes(plan)["a.glb"] == "foreign"
    assert (tmp_path / "a.glb").read_bytes() == b"mine"
    assert "a.glb" not in {row["path"] for row in json.loads((tmp_path / RECORD).read_text())["files"]}


def test_what_a_new_name_leaves_behind_goes_only_when_asked_and_unchanged(tmp_path: Path) -> None:
    _deliver(tmp_path, FIRST)
    renamed: Files = {"chest.glb": ({"1"}, b"a"), "textures/t.dds": ({"1"}, b"t")}
    assert plan_delivery(tmp_path, _rows(renamed)).left == ("a.glb",), "b is of a prop that is not delivered now"
    _deliver(tmp_path, renamed)
    assert (tmp_path / "a.glb").is_file()
    (tmp_path / "a.glb").write_bytes(b"edited")
    assert _deliver(tmp_path, renamed, removes=True).changed == {"a.glb"}
    assert (tmp_path / "a.glb").read_bytes() == b"edited"
    (tmp_path / "a.glb").write_bytes(b"a")
    _deliver(tmp_path, renamed, removes=True)
    assert not (tmp_path / "a.glb").exists()
    assert (tmp_path / "b.glb").is_file()


def test_a_shared_texture_stays_while_another_prop_uses_it(tmp_path: Path) -> None:
    _deliver(tmp_path, FIRST)
    without: Files = {"a.glb": ({"1"}, b"a")}
    assert _deliver(tmp_path, without, removes=True).left == ()
    assert (tmp_path / "textures/t.dds").is_file()
    assert plan_delivery(tmp_path, _rows({"b.glb": ({"2"}, b"b")})).left == ("textures/t.dds",)


def test_what_is_called_off_leaves_whole_files_and_a_true_record(tmp_path: Path) -> None:
    def stop(share: float, doing: str) -> None:
        if share > 0.5:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        deliver(tmp_path, _rows(FIRST), lambda path: FIRST[path][1], removes=False, on_share=stop)
    there = {str(p.relative_to(tmp_path)) for p in tmp_path.rglob("*") if p.is_file()} - {RECORD}
    assert there == {row["path"] for row in json.loads((tmp_path / RECORD).read_text())["files"]}
    assert len(there) == 2
    assert _changes(_deliver(tmp_path, FIRST)) == {"a.glb": "same", "b.glb": "same", "textures/t.dds": "made"}


def test_paths_outside_and_damaged_records_are_refused(tmp_path: Path) -> None:
    with pytest.raises(InvalidSettings, match="below the folder"):
        _deliver(tmp_path, {"../a.glb": ({"1"}, b"a")})
    (tmp_path / RECORD).write_text("{")
    with pytest.raises(InvalidSettings, match="damaged"):
        _deliver(tmp_path, FIRST)


def _whole(folder: Path, *versions: Files) -> None:
    """Every file in the folder is one of its versions, whole, and the record knows it."""
    known = {row["path"] for row in json.loads((folder / RECORD).read_text())["files"]} if folder.exists() else set()
    for path in (p for p in folder.rglob("*") if p.is_file() and not p.name.startswith(".")):
        name = str(path.relative_to(folder))
        assert path.read_bytes() in [version[name][1] for version in versions if name in version]
        assert name in known


@pytest.mark.parametrize("full_at", range(1, 6))
def test_a_full_disk_leaves_whole_files_and_the_next_delivery_ends_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, full_at: int
) -> None:
    later: Files = {"a.glb": ({"1"}, b"other"), "b.glb": ({"2"}, b"more"), "c.glb": ({"3"}, b"new")}
    _deliver(tmp_path, FIRST)
    writes = 0

    def fill(path: Path, data: bytes, **rights: int) -> bool:
        nonlocal writes
        writes += 1
        if writes >= full_at:
            raise OSError(errno.ENOSPC, "No space left on device")
        return write_whole(path, data, **rights)

    monkeypatch.setattr(delivery, "write_whole", fill)
    if full_at < 5:
        with pytest.raises(OSError, match="No space"):
            _deliver(tmp_path, later)
    monkeypatch.undo()
    _whole(tmp_path, FIRST, later)
    assert not list(tmp_path.rglob("*.part"))
    assert "foreign" not in _changes(_deliver(tmp_path, later)).values()
    assert {path: (tmp_path / path).read_bytes() for path in later} == {path: row[1] for path, row in later.items()}


_CHILD = """
import sys
from pathlib import Path
from tests.core.test_delivery import _deliver, many
_deliver(Path(sys.argv[1]), many(int(sys.argv[2])))
"""


def many(version: int) -> Files:
    """Thirty files, other in each version."""
    return {f"p{n:02}/{n}.glb": ({str(n)}, bytes([version, n]) * 60_000) for n in range(30)}


def test_deliveries_killed_at_any_moment_are_ended_by_the_next(tmp_path: Path) -> None:
    folder, pauses = tmp_path / "props", random.Random(20)
    for version in range(1, 6):
        child = subprocess.Popen([sys.executable, "-c", _CHILD, str(folder), str(version)], cwd=ROOT)
        began = time.monotonic()
        # Its imports take a while: it is killed once it has begun to write.
        while not list(folder.glob("p*/*.glb")) and child.poll() is None and time.monotonic() - began < 60:
            time.sleep(0.002)
        time.sleep(pauses.uniform(0.0, 0.05))
        child.kill()
        child.wait()
        _whole(folder, *(many(v) for v in range(1, version + 1)))
    last = many(9)
    assert "foreign" not in _changes(_deliver(folder, last)).values()
    assert set(_changes(_deliver(folder, last)).values()) == {"same"}


def test_two_deliveries_at_once_into_one_folder_wait_for_each_other(tmp_path: Path) -> None:
    one = {path: row for path, row in many(1).items() if path < "p15"}
    other = {path: row for path, row in many(1).items() if path >= "p15"}
    with ThreadPoolExecutor(2) as pool:
        plans = list(pool.map(lambda files: _deliver(tmp_path, files), (one, other)))
    assert all(set(_changes(plan).values()) == {"made"} for plan in plans)
    known = {row["path"] for row in json.loads((tmp_path / RECORD).read_text())["files"]}
    assert known == set(many(1)), "neither has written over what the other recorded"


def test_a_folder_of_a_prop_that_is_gone_goes_with_its_last_file(tmp_path: Path) -> None:
    _deliver(tmp_path, {"crate/crate.glb": ({"1"}, b"a"), "crate/crate.npz": ({"1"}, b"b")})
    _deliver(tmp_path, {"chest/chest.glb": ({"1"}, b"a")}, removes=True)
    assert {path.name for path in tmp_path.iterdir()} == {"chest", RECORD}
    assert (tmp_path / "chest/chest.glb").stat().st_mode & 0o777 == 0o644
    assert (tmp_path / "chest").stat().st_mode & 0o777 == 0o755
