"""``plindro build``: many sources through one line into one folder."""

import hashlib
import os
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import Future, as_completed
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import click

from plindro.cli.build_report import PICTURE_SIZE, read_waivers, write_beside
from plindro.cli.output import DONE, HELD, INPUT_UNUSABLE, grouped, print_findings, print_json
from plindro.cli.reading import read_source
from plindro.cli.ways import destination_of, destination_version, line_of, line_version
from plindro.core.destinations import Destination
from plindro.core.errors import InvalidSettings, PlindroError
from plindro.core.executors import WorkStopped, make_executor, result_of, worker_count
from plindro.core.files import FolderFiles
from plindro.core.findings import Finding, Severity, length
from plindro.core.line import Line, override
from plindro.core.names import unique_names
from plindro.core.scene import Scene
from plindro.core.shipping import (
    Owners,
    TextureFolder,
    failed_record,
    find_clash,
    held_record,
    owners_of,
    prepare_scene,
    prop_record,
    totals,
    write_whole,
)
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.naming import NAMING, house_name, names_of
from plindro.core.stations.source import SOURCE, choose, plan_props
from plindro.core.viewing.picture import render_picture
from plindro.core.waivers import Waiver


@dataclass(frozen=True, slots=True)
class _Order:
    """One prop to build: its source, which of the source's props it is, and the name it ships under."""

    source: str
    prop: str | None
    name: str
    renamed_from: str | None


@dataclass(frozen=True, slots=True)
class _Target:
    """Where all props of a run go; ``owners`` are those that may write a file of a name, ``waivers`` what holds nobody
    back; ``draws`` a picture of each for the report."""

    line: Line
    destination: Destination
    folder: Path
    owners: Owners
    waivers: tuple[Waiver, ...]
    draws: bool


@dataclass(frozen=True, slots=True)
class _Batch:
    """Props of one source, built by one worker that reads the source once; ``numbers`` are their rows in the report."""

    numbers: tuple[int, ...]
    orders: tuple[_Order, ...]


def build_files(
    inputs: tuple[str, ...],
    out: str,
    line: str,
    destination: str,
    split: str | None,
    workers: int | None,
    scheduler: str | None,
    waive: tuple[str, ...],
    by: str | None,
    report: bool,
    as_json: bool,
) -> int:
    """Build every prop of every input; a bad one is reported and the others go on.

    Exit status 0 where all shipped, 1 where something was held or some inputs failed, 2 where nothing could be used.
    """
    started = time.perf_counter()
    chosen, profile = line_of(line), destination_of(destination)
    waivers = read_waivers(waive, by)
    if split is not None:
        chosen = override(chosen, {"source": {"split": split}})
    folder = Path(out)
    check_folder(folder)
    orders = _orders(inputs, chosen)
    owners = owners_of(_files_of(orders, chosen, profile))
    target = _Target(chosen, profile, folder, owners, waivers, draws=report)
    records: list[dict[str, Any]] = [{}] * len(orders)
    pictures: dict[str, bytes] = {}
    with click.progressbar(length=len(orders), label="building", file=sys.stderr, hidden=len(orders) == 1) as bar:
        for index, record in _run(orders, target, workers, scheduler):
            pictures[record["name"]] = record.pop("picture", b"")
            records[index] = record
            bar.label = record["name"][:24].ljust(24)
            bar.update(1)
    for message in dict.fromkeys(r["findings"][0]["message"] for r in records if r["status"] == "failed"):
        click.echo(f"plindro: {message}", err=True)
    if report:
        write_beside(folder, profile, destination_version(profile.name), records, pictures)
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


def check_folder(folder: Path) -> None:
    """Say before any work where files cannot be written to a folder; raises ``InvalidSettings``."""
    if folder.exists() and not folder.is_dir():
        raise InvalidSettings(f"{folder}: is a file; --out needs a folder")
    above = next(path for path in (folder, *folder.absolute().parents) if path.exists())
    try:
        with tempfile.TemporaryFile(dir=above):
            pass
    except OSError as error:
        raise InvalidSettings(f"{folder}: cannot be written ({error.strerror}); choose another folder") from error


def _orders(inputs: tuple[str, ...], line: Line) -> list[_Order]:
    """Every prop of every input, with names that are never the same."""
    found: list[tuple[str, str | None, str]] = []
    for source in inputs:
        found += [(source, key, name) for key, name in _props_of(source, line)]
    naming = line.of(NAMING)
    wanted = [house_name(naming.name or name, naming) for _, _, name in found]
    return [
        _Order(source, key, name, None if name == want else want)
        for (source, key, _), want, name in zip(found, wanted, unique_names(wanted), strict=True)
    ]


def _props_of(source: str, line: Line) -> list[tuple[str | None, str]]:
    """(key, name) of the props that a source gives; a file that is not split need not be read for that."""
    stem = Path(source).stem
    settings = line.of(SOURCE)
    if settings.split == "file":
        return [(None, stem)]
    try:
        scene = read_source(source)
    except (PlindroError, OSError):
        return [(None, stem)]
    ships = [choice.ships for choice in choose(scene.parts, settings)]
    plans = plan_props(scene.parts, ships, settings, scene.name)
    return [(plan.key, plan.name) for plan in plans] or [(None, stem)]


def _files_of(orders: list[_Order], line: Line, destination: Destination) -> Iterator[tuple[str, list[str]]]:
    """The files that each prop may write, those of its states included."""
    naming = line.of(NAMING)
    states = [(state.name, 0) for state in line.of(LEVELS).states]
    for order in orders:
        own = naming.model_copy(update={"name": order.name})
        names = names_of(order.name, own, destination, 0, states)
        yield order.name, [path for name in names for path in name.files]


def _run(
    orders: list[_Order], target: _Target, workers: int | None, scheduler: str | None
) -> Iterator[tuple[int, dict[str, Any]]]:
    """Yield (index, record) as props are done; one prop alone is built right here."""
    if scheduler is None and (workers == 1 or len(orders) == 1):
        for batch in _batches(orders, 1):
            for order, scene in _with_scenes(batch):
                yield batch.numbers[batch.orders.index(order)], build_one(order, scene, target)
        return
    batches = _batches(orders, workers or worker_count())
    with make_executor(min(workers, len(batches)) if workers else None, scheduler) as executor:
        futures: dict[Future[list[dict[str, Any]]], _Batch] = {
            executor.submit(build_batch, batch, target): batch for batch in batches
        }
        try:
            for future in as_completed(futures):
                batch = futures[future]
                try:
                    records = result_of(future)
                except WorkStopped as error:
                    records = [failed_record(o.name, o.source, f"{o.source}: {error}", 0.0) for o in batch.orders]
                yield from zip(batch.numbers, records, strict=True)
        except BaseException:
            executor.shutdown(wait=False, cancel_futures=True)
            raise


def _batches(orders: list[_Order], workers: int) -> list[_Batch]:
    """Props of one source together, so that it is read once; the many props of a single source are shared out."""
    by_source: dict[str, list[int]] = {}
    for i, order in enumerate(orders):
        by_source.setdefault(order.source, []).append(i)
    shares = max(1, workers // len(by_source))
    batches = []
    for numbers in by_source.values():
        for k in range(min(shares, len(numbers))):
            own = tuple(numbers[k::shares])
            batches.append(_Batch(own, tuple(orders[i] for i in own)))
    return batches


def _with_scenes(batch: _Batch) -> Iterator[tuple[_Order, Scene | PlindroError | OSError]]:
    """Each order with its source as read once, or with what kept it from being read."""
    found: Scene | PlindroError | OSError
    try:
        found = read_source(batch.orders[0].source)
    except (PlindroError, OSError) as error:
        found = error
    for order in batch.orders:
        yield order, found


def _textures() -> TextureFolder:
    """Where made textures are kept between builds: with everything of this installation, else of the user."""
    home = os.environ.get("PLINDRO_HOME")
    if home:
        return TextureFolder(Path(home) / "files" / "textures")
    return TextureFolder(Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "plindro" / "textures")


def build_batch(batch: _Batch, target: _Target) -> list[dict[str, Any]]:
    """Build the props of a batch; their records in the same order."""
    return [build_one(order, scene, target) for order, scene in _with_scenes(batch)]


def _about(source: str, line: str) -> dict[str, Any]:
    """What a record says of its source and its line."""
    return {
        "source_sha256": hashlib.sha256(Path(source).read_bytes()).hexdigest(),
        "line": {"name": line, "version": line_version(line)},
    }


def build_one(order: _Order, scene: Scene | PlindroError | OSError, target: _Target) -> dict[str, Any]:
    """Build one prop and write its files; its record says what became of it."""
    started = time.perf_counter()
    folder = target.folder
    own = target.line.with_settings(NAMING, name=order.name).with_settings(SOURCE, prop=order.prop)
    try:
        if isinstance(scene, PlindroError | OSError):
            raise scene
        beside = FolderFiles(Path(order.source).parent)
        result = prepare_scene(
            scene, own, target.destination, side_files=beside, textures=_textures(), waivers=target.waivers,
            tries_codecs=False,
        )  # fmt: skip
        own_files = names_of(order.name, own.of(NAMING), target.destination, 0)[0].files
        # Only a state can take another prop's name: the props' own are never the same.
        clash = find_clash(order.name, (f.path for f in result.files if f.path not in own_files), target.owners)
        if clash is not None:
            return held_record(order.name, order.source, clash, time.perf_counter() - started)
        record = prop_record(result, order.source) | _about(order.source, target.line.name)
        if target.draws:
            record["picture"] = render_picture(result.built.prop, PICTURE_SIZE)
        for file in result.files:
            write_whole(folder / file.path, file.data)
    except PlindroError as error:
        return failed_record(order.name, order.source, str(error), time.perf_counter() - started)
    except OSError as error:
        message = f"{error.filename or folder}: cannot be written ({error.strerror}); choose another folder"
        return failed_record(order.name, order.source, message, time.perf_counter() - started)
    if order.renamed_from:
        text = f"another prop is named '{order.renamed_from}' too; this one ships as '{order.name}'"
        record["findings"].append(Finding("name-taken", Severity.WARNING, text, station=NAMING.name).as_dict())
    return record


def _print(record: dict[str, Any]) -> None:
    click.echo(f"{record['name']}  {record['status']}  {record['seconds']:.2f} s  {record['source']}")
    for level in record["levels"]:
        counts = f"{grouped(level['triangles'])} triangles, {grouped(level['vertices'])} engine vertices"
        click.echo(f"  {level['name']:<28} {counts}, deviation {length(level['deviation'])}")
    for file in record["files"]:
        click.echo(f"  → {file['path']}  {grouped(file['bytes'])} bytes")
    if record["status"] != "failed":
        print_findings(record["findings"])
