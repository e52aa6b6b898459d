"""Proxies modelled by hand: each shell of a file beside the source is one, and is checked as one that was fitted."""

import numpy as np

from plindro.core.collision.convex import Convex, convex_hull, is_closed, is_convex
from plindro.core.collision.proxy import Proxy
from plindro.core.errors import PlindroError
from plindro.core.files import read_scene
from plindro.core.findings import Finding, Places, Severity
from plindro.core.mesh.mesh import F64, I32
from plindro.core.numeric.groups import connected
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.station import Context


def hand_made_proxies(prop: Prop, name: str, context: Context, report: Report) -> list[Proxy]:
    """The proxies of a file, moved as the source was; a finding for each that is not closed or not convex."""
    data = context.side_files.get(name) if context.side_files else None
    if data is None:
        text = f"the collision mesh '{name}' is missing; put it beside the source, or choose another kind"
        report.find(Finding("collision-mesh-missing", Severity.STOP, text))
        return []
    try:
        scene = read_scene(data, name, context.side_files)
        mesh = triangulate(scene.mesh).mesh
    except PlindroError as error:
        report.find(Finding("collision-mesh-unreadable", Severity.STOP, str(error)))
        return []
    moved = np.array(prop.from_source).reshape(4, 4)
    points = mesh.positions.astype(np.float64) @ moved[:3, :3].T + moved[:3, 3]
    triangles = mesh.corner_vertex.reshape(-1, 3)
    if np.linalg.det(moved[:3, :3]) < 0.0:
        triangles = triangles[:, ::-1]
    return [proxy for k, shell in enumerate(_shells(points, triangles)) if (proxy := _checked(*shell, name, k, report))]


def _shells(points: F64, triangles: I32) -> list[tuple[F64, I32]]:
    """The surfaces that hang together by their places."""
    places, number = np.unique(points.astype(np.float32), axis=0, return_inverse=True)
    triangles = number.reshape(-1)[triangles].astype(np.int32)
    a, b = triangles[:, [0, 1, 2]].reshape(-1), triangles[:, [1, 2, 0]].reshape(-1)
    shell, _ = connected(len(places), a, b)
    found = []
    for k in np.unique(shell[triangles[:, 0]]) if len(triangles) else ():
        own = triangles[shell[triangles[:, 0]] == k]
        used, index = np.unique(own, return_inverse=True)
        found.append((places[used].astype(np.float64), index.reshape(own.shape).astype(np.int32)))
    return found


def _checked(points: F64, triangles: I32, name: str, number: int, report: Report) -> Proxy | None:
    """A shell as a proxy; None, with a finding, where no engine would take it."""
    where, own, fault = Places.of(points[triangles]), Convex(points, triangles), None
    if not is_closed(triangles):
        fault = "open", "is open; close it"
    elif own.volume < 0.0:
        fault = "inside-out", "is inside out; turn its faces over"
    elif not is_convex(points, triangles):
        # What rounding alone has bent is convex again once its hull is taken.
        hull = _hull_of(points)
        if hull is None or abs(hull.volume / own.volume - 1.0) > 1e-4:
            fault = "not-convex", "is not convex; cut it into convex pieces"
        else:
            return Proxy("mesh", hull)
    if fault is None:
        return Proxy("mesh", own)
    code, words = fault
    text = f"{name}: its surface no. {number + 1} {words}"
    report.find(Finding(f"collision-mesh-{code}", Severity.STOP, text, places=where))
    return None


def _hull_of(points: F64) -> Convex | None:
    try:
        return convex_hull(points)
    except ValueError:
        return None
