"""Checks of a prop before it ships: what the engine would stumble over, and what goes over budget."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from pydantic import Field

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Places, Severity, counted, grouped
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.numeric.single import without_area
from plindro.core.prop import Prop
from plindro.core.settings import StationSettings

_WITH_LIGHT_MAP = 2
"""UV channels that a prop with a light map has at least."""


class Budget(StationSettings):
    """What a prop of this kind may cost; None is no limit."""

    triangles: int | None = Field(20_000, description="most triangles of LOD0", json_schema_extra={"unit": "tris"})
    materials: int | None = Field(3, description="most materials")


def check_prop(prop: Prop, budget: Budget, destination: Destination) -> list[Finding]:
    """Findings about LOD0: surface, counts, textures; each names the station where it can be repaired."""
    return [
        *(replace(finding, station="triangulation") for finding in _check_surface(prop)),
        *(replace(finding, station="levels") for finding in _check_counts(prop, budget, destination)),
        *(replace(finding, station="uvs") for finding in _check_channels(prop, destination)),
        *(replace(finding, station="source") for finding in _check_materials(prop, budget, destination)),
    ]


def _check_surface(prop: Prop) -> list[Finding]:
    mesh = prop.mesh
    flat = without_area(mesh.positions, mesh.triangles(), 2.0 * face_vectors(mesh))
    if not flat.any():
        return []
    number = int(flat.sum())
    places = Places.of(mesh.positions[mesh.triangles()[flat]])
    return [
        Finding(
            "zero-area-triangles",
            Severity.WARNING,
            f"{counted(number, 'zero-area triangle')}; they draw nothing, remove them in Cleanup or the source",
            number,
            places=places,
        )
    ]


def _check_counts(prop: Prop, budget: Budget, destination: Destination) -> list[Finding]:
    findings = list(_check_levels(prop, destination))
    triangles = prop.mesh.n_faces
    engine_vertices = count_engine_vertices(prop.levels[0].mesh)
    if budget.triangles is not None and triangles > budget.triangles:
        findings.append(
            Finding(
                "triangles-over-budget",
                Severity.WARNING,
                f"{grouped(triangles)} triangles, {grouped(triangles - budget.triangles)} over the budget of "
                f"{grouped(budget.triangles)}",
                triangles - budget.triangles,
                level=0,
            )
        )
    limit = destination.max_engine_vertices
    if engine_vertices > limit and destination.past_limit != "split":
        severity = Severity.STOP if destination.past_limit == "stop" else Severity.WARNING
        text = f"{grouped(engine_vertices)} engine vertices; the destination takes {grouped(limit)} in a mesh"
        over = engine_vertices - limit
        findings.append(Finding("engine-vertices-over-limit", severity, text, over, level=0))
    return findings


def _check_levels(prop: Prop, destination: Destination) -> Iterator[Finding]:
    """Levels with more triangles than the destination takes."""
    for level, most in zip(prop.levels, destination.max_triangles, strict=False):
        over = level.mesh.n_triangles - most
        if over > 0:
            text = (
                f"LOD{level.index}: {grouped(level.mesh.n_triangles)} triangles; the destination takes {grouped(most)}"
            )
            yield Finding("level-over-budget", Severity.WARNING, text, over, level=level.index)


def _check_channels(prop: Prop, destination: Destination) -> list[Finding]:
    n, most = len(prop.mesh.uvs), destination.max_uv_channels
    findings = []
    if n > most:
        text = f"{n} UV channels; the destination takes {most}, and the others are lost there"
        findings.append(Finding("uv-channels-over-limit", Severity.WARNING, text, n - most))
    if destination.light_map and n < _WITH_LIGHT_MAP:
        text = "the destination asks for a light map, and there is no channel 1; let UVs make one"
        findings.append(Finding("light-map-missing", Severity.STOP, text))
    return findings


def _check_materials(prop: Prop, budget: Budget, destination: Destination) -> list[Finding]:
    used = len(np.unique(prop.mesh.face_material))
    limits = [most for most in (budget.materials, destination.max_materials) if most is not None]
    if not limits or used <= min(limits):
        return []
    over = used - min(limits)
    text = f"{used} materials, {over} over the budget of {min(limits)}; each is a draw call"
    return [Finding("materials-over-budget", Severity.WARNING, text, over)]
