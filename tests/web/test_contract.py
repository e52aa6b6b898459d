"""The API's description and the front end's types agree with the code.

After a change of the API: ``manage.py export_openapi > ui/openapi.json`` and ``npm run types`` in ``ui``.
"""

import json
import subprocess
from pathlib import Path

from plindro.web.api import api

UI = Path(__file__).resolve().parents[2] / "ui"


def test_openapi_document_is_current() -> None:
    current = json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))
    assert json.loads((UI / "openapi.json").read_text()) == current


def test_types_are_made_from_the_document(tmp_path: Path) -> None:
    made = tmp_path / "schema.d.ts"
    command = ["npx", "--no-install", "openapi-typescript", "openapi.json", "-o", str(made)]
    subprocess.run(command, cwd=UI, check=True, capture_output=True, timeout=120)
    assert made.read_text() == (UI / "src" / "api" / "schema.d.ts").read_text()


def test_migrations_are_complete(db) -> None:
    from django.core.management import call_command

    call_command("makemigrations", "--check", "--dry-run", verbosity=0)
