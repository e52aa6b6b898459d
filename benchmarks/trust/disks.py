"""The disk is full at an upload, a build, an archive, a delivery or a decision: it is said, and nothing is lost."""

import json
import os
import subprocess
import tempfile
import urllib.error
from collections.abc import Callable
from functools import partial
from pathlib import Path

from benchmarks.meshes import grid_obj
from benchmarks.trust.watched import PROPS, Watched

SIZE = "96m"
LEFT = 600 * 1024
"""Bytes that are left free: enough for rows, and too little for what is made of a mesh."""
LESS = {"decision": 0, "archive": 200 * 1024}
"""What a row alone fills, and what packed takes less room than as it is."""


def full_disks(rounds: int) -> list[str]:
    """Each of the five, on a small disk of its own; left out where none can be mounted."""
    folder = Path(tempfile.mkdtemp(prefix="plindro-disk-"))
    command = ["mount", "-t", "tmpfs", "-o", f"size={SIZE}", "tmpfs", str(folder)]
    mounted = subprocess.run(command, capture_output=True, check=False)
    if mounted.returncode:
        print(f"    left out: no small disk can be mounted here ({mounted.stderr.decode().strip()})")
        return []
    server = Watched(folder)
    try:
        server.start()
        server.furnish()
        server.take({"big.obj": grid_obj(110)})
        server.settle()
        trials: dict[str, Callable[[Watched], str]] = {
            "upload": _upload, "build": _build, "archive": _archive, "delivery": _delivery,
            "decision": _decision,
        }  # fmt: skip
        wrong = []
        for title, trial in trials.items():
            said = _while_full(server, trial, LESS.get(title, LEFT))
            print(f"    {title:<10}{said}", flush=True)
            server.settle()
            if "full" not in said:
                wrong.append(f"{title}: {said}")
            wrong += [f"{title}: {text}" for text in server.wrong()]
        return wrong
    finally:
        server.stop()
        # Its workers end a moment later, and hold the disk until then.
        server.orphans()
        subprocess.run(["umount", str(folder)], check=False)
        folder.rmdir()


def _while_full(server: Watched, trial: Callable[[Watched], str], left: int) -> str:
    """Fill the disk, try, and make room again."""
    ballast = server.home / "ballast"
    status = os.statvfs(server.home)
    with ballast.open("wb") as file:
        os.posix_fallocate(file.fileno(), 0, max(status.f_bavail * status.f_frsize - left, 1))
    try:
        return trial(server)
    finally:
        ballast.unlink()


def _refusal(call: Callable[[], object]) -> str:
    try:
        call()
    except urllib.error.HTTPError as error:
        return str(json.load(error)["detail"])
    return "was taken"


def _upload(server: Watched) -> str:
    return _refusal(lambda: server.upload("props/upload", {"more.obj": grid_obj(200)}))


def _build(server: Watched) -> str:
    """The build fails in words, and is built again once there is room."""
    prop = server.props["big"]
    server.decide(prop, 33.0)
    server.settle()
    error: str = server.row("big")["error"]
    (server.home / "ballast").unlink()
    server.api(f"props/{prop}/rebuild", {})
    server.settle()
    (server.home / "ballast").touch()
    return error or "was built"


def _archive(server: Watched) -> str:
    """An item or the archive fails in words; ordered again it ships."""
    ids = [server.props["big"]]
    number = server.api("shipments", {"ids": ids, "destination": "plain"})["id"]
    server.settle()
    shipment = server.api(f"shipments/{number}")
    return shipment["error"] or next((item["error"] for item in shipment["items"] if item["error"]), "was shipped")


def _delivery(server: Watched) -> str:
    """What was delivered by then is whole; delivered again with room, it is all there."""
    # That of the archive's trial: the prop that is too big for what is left.
    number = server.api("shipments")[0]["id"]
    server.api(f"shipments/{number}/deliver", {"folder": "full"})
    server.settle()
    said = str(server.api(f"shipments/{number}")["delivery"]["error"])
    (server.home / "ballast").unlink()
    server.api(f"shipments/{number}/deliver", {"folder": "full"})
    server.settle()
    (server.home / "ballast").touch()
    state = server.api(f"shipments/{number}")["delivery"]["state"]
    return said if state == "done" else f"then {state}"


def _decision(server: Watched) -> str:
    """A row finds room in the log of the database for a while; sooner or later it does not."""
    path = f"props/{server.props[PROPS[1]]}/name"
    for number in range(400):
        said = _refusal(partial(server.api, path, {"name": f"{PROPS[1]}_{number}"}, "PATCH"))
        if said != "was taken":
            return said
    return "was taken"
