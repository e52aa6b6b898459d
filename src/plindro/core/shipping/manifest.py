"""The record of a shipment: every prop with its files, levels, findings and figures."""

import json
from collections.abc import Sequence
from typing import Any

from plindro.core.findings import Finding, Severity
from plindro.core.rehearsal import Expected
from plindro.core.shipping.prepare import PrepareResult
from plindro.core.stations.collision import COLLISION
from plindro.core.stations.levels import LEVELS, ChainFacts, StateFacts
from plindro.core.stations.naming import NAMING
from plindro.core.stations.textures import TEXTURES
from plindro.core.waivers import applied

LEVEL_KEYS = frozenset({
    "index", "name", "triangles", "vertices", "materials", "bytes", "screen_size", "distance", "proposed", "deviation",
    "change", "step",
})  # fmt: skip


def prop_record(result: PrepareResult, source: str, *, folder: str = "") -> dict[str, Any]:
    """One prop's entry; paths of its files relative to ``folder``."""
    chain = result.facts.of(LEVELS)
    return {
        "name": result.name,
        "source": source,
        "status": result.status,
        **({"bounds": result.shape.bounds} if result.shape else {}),
        "files": [
            {"path": f"{folder}{file.path}", "bytes": len(file.data), "sha256": file.sha256} for file in result.files
        ],
        "levels": _levels(chain, result.shape),
        **({"textures": textures} if (textures := _textures(result)) else {}),
        **({"collision": collision} if (collision := _collision(result)) else {}),
        **({"states": [_state(state) for state in chain.states]} if chain is not None and chain.states else {}),
        **({"rehearsal": result.seen.model_dump(mode="json")} if result.seen else {}),
        "findings": [finding.as_dict() for finding in result.findings],
        **({"waivers": waivers} if (waivers := applied(result.waivers, result.findings)) else {}),
        "seconds": round(result.seconds, 3),
    }


def _textures(result: PrepareResult) -> list[dict[str, Any]]:
    """The GPU textures, each with the material slots that it fills."""
    facts, names = result.facts.of(TEXTURES), result.facts.of(NAMING)
    named = names.materials if names else {}
    keys = {"path", "codec", "width", "height", "levels", "gpu_bytes", "psnr", "angle_mean", "coverage"}
    return [
        {
            "kind": row.kind,
            "slots": row.slots,
            "materials": [named.get(material, material) for material in row.materials],
            **row.made.model_dump(include=keys),
        }
        for row in (facts.textures if facts else ())
        if row.made is not None
    ]


def _collision(result: PrepareResult) -> dict[str, Any]:
    """The collision proxies under their names, and how they fit."""
    facts, names = result.facts.of(COLLISION), result.facts.of(NAMING)
    if facts is None or names is None or not facts.proxies:
        return {}
    rows = [{"name": name, **row.model_dump()} for name, row in zip(names.proxies, facts.proxies, strict=True)]
    return {"proxies": rows, **facts.model_dump(exclude={"proxies"})}


def _levels(chain: ChainFacts | None, shape: Expected | None = None) -> list[dict[str, Any]]:
    rows = [level.model_dump(mode="json", include=set(LEVEL_KEYS)) for level in chain.levels] if chain else []
    for row, parts in zip(rows, shape.parts if shape else (), strict=False):
        if parts:
            row["parts"] = list(parts)
    return rows


def _state(state: StateFacts) -> dict[str, Any]:
    return {**state.model_dump(mode="json", include={"name", "prop", "fallen_back"}), "levels": _levels(state)}


def failed_record(name: str, source: str, message: str, seconds: float) -> dict[str, Any]:
    """The entry of a source that could not be used."""
    finding = Finding("source-unreadable", Severity.STOP, message, station="source")
    return _without_files(name, source, "failed", finding, seconds)


def held_record(name: str, source: str, finding: Finding, seconds: float) -> dict[str, Any]:
    """The entry of a prop that the shipment itself holds back."""
    return _without_files(name, source, "held", finding, seconds)


def _without_files(name: str, source: str, status: str, finding: Finding, seconds: float) -> dict[str, Any]:
    return {
        "name": name, "source": source, "status": status, "files": [], "levels": [], "findings": [finding.as_dict()],
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
        # A texture that several props use is written once.
        "bytes": sum({file["path"]: file["bytes"] for record in shipped for file in record["files"]}.values()),
        "seconds": round(seconds, 3),
    }


def manifest_json(records: Sequence[dict[str, Any]], destination: str, version: int = 0) -> bytes:
    """The manifest that travels with a shipment: no times, so that the same props give the same bytes.

    ``version`` is the destination's in the house, 0 as it came with the product.
    """
    props = [{key: value for key, value in record.items() if key != "seconds"} for record in records]
    total = {key: value for key, value in totals(records, 0.0).items() if key != "seconds"}
    head = {"destination": destination, "destination_version": version}
    # A line a prop: quick to write, and what changed shows in a comparison of two.
    rows = ",\n".join(json.dumps(prop, ensure_ascii=False) for prop in props)
    start = json.dumps(head, ensure_ascii=False)[:-1]
    return f'{start}, "props": [\n{rows}\n], "totals": {json.dumps(total)}}}\n'.encode()
