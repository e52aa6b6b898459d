"""Data of the first version in the words of the second: codes of findings, facts; settings are the core's to know.

Frozen with the migrations that use it; what the program itself says may change on.
"""

from typing import Any

from plindro.core.settings_versions import NORMALS, brought_up

CODES = {
    "edges-crowded": "non-manifold-edges",
    "vertices-pinched": "non-manifold-vertices",
    "doubles": "unwelded-vertices",
    "faces-without-area": "zero-area-faces",
    "triangles-without-area": "zero-area-triangles",
    "degenerate-triangles": "zero-area-triangles",
    "needle-faces": "slivers",
    "t-junctions": "t-vertices",
    "faces-flipped": "inconsistent-winding",
    "shells-inside-out": "inside-out-shells",
    "shells-one-sided": "non-orientable-shells",
    "stray-shells": "small-shells",
    "holes": "open-boundaries",
    "polygons-not-planar": "non-planar-polygons",
    "polygons-cross-themselves": "self-intersecting-polygons",
    "opposite-faces": "back-to-back-faces",
    "overlapping-backs": "back-to-back-overlaps",
    "overlaps-not-all-searched": "overlap-search-incomplete",
    "positions-not-finite": "non-finite-positions",
    "uvs-not-finite": "non-finite-uvs",
    "normals-not-valid": "invalid-normals",
    "collapsed-faces-dropped": "degenerate-faces-removed",
    "parts-left-out": "parts-excluded",
    "choice-unfitting": "choice-lost",
    "mark-unfitting": "mark-lost",
    "faces-left-out": "faces-removed",
    "first-reduced": "lod0-reduced",
    "level-left-out": "level-skipped",
    "level-far-off": "level-deviates",
    "level-not-reached": "target-not-reached",
    "hard-edges-given-up": "hard-edges-released",
    "seams-given-up": "seams-released",
    "even-not-mirrored": "remesh-not-mirrored",
    "by-hand-materials": "hand-made-materials",
    "by-hand-off-place": "hand-made-pivot",
    "by-hand-other-size": "hand-made-size",
    "by-hand-other-outline": "hand-made-silhouette",
    "by-hand-uvs": "hand-made-uvs",
    "faces-turned-by-hand": "faces-flipped-by-hand",
    "pivot-off": "pivot-off-base",
    "size-unlikely": "unusual-size",
    "texture-size-odd": "non-power-of-two-texture",
    "roots-many": "several-roots",
    "counts-not-falling": "triangles-not-decreasing",
    "winding-opposed": "winding-against-normals",
    "checked-again": "checked-after-repair",
}
def finding_of(finding: dict[str, Any]) -> dict[str, Any]:
    """A finding, kept as it was but for its code and severity."""
    severity = "warning" if finding["severity"] == "watch" else finding["severity"]
    return {**finding, "code": CODES.get(finding["code"], finding["code"]), "severity": severity, "station": None}


def record_of(record: dict[str, Any]) -> dict[str, Any]:
    """An entry of a manifest."""
    if "findings" not in record:
        return record
    return {**record, "findings": [finding_of(finding) for finding in record["findings"]]}


def decided_of(decided: dict[str, Any]) -> dict[str, Any]:
    """What a decision says of a prop."""
    return {**decided, "overrides": brought_up(decided["overrides"], 1, to=2)} if "overrides" in decided else decided


def facts_of(flat: dict[str, Any]) -> dict[str, Any]:
    """Facts by station, from those of all stations side by side; raises ``KeyError`` where one is not there."""
    stations: dict[str, Any] = {"source": _source(flat)}
    if "placement" in flat:
        stations["placement"] = {**flat["placement"], "size": flat["size"], "bounds": flat["bounds"]}
    if "cleanup" in flat:
        stations["cleanup"] = {
            **flat["cleanup"],
            **{key: [_fault(*pair) for pair in flat["cleanup"][key]] for key in ("repaired", "left")},
        }
    if "overruled_quads" in flat:
        stations["triangulation"] = {
            "sides": flat["sides"],
            "triangles": flat["triangles"],
            "overruled_quads": flat["overruled_quads"],
            "turned": flat["turned"],
            "engine": flat.get("engine_cut"),
        }
    if "normals" in flat:
        stations["normals"] = _normals(flat)
    if "levels" in flat:
        stations["levels"] = {
            **_chain(flat),
            "lod0": flat.get("first"),
            "states": [
                {**_chain(state), "name": state["name"], "prop": state["prop"], "fallen_back": state["fallen_back"]}
                for state in flat.get("states", [])
            ],
        }
    return stations


def _fault(code: str, count: int) -> dict[str, Any]:
    return {"code": CODES.get(code, code), "count": count}


def _chain(flat: dict[str, Any]) -> dict[str, Any]:
    levels = [
        {**level, "normals": NORMALS.get(level.get("normals", ""), level.get("normals", ""))}
        for level in flat["levels"]
    ]
    return {"levels": levels, "cull_distance": flat["last_distance"], "radius": flat["radius"]}


def _source(flat: dict[str, Any]) -> dict[str, Any]:
    same = (
        "format", "unused", "parts", "bystanders", "plan", "own", "polygons", "triangles", "points", "engine_vertices",
        "sides", "size", "uv_channels", "has_normals", "has_colors", "materials", "textures",
    )  # fmt: skip
    placed = flat.get("placement", {})
    return {**{key: flat[key] for key in same}, "unit": placed.get("unit", 1.0), "up": placed.get("up", "y"),
            "says_unit": False}  # fmt: skip


def _normals(flat: dict[str, Any]) -> dict[str, Any]:
    words = flat["normals"]
    rule = "imported" if words.startswith("imported") else "groups" if words.startswith("smoothing") else "angle"
    return {
        "rule": rule,
        "angle": None,
        "computed": sum(part["computed"] for part in flat["normal_parts"]),
        "has_marks": words.endswith("and marks"),
        "words": words,
        "parts": flat["normal_parts"],
        "marks": flat["normal_marks"],
        "edge_angles": flat["edge_angles"],
        "cost": [{"angle": angle, "vertices": vertices} for angle, vertices in flat["normal_cost"]],
        "hard_edges": flat["hard_edges"],
        "hard_cost": flat["hard_cost"],
    }
