"""The station: metres, Y up, the pivot at the origin or the prop at its place in the scene."""

import math
from dataclasses import replace

import numpy as np

from plindro.core.findings import Finding, Places, Severity, length
from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Y_UP
from plindro.core.stations.placement.facts import PlacementFacts, ScaleGuess
from plindro.core.stations.placement.pivots import (
    HELD_PLACE,
    Bounds,
    centre_of_mass,
    fits,
    nearest_feature,
    pivot_of_kind,
)
from plindro.core.stations.placement.settings import METRES, PlacementSettings

FACTORS = (0.1, 10.0, 1 / 39.37, 39.37, 0.01, 100.0, 0.001, 1000.0)
"""Scales by which files go wrong: decimetres, inches, centimetres, millimetres, and their opposites."""
KINDS = ("stands", "hangs", "hinges", "held", "grid")
_WORDS = {
    "stands": "at the base",
    "hangs": "at the top",
    "hinges": "on a side of the bounds",
    "held": "within the bounds",
    "grid": "at a corner of the bounds",
}


def run(prop: Prop, settings: PlacementSettings, report: Report, beside: Prop | None = None) -> Prop:
    """The prop in metres, Y up, with its pivot where it should be, or where the prop ``beside`` it has its own."""
    report.step(0.0, "placing")
    rotation = _turn(settings.yaw) @ Y_UP[prop.up if settings.up == "file" else settings.up]
    factor = settings.scale * (prop.unit if settings.unit == "file" else METRES[settings.unit])
    mesh = _placed(prop.mesh, rotation, factor)
    bounds = Bounds(*mesh.bounds())
    pivot = _pivot(prop, mesh, bounds, settings, rotation * factor, report)
    _report_size(bounds, settings, report)
    matrix = np.eye(4)
    matrix[:3, :3] = rotation * factor
    if beside is None:
        moved = replace(mesh, positions=mesh.positions - pivot) if pivot.any() else mesh
        matrix[:3, 3] = -pivot
        stands = _triple(pivot) if settings.keep_position else (0.0, 0.0, 0.0)
    else:
        offset = np.array(beside.from_source).reshape(4, 4)[:3, 3]
        moved = replace(mesh, positions=mesh.positions + offset)
        matrix[:3, 3], pivot, stands = offset, -offset, beside.place
    low, high = moved.bounds()
    report.state(
        PlacementFacts(
            size=_triple(high - low),
            bounds=(_triple(low), _triple(high)),
            unit=prop.unit if settings.unit == "file" else METRES[settings.unit],
            up=prop.up if settings.up == "file" else settings.up,
            factor=factor,
            pivot=_triple(pivot),
            mass=_triple(centre_of_mass(mesh) - pivot),
            matrix=matrix.reshape(-1).tolist(),
            guesses=guesses(float(bounds.size.max()), settings.expected_size_m),
            usual=settings.expected_size_m,
        )
    )
    report.step(1.0, "placing")
    return replace(prop, mesh=moved, unit=1.0, up="y", place=stands, from_source=tuple(matrix.reshape(-1).tolist()))


def _triple(vector: F64) -> tuple[float, float, float]:
    x, y, z = vector.tolist()
    return x, y, z


def guesses(longest: float, usual: tuple[float, float]) -> list[ScaleGuess]:
    """Scale factors that bring a longest side into the usual range, the likeliest first; none where it lies in it."""
    low, high = usual
    # As it is read, in three digits: "50 mm, usual are 50 mm to 30 m" would say nothing.
    if longest <= 0 or low <= float(f"{longest:.3g}") <= high:
        return []
    middle = math.log(low * high) / 2
    fitting = [f for f in FACTORS if low <= longest * f <= high]
    fitting.sort(key=lambda f: abs(math.log(longest * f) - middle))
    return [ScaleGuess(factor=round(f, 6), longest=longest * f) for f in fitting]


def _turn(degrees: float) -> F64:
    """Rotation about Y; exact at right angles."""
    quarter = degrees / 90.0
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    if quarter == round(quarter):
        c, s = float(round(c)), float(round(s))
    return np.array([[c, 0.0, s], [0.0, 1.0, 0.0], [-s, 0.0, c]])


def _placed(mesh: Mesh, rotation: F64, factor: float) -> Mesh:
    """The mesh turned and scaled; the very same where that changes nothing."""
    is_turned = not np.array_equal(rotation, np.eye(3))
    if not is_turned and factor == 1.0:
        return mesh
    normals = mesh.normals
    if normals is not None and is_turned:
        normals = (normals.astype(np.float64) @ rotation.T).astype(np.float32)
    return replace(
        mesh, positions=(mesh.positions @ rotation.T if is_turned else mesh.positions) * factor, normals=normals
    )


def _pivot(prop: Prop, mesh: Mesh, bounds: Bounds, settings: PlacementSettings, linear: F64, report: Report) -> F64:
    """The pivot in metres, in the placed scene."""
    origin = np.zeros(3)
    kind = settings.pivot
    if kind in KINDS:
        if fits(kind, bounds):
            return origin
        pivot = pivot_of_kind(kind, bounds, mesh)
        text = f"the source's pivot is not {_WORDS[kind]}; it was moved by {_metres(pivot)}"
        report.find(Finding("pivot-moved", Severity.INFO, text))
        return pivot
    if kind == "source":
        if not fits("stands", bounds):
            low, high = bounds.low, bounds.high
            where = "above" if low[1] >= 0 else "below"
            middle = (low + high) / 2
            text = (
                f"the pivot is not at the base: the prop starts {length(abs(low[1]))} {where} it, "
                f"its centre is {middle[0]:+.3f} m in X and {middle[2]:+.3f} m in Z from it"
            )
            report.find(Finding("pivot-off-base", Severity.WARNING, text, places=Places.of(np.zeros((1, 3)))))
        return origin
    if kind == "object":
        own = prop.parts[0].origin if prop.parts else (0.0, 0.0, 0.0)
        return linear @ np.array(own)
    if kind == "mass":
        return centre_of_mass(mesh)
    if kind == "point" and settings.point is not None:
        return _marked(mesh, bounds, settings, linear @ np.array(settings.point), report)
    return bounds.at(settings.anchor)


def _marked(mesh: Mesh, bounds: Bounds, settings: PlacementSettings, point: F64, report: Report) -> F64:
    """A place on the model: the vertex, edge middle or face centre there, if it is still there."""
    if settings.snap_to == "typed":
        return point
    nearest = nearest_feature(mesh, point, settings.snap_to)
    off = float(np.linalg.norm(nearest - point))
    if off <= HELD_PLACE * float(np.linalg.norm(bounds.size)):
        return nearest
    text = (
        f"the pivot was set on a {settings.snap_to} that this source does not have; the nearest is {length(off)} away. "
        "It stays at its coordinates; set it again"
    )
    report.find(Finding("mark-lost", Severity.WARNING, text, places=Places.of((point - point)[None])))
    return point


def _report_size(bounds: Bounds, settings: PlacementSettings, report: Report) -> None:
    longest = float(bounds.size.max())
    low, high = settings.expected_size_m
    # As it is read, in three digits: "50 mm, usual are 50 mm to 30 m" would say nothing.
    if longest <= 0 or low <= float(f"{longest:.3g}") <= high:
        return
    found = guesses(longest, settings.expected_size_m)
    advice = (
        f"with a scale of {found[0].factor:g} it would be {length(found[0].longest)}"
        if found
        else "check the source's unit"
    )
    text = f"the longest side is {length(longest)}, usual are {length(low)} to {length(high)}; {advice}"
    report.find(Finding("unusual-size", Severity.WARNING, text))


def _metres(vector: F64) -> str:
    return ", ".join(f"{x:+.3f}" for x in vector.tolist()) + " m"
