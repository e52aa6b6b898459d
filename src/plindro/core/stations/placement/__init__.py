"""Station Placement: units, axes, scale and pivot."""

from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.station import Context, Station
from plindro.core.stations.placement.facts import PlacementFacts
from plindro.core.stations.placement.settings import PlacementSettings
from plindro.core.stations.placement.station import run


def _run(prop: Prop, settings: PlacementSettings, report: Report, context: Context) -> Prop:
    return run(prop, settings, report, context.beside)


def _inputs(settings: PlacementSettings, context: Context) -> str:
    """The settings, and where the prop beside this one stands."""
    return settings.model_dump_json() + (repr(context.beside.from_source) if context.beside is not None else "")


PLACEMENT = Station(
    name="placement",
    title="Placement",
    settings=PlacementSettings,
    facts=PlacementFacts,
    version=4,
    share=3,
    run=_run,
    inputs=_inputs,
    is_surveyed=True,
)

__all__ = ["PLACEMENT", "PlacementFacts", "PlacementSettings", "run"]
