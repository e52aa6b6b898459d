"""The station: the prop gets the name under which it ships."""

from dataclasses import replace

from plindro.core.findings import Finding, Severity
from plindro.core.names import clean_name
from plindro.core.naming.settings import NamingSettings
from plindro.core.prop import Prop
from plindro.core.report import Report

VERSION = 2


def house_name(wanted: str, settings: NamingSettings) -> str:
    """A name by the house's rules, without prefix and suffix."""
    return clean_name(wanted, case=settings.case, hyphens=settings.hyphens, longest=settings.longest)


def run(prop: Prop, settings: NamingSettings, report: Report) -> Prop:
    """The prop under its clean name; a change that nobody asked for is said."""
    wanted = settings.name or prop.name
    name = house_name(wanted, settings)
    if name != wanted:
        report.find(Finding("name-cleaned", Severity.INFO, f"the name '{wanted}' ships as '{name}'"))
    return replace(prop, name=settings.prefix + name + settings.suffix)
