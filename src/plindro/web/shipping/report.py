"""The report of a shipment: one page that opens from disk, and the contact sheet beside it."""

import base64
from collections.abc import Mapping, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.template import Context, Engine, Template

from plindro.core.findings import counted, grouped, length, metres
from plindro.core.shipping import totals
from plindro.core.shipping.contact_sheet import Shot, draw_contact_sheet

_TONES = {"shipped": "quiet", "held": "stop", "failed": "stop"}
_ORDER = ("stop", "warning", "info")


@lru_cache(maxsize=1)
def _template() -> Template:
    return Engine(dirs=[str(Path(__file__).parent / "templates")]).get_template("report.html")


def write_report(
    title: str, subtitle: str, records: Sequence[Mapping[str, Any]], pictures: Mapping[str, bytes]
) -> bytes:
    """The report as HTML bytes, everything in it; ``pictures`` are PNG by the props' names."""
    sums = totals([dict(record) for record in records], 0.0)
    context = {
        "title": title,
        "subtitle": subtitle,
        "totals": [
            ("shipped", str(sums["shipped"])),
            ("held back", str(sums["held"])),
            ("failed", str(sums["failed"])),
            ("triangles", grouped(sums["triangles"])),
            ("size", size_words(sums["bytes"])),
        ],
        "waivers": [{"prop": record["name"], **waiver} for record in records for waiver in record.get("waivers", ())],
        "props": [_prop(record, pictures.get(record["name"])) for record in records],
    }
    return _template().render(Context(context)).encode()


def write_contact_sheet(title: str, records: Sequence[Mapping[str, Any]], pictures: Mapping[str, bytes]) -> bytes:
    """The contact sheet as PNG bytes."""
    shots = []
    for record in records:
        levels = record.get("levels", ())
        figures = f"{grouped(levels[0]['triangles'])} to {grouped(levels[-1]['triangles'])} tris" if levels else ""
        is_held = record["status"] != "shipped"
        said = record["status"] if is_held else figures
        shots.append(Shot(record["name"], said, pictures.get(record["name"]), is_held))
    return draw_contact_sheet(title, shots)


def size_words(count: int) -> str:
    """Bytes as they are read."""
    if count < 1024:
        return f"{count} B"
    return f"{count / 1024:.1f} KiB" if count < 1024**2 else f"{count / 1024**2:.1f} MiB"


def _prop(record: Mapping[str, Any], picture: bytes | None) -> dict[str, Any]:
    waived = {waiver["code"]: waiver for waiver in record.get("waivers", ())}
    findings = sorted(record["findings"], key=lambda row: _ORDER.index(row["severity"]))
    return {
        "name": record["name"],
        "status": record["status"],
        "tone": _TONES[record["status"]],
        "about": _about(record),
        "picture": base64.b64encode(picture).decode() if picture else "",
        "levels": [_level(level) for level in record.get("levels", ())],
        "seen": _seen(record.get("rehearsal")),
        "materials": [_material(row) for row in (record.get("rehearsal") or {}).get("materials", ())],
        "findings": [{**row, "waived": waived.get(row["code"])} for row in findings],
        "files": [{**file, "size": size_words(file["bytes"])} for file in record["files"]],
    }


def _about(record: Mapping[str, Any]) -> str:
    line = record.get("line")
    told = [str(record["source"])]
    if record.get("source_sha256"):
        told.append(f"SHA-256 {record['source_sha256'][:16]}…")
    if line:
        told.append(f"line {line['name']}, version {line['version']}")
    return " · ".join(told)


def _level(level: Mapping[str, Any]) -> dict[str, str]:
    return {
        "name": level["name"],
        "triangles": grouped(level["triangles"]),
        "vertices": grouped(level["vertices"]),
        "distance": metres(level["distance"]) if level.get("distance") else "",
        "share": f"{level['screen_size']:.1%}",
        "deviation": length(level["deviation"]) if level["deviation"] else "0",
    }


def _seen(seen: Mapping[str, Any] | None) -> str:
    """What the rehearsal saw, in one sentence."""
    if not seen:
        return ""
    size = " × ".join(length(side) for side in seen["size"])
    lit, proxies = seen["light_map"], counted(len(seen["proxies"]), "collision proxy", "collision proxies")
    return (
        f"Read back: {counted(len(seen['levels']), 'level')}, {size}, {seen['up'].upper()} up, "
        f"tangents {seen['tangents']}, light map on channel {lit['channel']} {lit['state']}, {proxies}."
    )


def _material(row: Mapping[str, Any]) -> dict[str, str]:
    maps = [
        f"{one['slot'].replace('_', ' ')}: {one['path']} ({one['width']} × {one['height']}, {one['format']})"
        if one["state"] == "found"
        else f"{one['slot'].replace('_', ' ')}: {one['path']} {one['state']}"
        for one in row["maps"]
    ]
    return {"name": row["name"], "maps": "; ".join(maps) or "no maps"}
