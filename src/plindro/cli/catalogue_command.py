"""``plindro lines`` and ``plindro destinations``: what there is."""

from collections.abc import Sequence

import click

from plindro.cli.output import DONE, print_json
from plindro.cli.ways import all_destinations, all_lines, destination_of, line_of
from plindro.core.destinations import Destination
from plindro.core.line import Line, StationLine


def list_lines(as_json: bool, export: str | None, schema: bool) -> int:
    """Print all lines, or one as JSON that ``--line`` reads, or the JSON Schema of such a file."""
    if schema:
        print_json(StationLine.model_json_schema())
        return DONE
    return _list(all_lines(), line_of(export) if export else None, as_json)


def list_destinations(as_json: bool, export: str | None, schema: bool) -> int:
    """Print all destinations, or one as JSON that ``--destination`` reads, or the JSON Schema of such a file."""
    if schema:
        print_json(Destination.model_json_schema())
        return DONE
    return _list(all_destinations(), destination_of(export) if export else None, as_json)


def _list(known: Sequence[Line] | Sequence[Destination], one: Line | Destination | None, as_json: bool) -> int:
    if one is not None:
        print_json(one.model_dump(mode="json", exclude_none=True))
    elif as_json:
        print_json([entry.model_dump(mode="json", exclude_none=True) for entry in known])
    else:
        for entry in known:
            click.echo(f"{entry.name:<14} {entry.title}")
    return DONE
