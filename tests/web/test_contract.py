"""The API's description, the front end's types and its limits agree with the code; ``./plindro types`` renews them."""

import json
import subprocess
from pathlib import Path

from plindro.web.api import api
from plindro.web.bench.schemas import PropDetail
from plindro.web.yard.management.commands.export_limits import limits

UI = Path(__file__).resolve().parents[2] / "ui"


def test_openapi_document_is_current() -> None:
    current = json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))
    assert json.loads((UI / "openapi.json").read_text()) == current


def test_limits_of_fields_are_current() -> None:
    assert json.loads((UI / "src" / "api" / "limits.json").read_text()) == limits()


def test_types_are_made_from_the_document(tmp_path: Path) -> None:
    made = tmp_path / "schema.d.ts"
    command = ["npx", "--no-install", "openapi-typescript", "openapi.json", "-o", str(made)]
    subprocess.run(command, cwd=UI, check=True, capture_output=True, timeout=120)
    assert made.read_text() == (UI / "src" / "api" / "schema.d.ts").read_text()


def test_migrations_are_complete(db) -> None:
    from django.core.management import call_command

    call_command("makemigrations", "--check", "--dry-run", verbosity=0)


def test_the_prop_of_the_front_ends_tests_is_one_that_the_server_tells() -> None:
    told = json.loads((UI / "src" / "testing" / "crate.json").read_text())
    assert PropDetail.model_validate(told).model_dump(mode="json") == told
