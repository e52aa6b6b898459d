"""Station Triangulation: polygons to triangles, on purpose."""

from plindro.core.station import LaterStep, Station, alone
from plindro.core.stations.triangulation.facts import TriangulationFacts
from plindro.core.stations.triangulation.settings import TriangulationSettings
from plindro.core.stations.triangulation.station import compare_engine, report_engine, review, run

TRIANGULATION = Station(
    name="triangulation",
    title="Triangulation",
    settings=TriangulationSettings,
    facts=TriangulationFacts,
    version=7,
    share=5,
    run=alone(run),
    # With the final normals, whose interpolation the engine's cut would change.
    later=(LaterStep(alone(review), after="normals"),),
    is_surveyed=True,
)

__all__ = [
    "TRIANGULATION",
    "TriangulationFacts",
    "TriangulationSettings",
    "compare_engine",
    "report_engine",
    "run",
]
