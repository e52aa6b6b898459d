"""The station: proxies fitted to the prop and to parts with a kind of their own, or taken from a file, and checked."""

import hashlib
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from plindro.core.collision.convex import Convex
from plindro.core.collision.fit import fit_of
from plindro.core.collision.pieces import convex_pieces
from plindro.core.collision.proxies import Points
from plindro.core.collision.proxy import Proxy
from plindro.core.findings import Finding, Severity, counted
from plindro.core.mesh.mesh import Mesh
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.station import Context
from plindro.core.stations.collision.facts import CollisionFacts, ProxyFacts
from plindro.core.stations.collision.hand_made import hand_made_proxies
from plindro.core.stations.collision.settings import CollisionSettings, Kind

_FITTED = 0.8
_MISSED = 0.02
"""Share of the surface outside of all proxies from which it is worth a word."""


def run(prop: Prop, settings: CollisionSettings, report: Report, context: Context) -> Prop:
    """The prop with its proxies."""
    mesh = prop.levels[0].mesh if prop.levels else prop.mesh
    report.step(0.0, "fitting collision proxies")
    if settings.mesh:
        proxies = hand_made_proxies(prop, settings.mesh, context, report)
    else:
        proxies = list(_fitted(prop, mesh, settings, report.span(0.0, _FITTED)))
    _tell_lost_parts(prop, settings, report)
    if not proxies:
        report.state(CollisionFacts(proxies=[], volume=0.0, enclosed=0.0, added=0.0, missed=0.0))
        return replace(prop, proxies=())
    report.step(_FITTED, "measuring collision proxies")
    fit = fit_of(mesh, [proxy.mesh for proxy in proxies])
    report.state(
        CollisionFacts(
            proxies=[_facts(proxy) for proxy in proxies],
            volume=fit.volume,
            enclosed=fit.enclosed,
            added=fit.added,
            missed=fit.missed,
        )
    )
    if fit.missed > _MISSED:
        text = f"{100 * fit.missed:.3g} % of the surface lies outside of the collision; give it a margin or more pieces"
        report.find(Finding("collision-misses-surface", Severity.WARNING, text))
    most = context.destination.max_proxies
    if most is not None and len(proxies) > most:
        text = f"{counted(len(proxies), 'collision proxy', 'collision proxies')}; the destination takes {most}"
        report.find(Finding("proxies-over-budget", Severity.WARNING, text, len(proxies)))
    report.step(1.0, "collision")
    return replace(prop, proxies=tuple(proxies))


def _fitted(prop: Prop, mesh: Mesh, settings: CollisionSettings, report: Report) -> Iterator[Proxy]:
    """Proxies of the parts that have a kind of their own, then of all the rest."""
    own = {rule.part: rule.kind for rule in settings.parts}
    apart = {k: own[part.path] for k, part in enumerate(prop.parts) if part.path in own}
    rest = mesh.with_faces(~np.isin(mesh.face_part, list(apart)))
    share = 1.0 / (len(apart) + 1)
    for done, (number, kind) in enumerate(apart.items()):
        span = report.span(done * share, (done + 1) * share)
        yield from _of(mesh.with_faces(mesh.face_part == number), kind, prop, settings, span, prop.parts[number].path)
    yield from _of(rest, settings.kind, prop, settings, report.span(1.0 - share, 1.0), "")


def _of(mesh: Mesh, kind: Kind, prop: Prop, settings: CollisionSettings, report: Report, part: str) -> Iterator[Proxy]:
    if kind == "none" or not mesh.n_faces:
        return
    if kind == "part-hulls":
        numbers = np.unique(mesh.face_part)
        for done, number in enumerate(numbers):
            report.step(done / len(numbers), "fitting a hull for each part")
            points = Points(_points(mesh.with_faces(mesh.face_part == number)))
            path = prop.parts[number].path if number < len(prop.parts) else ""
            yield replace(points.fitted("hull", settings.margin, settings.corners), part=path)
        return
    if kind == "pieces":
        found = convex_pieces(mesh, settings.pieces, report.span(0.0, 0.6).step)
        for done, some in enumerate(found):
            report.step(0.6 + 0.4 * done / len(found), "fitting convex pieces")
            yield replace(Points(some).fitted("hull", settings.margin, settings.corners), part=part)
        return
    points = Points(_points(mesh))
    report.step(0.3, "fitting a collision proxy")
    if kind == "simple":
        yield replace(points.simple(settings.margin, settings.corners), part=part)
    else:
        yield replace(points.fitted(kind, settings.margin, settings.corners), part=part)


def _points(mesh: Mesh) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    return mesh.positions[np.unique(mesh.corner_vertex)].astype(np.float64)


def _facts(proxy: Proxy) -> ProxyFacts:
    mesh: Convex = proxy.mesh
    return ProxyFacts(
        shape=proxy.shape,
        part=proxy.part,
        corners=len(mesh.points),
        triangles=len(mesh.triangles),
        volume=mesh.volume,
        numbers=[round(number, 6) for number in proxy.numbers],
    )


def _tell_lost_parts(prop: Prop, settings: CollisionSettings, report: Report) -> None:
    known = {part.path for part in prop.parts}
    lost = [rule.part for rule in settings.parts if rule.part not in known]
    if lost:
        text = f"'{lost[0]}' has a collision of its own and is no part of the prop any more; take it out at Collision"
        report.find(Finding("collision-part-lost", Severity.WARNING, text, len(lost)))


def inputs(settings: CollisionSettings, context: Context) -> str:
    """All settings, the destination's budget, and the content of a file with proxies made by hand."""
    data = context.side_files.get(settings.mesh) if settings.mesh and context.side_files else None
    digest = hashlib.sha256(data).hexdigest() if data else ""
    return f"{settings.model_dump_json()}|{context.destination.max_proxies}|{digest}"
