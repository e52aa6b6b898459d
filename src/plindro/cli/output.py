"""What commands share: exit statuses, reading inputs, printing findings."""

import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import click

from plindro.core.errors import UnreadableFile
from plindro.core.findings import Finding, grouped

__all__ = ["DONE", "HELD", "INPUT_UNUSABLE", "grouped", "print_findings", "print_json", "read_bytes"]

DONE, HELD, INPUT_UNUSABLE = 0, 1, 2

_SIGNS = {"stop": "stop    ▮", "warning": "warning ◆", "info": "info    ·"}


def read_bytes(path: str | Path) -> bytes:
    """The bytes of an input; raises ``UnreadableFile`` with one sentence."""
    file = Path(path)
    if file.is_dir():
        raise UnreadableFile(f"{path}: is a folder; give a file")
    try:
        return file.read_bytes()
    except FileNotFoundError as error:
        raise UnreadableFile(f"{path}: there is no such file") from error
    except OSError as error:
        raise UnreadableFile(f"{path}: cannot be read ({error.strerror})") from error


def print_json(document: Any) -> None:
    """The one JSON document on stdout."""
    click.echo(json.dumps(document, indent=2, ensure_ascii=False))


def print_findings(findings: Iterable[Finding | dict[str, Any]]) -> None:
    """Findings, the severest first."""
    rows = [f.as_dict() if isinstance(f, Finding) else f for f in findings]
    for row in sorted(rows, key=lambda r: list(_SIGNS).index(r["severity"])):
        click.echo(f"  {_SIGNS[row['severity']]} {row['code']}: {row['message']}")
