"""The checks and repairs of a mesh, one after another: each looks at what those before it left.

The order is part of the meaning. Duplicates come first, since a repeated face would be welded to its double and crowds
all of its edges; welding before anything that asks for neighbours; joints before winding, since shells end at
non-manifold edges.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import I32, I64, Mask, Mesh, drop_unused_vertices
from plindro.core.mesh.numbering import weld_positions
from plindro.core.mesh.surgery import drop_repeated_corners, merge_vertices, turn_faces
from plindro.core.mesh.topology import Topology, build_topology
from plindro.core.report import Report
from plindro.core.stations.cleanup import faults
from plindro.core.stations.cleanup.borders import fill_borders, fillable, find_borders, loop_edges
from plindro.core.stations.cleanup.duplicates import choose_backs, find_duplicates
from plindro.core.stations.cleanup.faults import Fault, places_of_vertices
from plindro.core.stations.cleanup.joints import find_joints, take_apart
from plindro.core.stations.cleanup.overlaps import find_overlaps
from plindro.core.stations.cleanup.polygons import NO_SURFACE, Slimness, slimness, survey_polygons
from plindro.core.stations.cleanup.seams import close_t_vertices, find_t_vertices
from plindro.core.stations.cleanup.settings import CleanupSettings
from plindro.core.stations.cleanup.welding import find_unwelded
from plindro.core.stations.cleanup.winding import find_turned

MOST_PASSES = 5
"""A repair can lay bare another fault; a mesh that is not settled after so many passes is left as it is then."""
SMALLEST_WELD = 1e-4
"""Tolerances in millimetres never exceed this share of the prop's diagonal, so that a tiny prop is not welded shut."""


@dataclass(slots=True)
class _Work:
    """The mesh as it is being cleaned, its topology while that holds, and what was met.

    ``shell`` (F,) are the shells as the winding step numbered them.
    """

    mesh: Mesh
    settings: CleanupSettings
    double_sided: Mask
    met: list[Fault]
    diagonal: float
    shell: I32 | None = None
    _topology: Topology | None = None

    @property
    def topology(self) -> Topology:
        if self._topology is None:
            self._topology = build_topology(self.mesh)
        return self._topology

    def change(self, mesh: Mesh) -> None:
        """Go on with another mesh."""
        if mesh is not self.mesh:
            self.mesh, self._topology = mesh, None

    def meet(
        self, kind: faults.Kind, count: int, is_repaired: bool, places: NDArray[Any] | None = None, detail: str = ""
    ) -> bool:
        """Write a fault down; returns whether there is something to repair."""
        if count:
            self.met.append(Fault(kind, int(count), is_repaired, places, detail))
        return bool(count) and is_repaired

    def reach(self, millimetres: float) -> float:
        """A tolerance in metres."""
        return min(millimetres / 1000.0, SMALLEST_WELD * self.diagonal)

    def triangles_at(self, faces: I64 | Mask) -> NDArray[np.float64]:
        """(N, 3, 3) the fans of some faces, as places."""
        chosen = (np.flatnonzero(faces) if faces.dtype == bool else faces)[:400]
        fans = np.maximum(self.mesh.face_sides[chosen] - 2, 0)
        face = np.repeat(chosen, fans)
        within = np.arange(len(face)) - np.repeat(np.cumsum(fans) - fans, fans)
        first = self.mesh.face_start[:-1][face]
        corners = np.stack([first, first + within + 1, first + within + 2], axis=1)
        found: NDArray[np.float64] = self.mesh.positions[self.mesh.corner_vertex[corners]]
        return found


def clean(
    mesh: Mesh, settings: CleanupSettings, *, double_sided: Sequence[bool] = (False,), report: Report | None = None
) -> tuple[Mesh, list[Fault]]:
    """Find every fault of ``mesh`` and repair those whose switch is on, until the checks find nothing more to repair.

    ``double_sided`` tells for each material whether both sides are drawn. Returns the cleaned mesh, the very same
    object where nothing was repaired, and the faults: first those repaired, then those that are left.
    Raises ``Cancelled``.
    """
    report = report or Report()
    repaired: dict[str, Fault] = {}
    left: list[Fault] = []
    result = mesh
    for attempt in range(MOST_PASSES):
        doing = "cleaning" if attempt == 0 else "checking again"
        is_last = attempt == MOST_PASSES - 1
        part = report.span(attempt / MOST_PASSES, 1.0)
        found_mesh, met = _pass(result, settings, double_sided, part, doing, is_last=is_last)
        left = [fault for fault in met if not fault.is_repaired]
        for fault in met:
            # What a later pass meets again came of a repair: the first look counts.
            if fault.is_repaired:
                repaired.setdefault(fault.kind.code, fault)
        if found_mesh is result:
            break
        result = found_mesh
    report.step(1.0, "cleaning")
    return result, [*repaired.values(), *left]


def _pass(
    mesh: Mesh, settings: CleanupSettings, double_sided: Sequence[bool], report: Report, doing: str, *, is_last: bool
) -> tuple[Mesh, list[Fault]]:
    """Every check and repair once.

    What is only told is not asked for where something was repaired: another pass follows, and its answer counts.
    """
    diagonal = float(np.linalg.norm(np.diff(mesh.bounds(), axis=0)))
    sided = np.zeros(int(mesh.face_material.max(initial=0)) + 1, bool)
    sided[: len(double_sided)] = list(double_sided)[: len(sided)]
    work = _Work(mesh, settings, sided, [], diagonal)
    steps: tuple[tuple[str, Callable[[_Work], None]], ...] = (
        ("values", _values),
        ("loose pieces", _loose),
        ("collapsed faces", _collapsed),
        ("duplicate faces", _duplicates),
        ("unwelded vertices", _unwelded),
        ("zero-area faces and slivers", _slivers),
        ("T-vertices", _t_vertices),
        ("non-manifold edges and vertices", _joints),
        ("winding", _winding),
        ("small shells", _small_shells),
        ("open boundaries", _borders),
        ("polygons", _polygons),
        ("overlaps", _overlaps),
    )
    for i, (name, step) in enumerate(steps):
        report.step(i / len(steps), f"{doing}: {name}")
        if step in (_polygons, _overlaps) and work.mesh is not mesh and not is_last:
            continue
        step(work)
        if not work.mesh.n_faces:
            break
    if work.mesh is not mesh and settings.loose:
        work.mesh = drop_unused_vertices(work.mesh)
    return work.mesh, work.met


def _values(work: _Work) -> None:
    """Positions, UVs and normals that are not finite."""
    mesh, on = work.mesh, work.settings.non_finite
    bad: Mask = np.asarray(~np.isfinite(mesh.positions).all(axis=1))
    used = np.zeros(mesh.n_vertices, bool)
    used[mesh.corner_vertex] = True
    if (bad & used).any():
        touched = np.zeros(mesh.n_faces, bool)
        touched[mesh.corner_face()[bad[mesh.corner_vertex]]] = True
        around = np.unique(mesh.corner_vertex[touched[mesh.corner_face()]])
        places = places_of_vertices(mesh.positions, around[~bad[around]])
        detail = f"{int(touched.sum())} faces use {'it' if (bad & used).sum() == 1 else 'them'}"
        if work.meet(faults.POSITIONS, int((bad & used).sum()), on, places, detail):
            work.change(mesh.with_faces(~touched))
    mesh = work.mesh
    bad_uvs: list[Mask] = [np.asarray(~np.isfinite(uv).all(axis=1)) for uv in mesh.uvs]
    count = sum(int(b.sum()) for b in bad_uvs)
    if count:
        places = places_of_vertices(mesh.positions, mesh.corner_vertex[np.any(np.stack(bad_uvs), axis=0)])
        if work.meet(faults.UVS, count, on, places):
            mended = tuple(
                np.where(b[:, None], np.float32(0), uv) if b.any() else uv
                for uv, b in zip(mesh.uvs, bad_uvs, strict=True)
            )
            work.change(replace(mesh, uvs=mended))
    mesh = work.mesh
    if mesh.normals is not None:
        with np.errstate(all="ignore"):
            squared = np.einsum("ij,ij->i", mesh.normals, mesh.normals)
            missing: Mask = np.asarray(~(np.abs(squared - 1.0) < 0.02))
        # A zero vector is how a missing normal is kept: the Normals station makes it, whatever the switch says.
        work.meet(faults.NORMALS, int(missing.sum()), True, mesh.positions[mesh.corner_vertex[missing][:400]])
        if squared[missing].any():
            work.change(replace(mesh, normals=np.where(missing[:, None], np.float32(0), mesh.normals)))
    if work.mesh.colors is not None and not np.isfinite(work.mesh.colors).all():
        work.change(replace(work.mesh, colors=np.nan_to_num(work.mesh.colors, nan=1.0, posinf=1.0, neginf=0.0)))


def _loose(work: _Work) -> None:
    """Vertices and edges that belong to no face, and faces of fewer than three corners."""
    mesh, on = work.mesh, work.settings.loose
    few = mesh.face_sides < 3
    edges = mesh.loose_edges
    if few.any():
        two = mesh.face_start[:-1][mesh.face_sides == 2]
        edges = np.concatenate([edges, mesh.corner_vertex[np.stack([two, two + 1], axis=1)]])
    used = np.zeros(mesh.n_vertices, bool)
    used[mesh.corner_vertex[~few[mesh.corner_face()]] if few.any() else mesh.corner_vertex] = True
    used[edges] = True
    # A vertex that is not finite lost its faces to that; it is counted there.
    loose = np.flatnonzero(~used & np.isfinite(mesh.positions).all(axis=1))
    work.meet(faults.LOOSE_EDGES, len(edges), on, mesh.positions[edges[:400]])
    work.meet(faults.LOOSE_VERTICES, len(loose), on, places_of_vertices(mesh.positions, loose))
    if few.any():
        mesh = mesh.with_faces(~few)
    if on and (len(loose) or len(edges)):
        mesh = drop_unused_vertices(mesh)
    work.change(mesh)


def _unwelded(work: _Work) -> None:
    """Weld what leaves a seam open: exact ones first, then those within the tolerance."""
    on, reach = work.settings.unwelded, work.reach(work.settings.weld_mm)
    mesh, topology, total = work.mesh, work.topology, 0
    places: list[NDArray[Any]] = []
    for tolerance in (0.0, reach) if reach > 0 else (0.0,):
        target = find_unwelded(mesh, tolerance, topology)
        moved = np.flatnonzero(target != np.arange(len(target)))
        if not len(moved):
            continue
        total += len(moved)
        places.append(places_of_vertices(mesh.positions, moved))
        mesh = merge_vertices(mesh, target)
        if on:
            work.change(mesh)
        topology = work.topology if on else build_topology(mesh)
    work.meet(faults.UNWELDED, total, on, np.concatenate(places) if places else None)
    if total and on:
        _collapsed(work)


def _collapsed(work: _Work) -> None:
    """Faces that name a vertex twice in a row; those left with two corners have no surface."""
    repeated = drop_repeated_corners(work.mesh)
    if repeated is work.mesh:
        return
    gone = work.mesh.n_faces - repeated.n_faces
    if gone and not work.settings.zero_area:
        # They are counted with all other faces without surface.
        return
    work.meet(faults.NO_SURFACE, gone, True, detail="naming a vertex twice")
    work.change(repeated)


def _duplicates(work: _Work) -> None:
    """Faces in the same place."""
    mesh, on = work.mesh, work.settings.duplicates
    place = weld_positions(mesh.positions)[0]
    found = find_duplicates(mesh, place)
    gone = np.zeros(mesh.n_faces, bool)
    if work.meet(faults.DUPLICATES, int(found.repeats.sum()), on, work.triangles_at(found.repeats)):
        gone |= found.repeats
    pairs = found.pairs[~found.is_sheet]
    if len(pairs):
        backs = choose_backs(mesh, place, pairs)
        if work.meet(faults.BACKS, len(backs), on, work.triangles_at(backs)):
            gone[backs] = True
    sheets = found.pairs[found.is_sheet]
    work.meet(faults.SHEETS, len(sheets), False, work.triangles_at(sheets[:, 1]))
    if gone.any():
        work.change(mesh.with_faces(~gone))


def _slivers(work: _Work) -> None:
    """Faces without surface, and slivers: removed, and the seam that they leave closed again."""
    settings = work.settings
    slim = slimness(work.mesh)
    flat = slim.has_no_surface(work.mesh)
    sliver = (slim.ratio <= settings.sliver_ratio) & ~flat
    gone = np.zeros(work.mesh.n_faces, bool)
    if work.meet(faults.NO_SURFACE, int(flat.sum()), settings.zero_area, work.triangles_at(flat)):
        gone |= flat
    if work.meet(faults.SLIVERS, int(sliver.sum()), settings.slivers, work.triangles_at(sliver)):
        gone |= sliver
    if gone.any():
        work.change(_without(work.mesh, gone, slim))


def _without(mesh: Mesh, gone: Mask, slim: Slimness) -> Mesh:
    """The mesh without slim faces: vertices at their ends are welded, those on their long side taken into its edge."""
    corners = gone[mesh.corner_face()]
    touched = np.zeros(mesh.n_vertices, bool)
    touched[mesh.corner_vertex[corners]] = True
    sums = np.maximum.reduceat(mesh.positions[mesh.corner_vertex], mesh.face_start[:-1], axis=0)
    sums -= np.minimum.reduceat(mesh.positions[mesh.corner_vertex], mesh.face_start[:-1], axis=0)
    size = np.linalg.norm(sums[gone], axis=1)
    reach = 2.0 * float(np.maximum(size * np.maximum(slim.ratio[gone], NO_SURFACE), slim.height[gone]).max())
    rest = mesh.with_faces(~gone)
    if not rest.n_faces:
        return rest
    for _ in range(4):
        t_vertices = find_t_vertices(rest, reach, among=touched)
        if len(t_vertices.corners):
            rest = close_t_vertices(rest, t_vertices)
        target = find_unwelded(rest, reach)
        target = np.where(touched & touched[target], target, np.arange(len(target), dtype=np.int32))
        welds = (target != np.arange(len(target))).any()
        if welds:
            rest = merge_vertices(rest, target)
        if not welds and not len(t_vertices.corners):
            break
    return rest


def _t_vertices(work: _Work) -> None:
    """Vertices on open edges."""
    on, reach = work.settings.t_vertices, work.reach(work.settings.t_vertex_mm)
    found = find_t_vertices(work.mesh, reach, work.topology)
    places = places_of_vertices(work.mesh.positions, found.vertices)
    if work.meet(faults.T_VERTICES, len(found.corners), on, places):
        mesh = close_t_vertices(work.mesh, found)
        target = find_unwelded(mesh, reach)
        work.change(merge_vertices(mesh, target) if (target != np.arange(len(target))).any() else mesh)


def _joints(work: _Work) -> None:
    """Non-manifold edges and vertices."""
    settings, mesh = work.settings, work.mesh
    joints = find_joints(mesh, work.topology)
    edges = joints.topology.edges[joints.edges]
    on_edges = work.meet(
        faults.NON_MANIFOLD_EDGES, len(edges), settings.non_manifold_edges, mesh.positions[edges[:400]]
    )
    places = places_of_vertices(mesh.positions, joints.vertices)
    at_vertices = work.meet(faults.NON_MANIFOLD_VERTICES, len(joints.vertices), settings.non_manifold_vertices, places)
    if on_edges or at_vertices:
        apart = take_apart(mesh, joints, edges=on_edges, vertices=at_vertices)
        if apart is mesh:
            advice = "their faces hang together around both ends, cut them apart in the source"
            work.met = [
                replace(f, is_repaired=False, advice=advice)
                if f.kind in (faults.NON_MANIFOLD_EDGES, faults.NON_MANIFOLD_VERTICES)
                else f
                for f in work.met
            ]
        work.change(apart)


def _winding(work: _Work) -> None:
    """Faces against their shell, and shells that are inside out."""
    mesh, on = work.mesh, work.settings.winding
    if not mesh.n_faces:
        return
    found = find_turned(mesh, work.topology, work.double_sided)
    work.shell = found.shell
    turned = work.meet(faults.FLIPPED, int(found.single.sum()), on, work.triangles_at(found.single))
    whole = found.turn & ~found.single
    number = found.closed_inside_out + found.open_inside_out
    detail = f"{found.open_inside_out} of them open" if found.open_inside_out else ""
    turned |= work.meet(faults.INSIDE_OUT, number, on, work.triangles_at(whole), detail)
    work.meet(faults.ONE_SIDED, found.one_sided, False)
    if turned:
        work.change(turn_faces(mesh, found.turn))


def _small_shells(work: _Work) -> None:
    """Shells that are tiny beside the prop."""
    mesh = work.mesh
    shell = work.shell
    count = int(shell.max(initial=-1)) + 1 if shell is not None else 0
    if shell is None or count < 2:
        return
    corner_shell = np.repeat(shell, mesh.face_sides)
    order = np.argsort(corner_shell, kind="stable")
    starts = np.searchsorted(corner_shell[order], np.arange(count))
    points = mesh.positions[mesh.corner_vertex[order]]
    size = np.linalg.norm(np.maximum.reduceat(points, starts) - np.minimum.reduceat(points, starts), axis=1)
    tiny = size < work.settings.small_shell_ratio * work.diagonal
    if work.meet(faults.SMALL_SHELLS, int(tiny.sum()), work.settings.small_shells, work.triangles_at(tiny[shell])):
        work.change(mesh.with_faces(~tiny[shell]))


def _borders(work: _Work) -> None:
    """Open borders with their lengths; the small flat ones are closed on demand."""
    settings = work.settings
    if not work.mesh.n_faces:
        return
    borders = find_borders(work.mesh, work.topology)
    if not len(borders):
        return
    chosen = fillable(borders, settings.hole_mm / 1000.0)
    edges = loop_edges(work.mesh, work.topology, borders)
    lengths = np.sort(borders.length)[::-1]
    shown = ", ".join(_length(x) for x in lengths[:3]) + (" ..." if len(lengths) > 3 else "")
    closed = chosen if settings.holes else np.zeros_like(chosen)
    loop = np.repeat(np.arange(len(borders)), np.diff(borders.start))
    left = ~closed
    if closed.any():
        work.meet(faults.HOLES, int(closed.sum()), True, work.mesh.positions[edges[closed[loop]][:400]])
    if left.any():
        places = work.mesh.positions[edges[left[loop]][:400]]
        can = f"{shown} long" + (
            f", {int(chosen.sum())} of them small and flat" if chosen.any() and not settings.holes else ""
        )
        work.meet(faults.HOLES, int(left.sum()), False, places, can)
    if closed.any():
        work.change(fill_borders(work.mesh, borders, closed))


def _length(metres: float) -> str:
    return (
        f"{metres:.2f} m" if metres >= 1 else f"{1000 * metres:.0f} mm" if metres >= 0.01 else f"{1000 * metres:.2g} mm"
    )


def _polygons(work: _Work) -> None:
    """Polygons off their plane, and polygons that cross themselves."""
    crooked, crossing = survey_polygons(work.mesh, work.settings.planarity_ratio)
    work.meet(faults.NOT_PLANAR, int((crooked & ~crossing).sum()), False, work.triangles_at(crooked & ~crossing))
    work.meet(faults.CROSSING, int(crossing.sum()), False, work.triangles_at(crossing))


def _overlaps(work: _Work) -> None:
    """Faces on faces in one plane."""
    if not work.mesh.n_faces:
        return
    skip = slimness(work.mesh).ratio <= max(work.settings.sliver_ratio, NO_SURFACE)
    found = find_overlaps(work.mesh, work.reach(work.settings.overlap_mm), skip)
    work.meet(faults.OVERLAPS, int(found.same.sum()), False, work.triangles_at(found.same))
    work.meet(faults.TANGLE, int(not found.complete), False)
    work.meet(faults.OPPOSED, int(found.opposite.sum()), False, work.triangles_at(found.opposite))
