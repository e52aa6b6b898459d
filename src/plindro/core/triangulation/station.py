"""The station: triangulate, leave out what has no surface, say what was met."""

from dataclasses import replace

import numpy as np

from plindro.core.findings import Finding, Places, Severity
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.triangulation.settings import TriangulationSettings
from plindro.core.triangulation.triangulate import triangulate

VERSION = 2


def run(prop: Prop, settings: TriangulationSettings, report: Report) -> Prop:
    """The prop with triangles only. Facts: ``sides`` (faces by number of sides), ``triangles``."""
    report.step(0.0, "cutting polygons")
    mesh = prop.mesh
    sides, numbers = np.unique(mesh.face_sides, return_counts=True)
    report.facts["sides"] = {int(side): int(number) for side, number in zip(sides, numbers, strict=True)}
    result = triangulate(mesh, quads=settings.quads)
    _report_overruled(result.n_overruled, report)
    triangles = result.mesh.triangles()
    a, b, c = triangles.T
    collapsed = (a == b) | (b == c) | (c == a)
    cut = result.mesh
    if collapsed.any():
        report.find(
            Finding(
                "collapsed-faces-dropped",
                Severity.WATCH,
                f"{int(collapsed.sum())} triangles name one vertex twice and have no surface; they were left out",
                int(collapsed.sum()),
                places=Places.of(cut.positions[triangles[collapsed][:, :1]]),
            )
        )
        cut = cut.with_faces(~collapsed)
    report.facts["triangles"] = cut.n_faces
    report.facts["overruled_quads"] = result.n_overruled
    report.step(1.0, "cutting polygons")
    return replace(prop, mesh=cut)


def _report_overruled(n_overruled: int, report: Report) -> None:
    if n_overruled:
        report.find(
            Finding(
                "concave-quads",
                Severity.INFO,
                f"{n_overruled} concave quads were cut along their other diagonal, which lies inside",
                n_overruled,
            )
        )
