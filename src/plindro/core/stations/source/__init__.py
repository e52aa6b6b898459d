"""Station Source: what ships of a scene, and as which props."""

from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.station import Context, Station
from plindro.core.stations.source.choice import PropPlan, choose, plan_props
from plindro.core.stations.source.connecting import connect_maps
from plindro.core.stations.source.facts import PartFact, SourceFacts
from plindro.core.stations.source.settings import SourceSettings, Split
from plindro.core.stations.source.station import part_triangles, run


def _run(prop: Prop, settings: SourceSettings, report: Report, context: Context) -> Prop:
    prop = run(context.scene, settings, report)
    if context.side_files is None or not prop.mesh.n_faces:
        return prop
    return connect_maps(prop, context.scene.name, context.side_files, connects=settings.connect_maps, report=report)


SOURCE = Station(
    name="source",
    title="Source",
    settings=SourceSettings,
    facts=SourceFacts,
    version=8,
    share=3,
    run=_run,
    is_surveyed=True,
)

__all__ = [
    "SOURCE",
    "PartFact",
    "PropPlan",
    "SourceFacts",
    "SourceSettings",
    "Split",
    "choose",
    "part_triangles",
    "plan_props",
    "run",
]
