"""Station Naming: every name under which a prop ships, by the house's rules and the destination's."""

from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.station import Context, Station
from plindro.core.stations.naming.facts import NamingFacts
from plindro.core.stations.naming.names import (
    ShippedNames,
    house_name,
    material_names,
    names_of,
    names_under,
    root_name,
)
from plindro.core.stations.naming.settings import NamingSettings
from plindro.core.stations.naming.station import run


def _run(prop: Prop, settings: NamingSettings, report: Report, context: Context) -> Prop:
    return run(prop, settings, report, context.destination)


def _inputs(settings: NamingSettings, context: Context) -> str:
    """The settings, and how the destination names things."""
    asked = context.destination
    names = {"format", "first_level", "lod0_suffix", *(f for f in type(asked).model_fields if f.endswith("_template"))}
    return f"{settings.model_dump_json()}|{asked.model_dump_json(include=names)}"


NAMING = Station(
    name="naming",
    title="Naming",
    settings=NamingSettings,
    facts=NamingFacts,
    version=6,
    share=0,
    run=_run,
    inputs=_inputs,
    always_runs=True,
)

__all__ = [
    "NAMING",
    "NamingFacts",
    "NamingSettings",
    "ShippedNames",
    "house_name",
    "material_names",
    "names_of",
    "names_under",
    "root_name",
    "run",
]
