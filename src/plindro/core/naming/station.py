"""The station: the prop gets the name under which it ships."""

from dataclasses import replace

from plindro.core.findings import Finding, Severity
from plindro.core.naming.names import clean_name
from plindro.core.naming.settings import NamingSettings
from plindro.core.prop import Prop
from plindro.core.report import Report

VERSION = 1


def run(prop: Prop, settings: NamingSettings, report: Report) -> Prop:
    """The prop under its clean name; a change that nobody asked for is said."""
    wanted = settings.name or prop.name
    name = clean_name(wanted)
    if name != wanted:
        report.find(Finding("name-cleaned", Severity.INFO, f"the name '{wanted}' ships as '{name}'"))
    return replace(prop, name=settings.prefix + name)
