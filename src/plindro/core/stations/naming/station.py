"""The station: the prop and its levels get the names under which they ship."""

from dataclasses import replace

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Severity
from plindro.core.names import is_reserved
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.stations.naming.facts import NamingFacts
from plindro.core.stations.naming.names import house_name, material_names, names_of, root_name
from plindro.core.stations.naming.settings import NamingSettings


def run(prop: Prop, settings: NamingSettings, report: Report, destination: Destination) -> Prop:
    """The prop under its clean name, its levels by the destination's template; a change nobody asked for is said."""
    wanted = settings.name or prop.name
    name = house_name(wanted, settings)
    if name != wanted:
        report.find(Finding("name-cleaned", Severity.INFO, f"the name '{wanted}' ships as '{name}'"))
    root = root_name(prop.name, settings)
    if is_reserved(root):
        text = f"no file can be called '{root}' on Windows; change the name, the prefix or the suffix"
        report.find(Finding("name-reserved", Severity.STOP, text))
    (names,) = names_of(prop.name, settings, destination, len(prop.levels))
    levels = tuple(replace(level, name=own) for level, own in zip(prop.levels, names.levels, strict=True))
    proxies = tuple(
        replace(proxy, name=destination.proxy_name(names.root, index, proxy.shape))
        for index, proxy in enumerate(prop.proxies)
    )
    named = replace(prop, name=names.root, levels=levels, proxies=proxies)
    pairs = zip(prop.materials, material_names(named, destination), strict=True)
    report.state(
        NamingFacts(
            wanted=wanted,
            root=names.root,
            files=list(names.files),
            levels=list(names.levels),
            proxies=[proxy.name for proxy in proxies],
            materials={material.name: own for material, own in pairs if material.name != own},
        )
    )
    return named
