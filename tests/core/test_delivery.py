"""Delivering into a folder: only what changed is written, nothing foreign is touched, and leftovers go when asked."""

import hashlib
import json
from pathlib import Path

import pytest

from plindro.core.errors import InvalidSettings
from plindro.core.shipping.delivery import RECORD, Delivered, Plan, deliver, plan_delivery

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
