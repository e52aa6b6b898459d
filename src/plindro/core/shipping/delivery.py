"""Delivering a shipment into a folder: what is written, what is left alone, and what an earlier one left behind."""

import hashlib
import json
import os
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from fcntl import LOCK_EX, flock
from pathlib import Path, PurePosixPath
from typing import Literal

from plindro.core.errors import InvalidSettings
from plindro.core.shipping.whole_file import write_whole

RECORD = ".plindro-delivery.json"
"""The file in a folder that says what was delivered there, by which prop, and as what."""
_FOR_ALL, _FOLDER_FOR_ALL = 0o644, 0o755
"""Rights of what is delivered: engines and colleagues read it, whoever the server runs as."""
Change = Literal["made", "replaced", "same", "foreign"]


@dataclass(frozen=True, slots=True)
class Delivered:
    """A file of a shipment: its path below the folder, the props that it is of, its size and digest."""

    path: str
    props: frozenset[str]
    bytes: int
    sha256: str


@dataclass(frozen=True, slots=True)
class PlannedFile:
    """What becomes of a file: made, replaced, the same already, or foreign: there, other, and not of a delivery."""

    file: Delivered
    change: Change
    bytes_before: int


@dataclass(frozen=True, slots=True)
class Plan:
    """What a delivery does. ``left`` are files of earlier deliveries that these props write no more and no other prop
    uses; ``changed`` those of them that somebody has changed since."""

    files: tuple[PlannedFile, ...]
    left: tuple[str, ...]
    changed: frozenset[str]

    @property
    def writes(self) -> tuple[Delivered, ...]:
        return tuple(row.file for row in self.files if row.change in ("made", "replaced"))


def plan_delivery(folder: Path, files: Iterable[Delivered], owners: frozenset[str] = frozenset()) -> Plan:
    """Compare a shipment with what lies in the folder; the files of ``owners`` that are not among these are left
    behind too. Nothing is written; raises ``InvalidSettings`` where the folder's record cannot be read, and
    ``OSError``."""
    kept, recorded = list(files), _read_record(folder)
    rows = tuple(_planned(folder, file, recorded) for file in kept)
    paths, props = {file.path for file in kept}, owners.union(*(file.props for file in kept))
    left = [
        path
        for path, known in recorded.items()
        if path not in paths and known.props & props and known.props <= props and (folder / path).is_file()
    ]
    changed = frozenset(
        path for path in left if _digest(folder / path) not in (recorded[path].sha256, recorded[path].was)
    )
    return Plan(rows, tuple(sorted(left)), changed)


def deliver(
    folder: Path,
    files: Iterable[Delivered],
    load: Callable[[str], bytes],
    *,
    removes: bool,
    owners: frozenset[str] = frozenset(),
    on_share: Callable[[float, str], None] = lambda share, doing: None,
) -> Plan:
    """Write what is new or other, each file whole, and tell it in the folder's record; with ``removes`` what is left
    behind goes, but for what somebody has changed. Files that no delivery wrote are never replaced.

    Deliveries into one folder wait for each other. ``load`` gives the bytes of a path; ``on_share`` is called before
    each file and may raise to stop: what is done then is whole and recorded. Raises as ``plan_delivery``.
    """
    with _alone_in(folder):
        return _deliver(folder, list(files), load, removes=removes, owners=owners, on_share=on_share)


@contextmanager
def _alone_in(folder: Path) -> Iterator[None]:
    """Wait until no other process delivers into the folder."""
    if not folder.is_dir():
        folder.mkdir(parents=True, exist_ok=True)
        folder.chmod(_FOLDER_FOR_ALL)
    lock = os.open(folder, os.O_RDONLY)
    try:
        flock(lock, LOCK_EX)
        yield
    finally:
        os.close(lock)


def _deliver(
    folder: Path,
    kept: list[Delivered],
    load: Callable[[str], bytes],
    *,
    removes: bool,
    owners: frozenset[str],
    on_share: Callable[[float, str], None],
) -> Plan:
    plan, recorded = plan_delivery(folder, kept, owners), _read_record(folder)
    _forget(recorded, kept, plan.left, owners)
    pending = {file.path: recorded.get(file.path) for file in plan.writes}
    for row in plan.files:
        if row.change != "foreign":
            recorded[row.file.path] = _noted(row, recorded.get(row.file.path))
    # What is about to be written is told first: stopped in the middle, the folder knows all of its files.
    _write_record(folder, recorded)
    try:
        for done, file in enumerate(plan.writes):
            on_share(done / len(plan.writes), f"writing {file.path}")
            _make_folder((folder / file.path).parent, folder)
            write_whole(folder / file.path, load(file.path), mode=_FOR_ALL)
            recorded[file.path] = replace(recorded[file.path], was="")
            del pending[file.path]
        for path in plan.left if removes else ():
            if path not in plan.changed:
                (folder / path).unlink(missing_ok=True)
                del recorded[path]
                _remove_empty(folder, path)
    finally:
        for path, before in pending.items():
            if before is None:
                del recorded[path]
            else:
                recorded[path] = before
        # With a full disk the record as it was told first stands.
        with suppress(OSError):
            _write_record(folder, recorded)
    return plan


def _noted(row: PlannedFile, known: "_Recorded | None") -> "_Recorded":
    props = row.file.props | (known.props if known else frozenset())
    was = known.sha256 if known and row.change != "same" else ""
    return _Recorded(props, row.file.sha256, was)


def _write_record(folder: Path, recorded: Mapping[str, "_Recorded"]) -> None:
    """Write the record, unless there is nothing to tell and nothing was told."""
    if recorded or (folder / RECORD).exists():
        write_whole(folder / RECORD, _record_json(recorded))


def _make_folder(below: Path, folder: Path) -> None:
    """Make a folder that others may read, and those above it."""
    if below != folder and not below.is_dir():
        _make_folder(below.parent, folder)
        below.mkdir(exist_ok=True)
        below.chmod(_FOLDER_FOR_ALL)


def _remove_empty(folder: Path, path: str) -> None:
    """Remove the folder of a prop that has nothing in it any more."""
    for above in PurePosixPath(path).parents:
        if above.parts:
            with suppress(OSError):
                (folder / above).rmdir()


def _forget(
    recorded: "dict[str, _Recorded]", files: list[Delivered], left: Iterable[str], owners: frozenset[str]
) -> None:
    """Props that write a file no more which others still use are no owners of it any more."""
    paths, props = {file.path for file in files}, owners.union(*(file.props for file in files))
    for path, known in recorded.items():
        if path not in paths and path not in left:
            recorded[path] = replace(known, props=known.props - props)


@dataclass(frozen=True, slots=True)
class _Recorded:
    """The props that a delivered file is of, and its digest; ``was`` is that of before, where it may not be written
    yet."""

    props: frozenset[str]
    sha256: str
    was: str = ""


def _planned(folder: Path, file: Delivered, recorded: Mapping[str, _Recorded]) -> PlannedFile:
    path = folder / file.path
    if PurePosixPath(file.path).is_absolute() or ".." in PurePosixPath(file.path).parts:
        raise InvalidSettings(f"{file.path}: does not lie below the folder")
    if not path.is_file():
        return PlannedFile(file, "made", 0)
    size = path.stat().st_size
    if size == file.bytes and _digest(path) == file.sha256:
        return PlannedFile(file, "same", size)
    return PlannedFile(file, "replaced" if file.path in recorded else "foreign", size)


def _digest(path: Path) -> str:
    with path.open("rb") as data:
        return hashlib.file_digest(data, "sha256").hexdigest()


def _read_record(folder: Path) -> dict[str, _Recorded]:
    """What is known of each delivered file, by path."""
    path = folder / RECORD
    if not path.is_file():
        return {}
    try:
        rows = json.loads(path.read_text("utf-8"))["files"]
        return {row["path"]: _Recorded(frozenset(row["props"]), row["sha256"], row.get("was", "")) for row in rows}
    except (ValueError, KeyError, TypeError) as error:
        text = f"{path}: the record of what was delivered is damaged; remove it, and its files count as not delivered"
        raise InvalidSettings(text) from error


def _record_json(recorded: Mapping[str, _Recorded]) -> bytes:
    rows = []
    for path, known in sorted(recorded.items()):
        row = {"path": path, "props": sorted(known.props), "sha256": known.sha256}
        rows.append(row | ({"was": known.was} if known.was else {}))
    return (json.dumps({"files": rows}, indent=1, ensure_ascii=False) + "\n").encode()
