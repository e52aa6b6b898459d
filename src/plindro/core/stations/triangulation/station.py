"""The station: triangulate, leave out what has no surface, say what was met."""

from dataclasses import replace

import numpy as np

from plindro.core.findings import Finding, Places, Severity, counted, grouped
from plindro.core.marks import to_mesh, unfitting
from plindro.core.mesh.mesh import I32, I64, Mask, Mesh
from plindro.core.polygons.engine import COLLAPSES, DIFFERS, FLIPS, LEAVES, OVERLAPS, EngineCuts, compare_with_fan
from plindro.core.polygons.triangulate import Triangulation, cut_mesh, triangulate
from plindro.core.polygons.turned import set_diagonals
from plindro.core.prop import Polygons, Prop
from plindro.core.report import Report
from plindro.core.stations.triangulation.facts import EngineCutFacts, TriangulationFacts
from plindro.core.stations.triangulation.settings import TriangulationSettings


def run(prop: Prop, settings: TriangulationSettings, report: Report) -> Prop:
    """The prop with triangles only; what they were cut from stays with it."""
    report.step(0.0, "cutting polygons")
    mesh = prop.mesh
    sides, numbers = np.unique(mesh.face_sides, return_counts=True)
    result = triangulate(mesh, quads=settings.quads, ngons=settings.ngons)
    if prop.had_polygons:
        _report_overruled(result.n_overruled, report)
    result, n_turned = _set_by_hand(prop, result, settings, report)
    cut, corners = _without_collapsed(result, report)
    report.state(
        TriangulationFacts(
            sides={int(side): int(number) for side, number in zip(sides, numbers, strict=True)},
            triangles=cut.n_faces,
            overruled_quads=result.n_overruled,
            turned=n_turned,
        )
    )
    report.step(1.0, "cutting polygons")
    polygons = Polygons(mesh, corners, settings.min_sides) if prop.had_polygons and not mesh.is_triangles else None
    return replace(prop, mesh=cut, polygons=polygons)


def _without_collapsed(result: Triangulation, report: Report) -> tuple[Mesh, I32]:
    """The triangles and their corners, but for those that name one vertex twice."""
    cut, corners = result.mesh, result.corners
    a, b, c = cut.triangles().T
    collapsed = (a == b) | (b == c) | (c == a)
    if not collapsed.any():
        return cut, corners
    n = int(collapsed.sum())
    text = f"{n} {'triangle names' if n == 1 else 'triangles name'} one vertex twice; removed"
    places = Places.of(cut.positions[cut.triangles()[collapsed][:, :1]])
    report.find(Finding("degenerate-faces-removed", Severity.WARNING, text, n, places=places))
    return cut.with_faces(~collapsed), corners.reshape(-1, 3)[~collapsed].reshape(-1)


def _set_by_hand(
    prop: Prop, result: Triangulation, settings: TriangulationSettings, report: Report
) -> tuple[Triangulation, int]:
    """The cut with the diagonals set by hand, and how many those are; those that fit nothing are said."""
    if not settings.flipped_diagonals:
        return result, 0
    ends = to_mesh(prop, settings.flipped_diagonals)
    corners, done = set_diagonals(prop.mesh, result.corners, result.mesh.face_polygon, ends)
    if not done.all():
        report.find(unfitting("diagonal", ends[~done]))
    turned = replace(result, mesh=cut_mesh(prop.mesh, corners, result.mesh.face_polygon), corners=corners)
    return turned, int(done.sum())


def _report_overruled(n_overruled: int, report: Report) -> None:
    if n_overruled:
        report.find(
            Finding(
                "concave-quads",
                Severity.INFO,
                f"{counted(n_overruled, 'concave quad')} cut along the other diagonal, which lies inside",
                n_overruled,
            )
        )


def shaded_polygons(prop: Prop) -> Mesh:
    """The polygons that a prop was cut from, with the normals that its triangles have by now."""
    assert prop.polygons is not None
    source, normals = prop.polygons.mesh, prop.mesh.normals
    if normals is None:
        return source
    of_corner = np.zeros((source.n_corners, 3), np.float32)
    of_corner[prop.polygons.corners] = normals
    return replace(source, normals=of_corner)


def compare_engine(prop: Prop) -> EngineCuts | None:
    """How an engine's fan would cut the prop's polygons beside how they were cut; None where there were none."""
    if prop.polygons is None:
        return None
    return compare_with_fan(shaded_polygons(prop), prop.polygons.corners, prop.mesh.face_polygon)


def review(prop: Prop, settings: TriangulationSettings, report: Report) -> Prop:
    """``report_engine`` as a step of the line; the prop as it is."""
    engine = report_engine(prop, report)
    report.state(report.stated(TriangulationFacts).model_copy(update={"engine": engine}))
    return prop


def report_engine(prop: Prop, report: Report) -> EngineCutFacts | None:
    """Say what an engine's own cut would change, for a prop with its final normals; None where nothing was cut."""
    cuts = compare_engine(prop)
    if cuts is None or prop.polygons is None:
        return None
    mesh = prop.polygons.mesh
    whole = (mesh.face_sides > 3) & (mesh.face_sides < prop.polygons.min_sides)
    differs = cuts.has(DIFFERS)
    broken = cuts.has(FLIPS) | cuts.has(OVERLAPS) | cuts.has(LEAVES)
    for chosen, severity, what in (
        (broken & ~whole, Severity.INFO, "as the source has them, an engine's triangle fan would break {}"),
        (
            broken & whole,
            Severity.WARNING,
            "an engine's triangle fan will break {} left whole; triangulate them here",
        ),
    ):
        n = int(chosen.sum())
        if n:
            text = (
                f"{what.format(f'{grouped(n)} polygon' + ('' if n == 1 else 's'))}: "
                f"{int((chosen & cuts.has(FLIPS)).sum())} with flipped triangles, "
                f"{int((chosen & cuts.has(OVERLAPS)).sum())} overlapping, "
                f"{int((chosen & cuts.has(LEAVES)).sum())} leaving the outline"
            )
            places = _outlines(mesh, np.flatnonzero(chosen))
            report.find(Finding("engine-cut-breaks", severity, text, n, places=places))
    turned = differs & ~broken & ((cuts.surface > 1.0) | (cuts.shading > 1.0))
    if turned.any():
        worst = np.flatnonzero(turned)[np.argsort(-(cuts.surface + cuts.shading)[turned], kind="stable")]
        n = len(worst)
        text = (
            f"{counted(n, 'polygon')} triangulated differently from an engine's fan, with "
            f"up to {cuts.surface[turned].max():.3g}° of surface and {cuts.shading[turned].max():.3g}° of shading"
        )
        report.find(Finding("engine-cut-differs", Severity.INFO, text, n, places=_outlines(mesh, worst)))
    return _engine_facts(mesh, cuts, whole, broken)


def _engine_facts(mesh: Mesh, cuts: EngineCuts, whole: Mask, broken: Mask) -> EngineCutFacts:
    quads, more = mesh.face_sides == 4, mesh.face_sides > 4
    differs = cuts.has(DIFFERS)
    return EngineCutFacts(
        quads=int(quads.sum()),
        quads_differ=int((differs & quads).sum()),
        polygons=int(more.sum()),
        polygons_differ=int((differs & more).sum()),
        flips=int(cuts.has(FLIPS).sum()),
        overlaps=int(cuts.has(OVERLAPS).sum()),
        leaves=int(cuts.has(LEAVES).sum()),
        collapses=int(cuts.has(COLLAPSES).sum()),
        whole=int(whole.sum()),
        whole_broken=int((whole & broken).sum()),
        surface_degrees=float(cuts.surface.max(initial=0.0)),
        quad_degrees=float(cuts.surface[quads].max(initial=0.0)),
        shading_degrees=float(cuts.shading.max(initial=0.0)),
    )


def _outlines(mesh: Mesh, faces: I64) -> Places:
    """The outlines of some faces as edges."""
    some = mesh.with_faces(faces[:40])
    ends = np.arange(some.n_corners) + 1
    ends[some.face_start[1:] - 1] = some.face_start[:-1]
    a, b = some.positions[some.corner_vertex], some.positions[some.corner_vertex[ends]]
    return Places.of(np.stack([a, b], axis=1))
