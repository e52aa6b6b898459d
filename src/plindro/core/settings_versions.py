"""Versions of saved settings: those of an earlier one are brought up to date when they are read.

A step is frozen once its version is out: what it renames is what that version called it.
"""

from collections.abc import Callable
from typing import Any

CURRENT = 2
SETTINGS: dict[str, dict[str, str]] = {
    "source": {
        "only": "include",
        "leave_out": "exclude",
        "hidden": "include_hidden",
        "out": "excluded_parts",
        "kept": "included_parts",
        "letters": "letter_materials",
    },
    "placement": {
        "turn": "yaw",
        "usual_m": "expected_size_m",
        "on": "snap_to",
        "keep_place": "keep_position",
    },
    "cleanup": {
        "values": "non_finite",
        "doubles": "unwelded",
        "no_surface": "zero_area",
        "needles": "slivers",
        "needle_share": "sliver_ratio",
        "junctions": "t_vertices",
        "junction_mm": "t_vertex_mm",
        "crowded": "non_manifold_edges",
        "pinched": "non_manifold_vertices",
        "strays": "small_shells",
        "stray_share": "small_shell_ratio",
        "plane_share": "planarity_ratio",
        "turned": "flipped",
    },
    "triangulation": {
        "turned": "flipped_diagonals",
    },
    "normals": {
        "weights": "weighting",
        "large_share": "large_face_ratio",
        "strength": "large_face_strength",
        "computed": "recomputed_parts",
    },
    "levels": {
        "first": "lod0",
        "lowest": "min_triangles",
        "switch_pixels": "max_pixel_error",
        "view_angle": "vertical_fov",
        "bias": "switch_bias",
        "last_pixels": "cull_pixels",
        "last_distance": "cull_distance",
        "smooth_angle": "hard_angle",
        "silhouette": "silhouette_weight",
        "curved": "curvature_weight",
    },
}
TARGET = {
    "even": "remesh",
    "edge_mm": "edge_length_mm",
    "silhouette": "silhouette_weight",
    "curved": "curvature_weight",
    "drop": "excluded_parts",
    "drop_pixels": "exclude_below_px",
    "from_distance": "switch_distance",
}
"""Settings of one level."""
STATE = {
    "keeps": "shared_parts",
}
NORMALS = {"kept": "keep", "rule": "recompute", "carried": "transfer"}


def _renamed(values: dict[str, Any], names: dict[str, str]) -> dict[str, Any]:
    return {names.get(key, key): value for key, value in values.items()}


def _target(values: dict[str, Any] | None) -> dict[str, Any] | None:
    if values is None:
        return None
    target = _renamed(values, TARGET)
    if target.get("normals") is not None:
        target["normals"] = NORMALS.get(target["normals"], target["normals"])
    return target


def _second(stations: dict[str, Any]) -> dict[str, Any]:
    """Settings by station in the words of version 2."""
    result = {}
    for station, values in stations.items():
        if not isinstance(values, dict) or station not in SETTINGS:
            result[station] = values
            continue
        own = _renamed(values, SETTINGS[station])
        if station == "levels":
            if "levels" in own:
                own["levels"] = [_target(target) for target in own["levels"]]
            if own.get("lod0") is not None:
                own["lod0"] = _target(own["lod0"])
            if "normals" in own:
                own["normals"] = NORMALS.get(own["normals"], own["normals"])
            if "states" in own:
                own["states"] = [_state(state) for state in own["states"]]
        result[station] = own
    return result


def _state(values: dict[str, Any]) -> dict[str, Any]:
    state = _renamed(values, STATE)
    if state.get("levels") is not None:
        state["levels"] = [_target(target) for target in state["levels"]]
    return state


_STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _second}
"""What leads from a version to the next."""


def brought_up(stations: dict[str, Any], version: int, to: int = CURRENT) -> dict[str, Any]:
    """Settings by station, of a prop or a whole line, as the version ``to`` has them."""
    for step in range(version, to):
        stations = _STEPS[step](stations)
    return stations
