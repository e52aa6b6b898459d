"""Files by content: written once, whole or not at all, and gone only when nothing needs them."""

import hashlib
import io
import os
import pickle
import threading
import time
from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plindro.web.store import DIGITS, PIECE, Store, spool


@pytest.fixture
def kept(tmp_path: Path) -> Store:
    return Store(tmp_path / "files")


def _age(store: Store, digest: str, seconds: float) -> None:
    then = time.time() - seconds
    os.utime(store.path_of(digest), (then, then))


def test_bytes_are_kept_once_under_their_digest(kept: Store) -> None:
    first, other = kept.keep(b"oak"), kept.keep(b"brass")
    assert first == hashlib.sha256(b"oak").hexdigest()
    assert (kept.load(first), kept.load(other)) == (b"oak", b"brass")
    before = kept.path_of(first).stat().st_ino
    assert kept.keep(b"oak") == first
    assert kept.path_of(first).stat().st_ino == before, "it was written again"
    assert sorted(path.name for path in kept.stored()) == sorted([first, other])
    with pytest.raises(FileNotFoundError):
        kept.load("0" * DIGITS)


def test_a_store_travels_to_the_workers(kept: Store) -> None:
    digest = kept.keep(b"oak")
    assert pickle.loads(pickle.dumps(kept)).load(digest) == b"oak"


@given(st.sampled_from([0, 1, PIECE - 1, PIECE, PIECE + 1, 2 * PIECE + 7]))
def test_what_comes_in_is_spooled_whole_and_taken_by_its_content(tmp_path_factory, size: int) -> None:
    kept = Store(tmp_path_factory.mktemp("files"))
    data = bytes(i % 251 for i in range(min(size, 997))) * (size // 997 + 1)
    data = data[:size]
    with kept.incoming() as folder:
        file = spool(io.BytesIO(data), folder)
        assert (file.size, file.digest) == (size, hashlib.sha256(data).hexdigest())
        assert not list(kept.stored()), "nothing is stored before it is taken"
        assert kept.take(file) == file.digest
        assert not file.path.exists(), "it was moved, not copied"
        twice = spool(io.BytesIO(data), folder)
        assert kept.take(twice) == file.digest
    assert kept.load(file.digest) == data
    assert not list((kept.folder / "incoming").iterdir()), "what was there twice is gone with its folder"


def test_what_nobody_took_is_gone_also_after_an_error(kept: Store) -> None:
    def refused() -> None:
        with kept.incoming() as folder:
            spool(io.BytesIO(b"oak"), folder)
            raise OSError("no space left on device")

    with pytest.raises(OSError, match="no space"):
        refused()
    assert not list((kept.folder / "incoming").iterdir())
    assert not list(kept.stored())


def test_only_what_was_not_needed_since_is_removed(kept: Store) -> None:
    old, needed, young = (kept.keep(data) for data in (b"old", b"needed", b"young"))
    for digest in (old, needed):
        _age(kept, digest, 3600)
    kept.keep(b"needed")
    before = time.time() - 60
    assert [kept.remove(digest, before) for digest in (old, needed, young)] == [True, False, False]
    assert not kept.path_of(old).exists()
    assert (kept.load(needed), kept.load(young)) == (b"needed", b"young")
    assert not kept.remove(old, before), "it is gone already"
    assert not list(kept.folder.rglob("*.part"))


def test_a_file_kept_while_it_is_collected_is_there_afterwards(kept: Store) -> None:
    """Whoever keeps it finds it, or writes it anew: at no time is it thought to be there when it is not."""
    digest, ends = kept.keep(b"oak"), time.monotonic() + 1.0
    lost: list[int] = []

    def collect() -> None:
        while time.monotonic() < ends:
            _ = kept.path_of(digest).exists() and kept.remove(digest, time.time() - 1800)

    collector = threading.Thread(target=collect)
    collector.start()
    try:
        for turn in range(200):
            with suppress(FileNotFoundError):
                _age(kept, digest, 3600)
            kept.keep(b"oak")
            if kept.load(digest) != b"oak":
                lost.append(turn)
    finally:
        collector.join()
    assert not lost


def test_what_a_stopped_server_left_is_removed_and_nothing_else(kept: Store) -> None:
    digest = kept.keep(b"oak")
    kept.path_of(digest).with_suffix(".part").write_bytes(b"half of it")
    upload = kept.folder / "incoming" / "upload"
    upload.mkdir(parents=True)
    (upload / "big.glb").write_bytes(b"half of that")
    (kept.folder / "incoming" / "stray").write_bytes(b"x")
    assert kept.remove_unfinished() == 3
    assert kept.load(digest) == b"oak"
    assert not list(kept.folder.rglob("*.part"))
    assert not list((kept.folder / "incoming").iterdir())
    assert kept.remove_unfinished() == 0


def test_files_are_for_their_owner_alone(kept: Store) -> None:
    with kept.incoming() as folder:
        digest = kept.take(spool(io.BytesIO(b"oak"), folder))
    assert kept.path_of(digest).parent.stat().st_mode & 0o077 == 0
    assert (kept.folder / "incoming").stat().st_mode & 0o077 == 0


def test_strangers_in_the_folder_are_no_stored_files(kept: Store) -> None:
    digest = kept.keep(b"oak")
    (kept.folder / digest[:2] / "readme").write_text("hello")
    (kept.folder / "zz").mkdir()
    (kept.folder / "zz" / digest).write_bytes(b"oak")
    assert [path.name for path in kept.stored()] == [digest]
