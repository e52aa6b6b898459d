"""A server under trial: what it acknowledged is written down, and compared with what is there after the trial."""

import hashlib
import io
import json
import os
import shutil
import sqlite3
import tempfile
import time
import zipfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

from benchmarks.meshes import grid_obj
from benchmarks.server import Server
from plindro.core.rehearsal.disk import DiskFiles
from plindro.core.rehearsal.folder import MANIFEST, check_files

PROPS = ("lamp", "crate", "sign")
FOLDER = "game"
"""Below the folder that the server delivers into."""


class Watched(Server):
    """A server whose acknowledged props, decisions and shipments are known."""

    def __init__(self, home: Path, **environment: str) -> None:
        super().__init__(home, **environment)
        self.props: dict[str, int] = {}
        self.angles: dict[int, set[float]] = {}
        self.shipments: list[int] = []
        self._sound: set[str] = set()

    def take(self, files: dict[str, bytes]) -> None:
        """Upload sources."""
        for prop in self.upload("props/upload", files)["props"]:
            self.props[str(self.api(f"props/{prop}")["name"])] = prop

    def furnish(self) -> None:
        """Put the props that stay on the board: without levels, so that they are built in a fraction of a second."""
        self.take({f"{name}.obj": grid_obj(24 + number) for number, name in enumerate(PROPS)})
        for prop in self.props.values():
            settings = self.api(f"props/{prop}/settings", {"changes": {"levels": {"has_levels": False}}}, "PATCH")
            self.angles[prop] = {settings["settings"]["normals"]["angle"]}
        self.settle()

    def clear(self) -> None:
        """Take off the board what a trial brought."""
        brought = [name for name in self.props if name not in PROPS]
        self.api("props/remove", {"ids": [self.props.pop(name) for name in brought]})

    def decide(self, prop: int, angle: float) -> None:
        """Change a setting; until it is acknowledged, the one before may be there as well."""
        self.angles.setdefault(prop, set()).add(angle)
        self.api(f"props/{prop}/settings", {"changes": {"normals": {"source": "angle", "angle": angle}}}, "PATCH")
        self.angles[prop] = {angle}

    def ship(self) -> int:
        """Order a shipment of the props that stay into a folder."""
        ids = [self.props[name] for name in PROPS]
        order = {"ids": ids, "destination": "plain", "folder": FOLDER, "removes": True}
        number: int = self.api("shipments", order)["id"]
        self.shipments.append(number)
        return number

    def active(self) -> int:
        """Jobs that wait or run."""
        return int(self._value("SELECT count(*) FROM work_job WHERE state IN ('queued', 'running')"))

    def running(self, kind: str) -> bool:
        """Whether a job of a kind runs."""
        return bool(self._value("SELECT count(*) FROM work_job WHERE state = 'running' AND kind = ?", kind))

    def jobs(self, subject: int) -> list[int]:
        """The builds of a prop that wait or run."""
        query = "SELECT id FROM work_job WHERE kind = 'build' AND subject = ? AND state IN ('queued', 'running')"
        return [row[0] for row in self._rows(query, subject)]

    def _value(self, query: str, *values: object) -> Any:
        return self._rows(query, *values)[0][0]

    def _rows(self, query: str, *values: object) -> list[Any]:
        with closing(sqlite3.connect(f"file:{self.home}/plindro.sqlite3?mode=ro", uri=True, timeout=20)) as database:
            return database.execute(query, values).fetchall()

    def settle(self) -> None:
        """Until nothing waits."""
        self.wait(lambda: self.active() == 0, 240)

    def wrong(self) -> list[str]:
        """What is lost, stuck or left over."""
        return [*self._database(), *self._board(), *self._shipments(), *self._delivered(), *self._files()]

    def _database(self) -> Iterator[str]:
        said = self._value("PRAGMA integrity_check")
        if said != "ok":
            yield f"the database: {said}"

    def _board(self) -> Iterator[str]:
        rows = {row["id"]: row for row in self.api("props")}
        for name, prop in self.props.items():
            if prop not in rows:
                yield f"the prop {name} is lost"
            elif rows[prop]["readiness"] in ("working", "failed"):
                yield f"{name} is {rows[prop]['readiness']}: {rows[prop]['error']}"
        for prop, angles in self.angles.items():
            angle = self.api(f"props/{prop}")["settings"]["normals"]["angle"]
            if prop in rows and angle not in angles:
                yield f"prop {prop} has the angle {angle}, decided was {angles}"

    def _shipments(self) -> Iterator[str]:
        for number in self.shipments:
            shipment = self.api(f"shipments/{number}")
            if shipment["state"] != "done" or shipment["shipped"] != len(PROPS):
                yield f"shipment {number} is {shipment['state']}: {shipment['error']}"
                continue
            with zipfile.ZipFile(io.BytesIO((self.home / "shipments" / f"{number}.zip").read_bytes())) as archive:
                for item in shipment["items"]:
                    for file in item["files"]:
                        if hashlib.sha256(archive.read(file["path"])).hexdigest() != file["sha256"]:
                            yield f"shipment {number}: {file['path']} is another file"

    def _delivered(self) -> Iterator[str]:
        """What lies in the folder that all shipments went into, beside the manifest that the last has left there."""
        folder = self.home / "delivered" / FOLDER
        if not (folder / MANIFEST).is_file():
            return
        manifest = json.loads((folder / MANIFEST).read_text("utf-8"))
        yield from (f"delivered: {finding.message}" for finding in check_files(DiskFiles(folder), manifest))
        yield from (f"left over: {path}" for path in folder.rglob("*.part"))

    def _files(self) -> Iterator[str]:
        files = self.home / "files"
        for path in [*files.rglob("*.part"), *files.glob("incoming/*"), *(self.home / "shipments").rglob("*.part")]:
            yield f"left over: {path.relative_to(self.home)}"
        for path in files.glob("[0-9a-f][0-9a-f]/*"):
            if path.name not in self._sound and hashlib.sha256(path.read_bytes()).hexdigest() != path.name:
                yield f"damaged: {path.name}"
            self._sound.add(path.name)

    def processes(self) -> list[int]:
        """Processes of this installation, wherever they came from."""
        mark = f"PLINDRO_HOME={self.home}".encode()
        found = []
        for entry in Path("/proc").iterdir():
            if entry.name.isdigit() and int(entry.name) != os.getpid():
                try:
                    if mark in (entry / "environ").read_bytes().split(b"\0"):
                        found.append(int(entry.name))
                except OSError:
                    continue
        return found

    def orphans(self) -> list[str]:
        """Processes that outlive their server by more than five seconds."""
        deadline = time.monotonic() + 5
        while (left := self.processes()) and time.monotonic() < deadline:
            time.sleep(0.1)
        return [f"process {pid} is left over" for pid in left]


@contextmanager
def watched(**environment: str) -> Iterator[Watched]:
    """A server with three small props on its board."""
    folder = Path(tempfile.mkdtemp(prefix="plindro-trust-"))
    server = Watched(folder, **environment)
    try:
        server.start()
        server.furnish()
        yield server
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)
