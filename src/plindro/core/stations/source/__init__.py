"""Station Source: what ships of a scene, and as which props."""

from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.station import Context, Station
from plindro.core.stations.source.choice import PropPlan, choose, plan_props
from plindro.core.stations.source.facts import PartFact, SourceFacts
from plindro.core.stations.source.settings import SourceSettings, Split
from plindro.core.stations.source.station import part_triangles, run


def _run(prop: Prop, settings: SourceSettings, report: Report, context: Context) -> Prop:
    return run(context.scene, settings, report)


SOURCE = Station(
    name="source",
    title="Source",
    settings=SourceSettings,
    facts=SourceFacts,
    version=3,
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
