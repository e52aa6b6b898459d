"""The record of a shipment: every prop with its files, levels, findings and figures."""

import json
from collections.abc import Sequence
from typing import Any

from plindro.core.shipping.prepare import PrepareResult

LEVEL_KEYS = (
    "index", "name", "triangles", "vertices", "materials", "bytes", "screen_size", "distance", "proposed", "deviation",
    "change", "step",
)  # fmt: skip


def prop_record(result: PrepareResult, source: str, *, folder: str = "") -> dict[str, Any]:
    """One prop's entry; paths of its files relative to ``folder``."""
    return {
        "name": result.name,
        "source": source,
        "status": result.status,
        "files": [
            {"path": f"{folder}{file.path}", "bytes": len(file.data), "sha256": file.sha256} for file in result.files
        ],
        "levels": _levels(result.facts),
        **({"states": [_state(state) for state in states]} if (states := result.facts.get("states")) else {}),
        "findings": [finding.as_dict() for finding in result.findings],
        "seconds": round(result.seconds, 3),
    }


def _levels(facts: dict[str, Any]) -> list[dict[str, Any]]:
    return [{key: level[key] for key in LEVEL_KEYS} for level in facts.get("levels", [])]


def _state(state: dict[str, Any]) -> dict[str, Any]:
    return {key: state[key] for key in ("name", "prop", "fallen_back")} | {"levels": _levels(state)}


def failed_record(name: str, source: str, message: str, seconds: float) -> dict[str, Any]:
    """The entry of a source that could not be used."""
    finding = {
        "code": "source-unreadable",
        "severity": "stop",
        "message": message,
        "count": 1,
        "level": None,
        "part": None,
    }
    return {
        "name": name, "source": source, "status": "failed", "files": [], "levels": [], "findings": [finding],
        "seconds": round(seconds, 3),
    }  # fmt: skip


def totals(records: Sequence[dict[str, Any]], seconds: float) -> dict[str, Any]:
    """Sums over the entries; triangles and bytes of what shipped."""
    shipped = [record for record in records if record["status"] == "shipped"]
    return {
        "shipped": len(shipped),
        "held": sum(record["status"] == "held" for record in records),
        "failed": sum(record["status"] == "failed" for record in records),
        "triangles": sum(
            level["triangles"]
            for record in shipped
            for chain in (record, *record.get("states", ()))
            for level in chain["levels"]
        ),
        "bytes": sum(file["bytes"] for record in shipped for file in record["files"]),
        "seconds": round(seconds, 3),
    }


def manifest_json(records: Sequence[dict[str, Any]], destination: str) -> bytes:
    """The manifest that travels with a shipment: no times, so that the same props give the same bytes."""
    props = [{key: value for key, value in record.items() if key != "seconds"} for record in records]
    total = {key: value for key, value in totals(records, 0.0).items() if key != "seconds"}
    text = json.dumps({"destination": destination, "props": props, "totals": total}, indent=2, ensure_ascii=False)
    return (text + "\n").encode()
