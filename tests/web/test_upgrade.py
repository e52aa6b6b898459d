"""A database of the first version is carried over: results stay in sight, decisions hold in the words of now."""

import json
import os
import sqlite3
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

OPEN = """
import json, os, sys
import django
django.setup()
from django.core.management import call_command
from django.test import Client
call_command("migrate", verbosity=0)
client = Client(SERVER_NAME="localhost")
def read(path):
    answer = client.get(f"/api/{path}")
    return answer.json() if answer.status_code == 200 else answer.status_code
paths = ("project", "props", "props/1", "props/14", "shipments/1")
said = {path: read(path) for path in paths}
said["undone"] = client.post("/api/props/1/undo").json()
json.dump(said, sys.stdout)
"""


@pytest.fixture(scope="module")
def opened(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    """What the API says of a database that the first version wrote."""
    home = tmp_path_factory.mktemp("home")
    with sqlite3.connect(home / "plindro.sqlite3") as database:
        database.executescript((Path(__file__).parents[1] / "data" / "first_version.sql").read_text())
    environment = os.environ | {"PLINDRO_HOME": str(home), "DJANGO_SETTINGS_MODULE": "plindro.web.settings"}
    answer = subprocess.run([sys.executable, "-c", OPEN], env=environment, capture_output=True, text=True, check=False)
    assert answer.returncode == 0, answer.stderr
    said: dict[str, Any] = json.loads(answer.stdout)
    return said


def test_every_prop_is_on_the_board_with_its_figures(opened: dict[str, Any]) -> None:
    rows = {row["name"]: row for row in opened["props"]}
    assert set(rows) == {"fog_bell", "oil_drum"}
    assert all(row["triangles"] > 0 and row["last_triangles"] > 0 for row in rows.values())
    assert opened["project"]["name"] == "Skerry Light"
    drum = opened["props/14"]
    assert drum["levels"][0]["triangles"] == rows["oil_drum"]["triangles"]
    assert [state["name"] for state in drum["facts"]["levels"]["states"]] == ["dented"]
    for name, prop in (("fog_bell", opened["props/1"]), ("oil_drum", drum)):
        told = [sum(f["severity"] == severity for f in prop["findings"]) for severity in ("stop", "warning", "info")]
        assert [rows[name][key] for key in ("stops", "warnings", "infos")] == told
    for finding in opened["props/1"]["findings"] + drum["findings"]:
        assert finding["severity"] in ("stop", "warning", "info")


def test_decisions_hold_under_their_names_of_now(opened: dict[str, Any]) -> None:
    settings = opened["props/1"]["settings"]
    assert settings["source"]["excluded_parts"] == ["clapper"]
    assert settings["source"]["include_hidden"] is True
    assert settings["placement"]["yaw"] == 90.0
    assert settings["cleanup"]["unwelded"] is False
    assert settings["cleanup"]["t_vertex_mm"] == 0.5
    assert settings["normals"]["weighting"] == "area"
    levels = settings["levels"]
    assert (levels["max_pixel_error"], levels["min_triangles"], levels["normals"]) == (1.5, 30, "transfer")
    assert levels["levels"][0]["silhouette_weight"] == 2.0
    second = levels["levels"][1]
    assert (second["remesh"], second["edge_length_mm"], second["excluded_parts"]) == (True, 40.0, ["clapper"])
    assert second["switch_distance"] == 9.0
    (state,) = opened["props/14"]["settings"]["levels"]["states"]
    assert state["shared_parts"] == ["foot", "bung*"]


def test_a_decision_of_before_is_undone(opened: dict[str, Any]) -> None:
    assert opened["props/1"]["undo"] == {"label": "Normals: weights", "is_own": True}
    assert opened["undone"]["settings"]["normals"]["weighting"] == "large"
    assert opened["undone"]["settings"]["source"]["excluded_parts"] == []


def test_a_shipment_of_before_is_in_the_ledger(opened: dict[str, Any]) -> None:
    (item,) = opened["shipments/1"]["items"]
    assert item["name"] == "fog_bell"
    assert [finding["severity"] for finding in item["findings"]] == ["warning"]
