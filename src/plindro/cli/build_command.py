"""``plindro build``: many sources through one line into one folder."""

import sys
import time
from collections.abc import Iterator
from concurrent.futures import Future, as_completed
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import click

from plindro.cli.output import DONE, HELD, INPUT_UNUSABLE, grouped, print_findings, print_json, read_bytes
from plindro.core.destinations import Destination, get_destination
from plindro.core.errors import InvalidSettings, PlindroError
from plindro.core.executors import make_executor
from plindro.core.files import FolderFiles
from plindro.core.findings import Finding, Severity
from plindro.core.line import Line, get_line
from plindro.core.naming import clean_name, unique_names
from plindro.core.shipping import failed_record, prepare, prop_record, totals, write_whole


@dataclass(frozen=True, slots=True)
class _Order:
    """One source to build, and the name it ships under."""

    source: str
    name: str
    renamed_from: str | None


def build_files(
    inputs: tuple[str, ...],
    out: str,
    line: str,
    destination: str,
    split: str,
    workers: int | None,
    scheduler: str | None,
    as_json: bool,
) -> int:
    """Build every input; a bad one is reported and the others go on.

    Exit status 0 where all shipped, 1 where something was held or some inputs failed, 2 where nothing could be used.
    """
    started = time.perf_counter()
    chosen, profile = get_line(line), get_destination(destination)
    folder = Path(out)
    if folder.exists() and not folder.is_dir():
        raise InvalidSettings(f"{out}: is a file; --out needs a folder")
    orders = _orders(inputs, chosen)
    records: list[dict[str, Any]] = [{}] * len(orders)
    with click.progressbar(length=len(orders), label="building", file=sys.stderr, hidden=len(orders) == 1) as bar:
        for index, record in _run(orders, chosen, profile, folder, workers, scheduler):
            records[index] = record
            bar.label = record["name"][:24].ljust(24)
            bar.update(1)
    for record in records:
        if record["status"] == "failed":
            click.echo(f"plindro: {record['findings'][0]['message']}", err=True)
    total = totals(records, time.perf_counter() - started)
    if as_json:
        print_json({"props": records, "totals": total})
    else:
        for record in records:
            _print(record)
        click.echo(
            f"{total['shipped']} shipped, {total['held']} held, {total['failed']} failed · "
            f"{grouped(total['triangles'])} triangles, {grouped(total['bytes'])} bytes in {total['seconds']:.1f} s"
        )
    if total["failed"] == len(records):
        return INPUT_UNUSABLE
    return HELD if total["held"] or total["failed"] else DONE


def _orders(inputs: tuple[str, ...], line: Line) -> list[_Order]:
    """Inputs with names that are never the same."""
    wanted = [clean_name(line.naming.name or Path(source).stem) for source in inputs]
    return [
        _Order(source, name, None if name == want else want)
        for source, want, name in zip(inputs, wanted, unique_names(wanted), strict=True)
    ]


def _run(
    orders: list[_Order], line: Line, profile: Destination, folder: Path, workers: int | None, scheduler: str | None
) -> Iterator[tuple[int, dict[str, Any]]]:
    """Yield (index, record) as props are done; one prop alone is built right here."""
    if scheduler is None and (workers == 1 or len(orders) == 1):
        for index, order in enumerate(orders):
            yield index, build_one(order, line, profile, folder)
        return
    with make_executor(min(workers or 64, len(orders)) if workers else None, scheduler) as executor:
        futures: dict[Future[dict[str, Any]], int] = {
            executor.submit(build_one, order, line, profile, folder): i for i, order in enumerate(orders)
        }
        try:
            for future in as_completed(futures):
                yield futures[future], future.result()
        except BaseException:
            executor.shutdown(wait=False, cancel_futures=True)
            raise


def build_one(order: _Order, line: Line, destination: Destination, folder: Path) -> dict[str, Any]:
    """Build one source and write its files; its record says what became of it."""
    started = time.perf_counter()
    path = Path(order.source)
    named = line.model_copy(update={"naming": line.naming.model_copy(update={"name": order.name})})
    try:
        data = read_bytes(path)
        result = prepare(data, path.name, FolderFiles(path.parent), named, destination)
        record = prop_record(result, order.source)
        for file in result.files:
            write_whole(folder / file.path, file.data)
    except PlindroError as error:
        return failed_record(order.name, order.source, str(error), time.perf_counter() - started)
    except OSError as error:
        message = f"{error.filename or folder}: cannot be written ({error.strerror}); choose another folder"
        return failed_record(order.name, order.source, message, time.perf_counter() - started)
    if order.renamed_from:
        text = f"another source is named '{order.renamed_from}' too; this one ships as '{order.name}'"
        record["findings"].append(Finding("name-taken", Severity.WATCH, text).as_dict())
    return record


def _print(record: dict[str, Any]) -> None:
    click.echo(f"{record['name']}  {record['status']}  {record['seconds']:.2f} s  {record['source']}")
    for level in record["levels"]:
        counts = f"{grouped(level['triangles'])} triangles, {grouped(level['vertices'])} engine vertices"
        click.echo(f"  {level['name']:<28} {counts}, {1000 * level['deviation']:.2f} mm off")
    for file in record["files"]:
        click.echo(f"  → {file['path']}  {grouped(file['bytes'])} bytes")
    if record["status"] != "failed":
        print_findings(record["findings"])
