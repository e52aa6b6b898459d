"""Checks of a prop before it ships: what the engine would stumble over, and what goes over budget."""

import numpy as np

from plindro.core.findings import Finding, Places, Severity, grouped
from plindro.core.mesh.geometry import face_vectors
from plindro.core.prop import Prop
from plindro.core.scene import Scene
from plindro.core.settings import StationSettings

NO_AREA = 1e-12
"""Share of the bounds' diagonal squared below which a triangle has no surface."""


class Budget(StationSettings):
    """What a prop of this kind may cost; None is no limit."""

    triangles: int | None = 20_000
    materials: int | None = 3


def check_source(scene: Scene) -> list[Finding]:
    """Findings about the source as it came, those of reading it included."""
    findings = list(scene.findings)
    if scene.mesh.n_faces and not scene.mesh.uvs:
        findings.append(Finding("uvs-missing", Severity.WATCH, "there are no UVs; textures cannot be shown"))
    for what, number in scene.unused:
        findings.append(Finding("not-used", Severity.INFO, f"{number} {what} in the source are not used", number))
    return findings


def check_prop(prop: Prop, engine_vertices: int, budget: Budget, max_engine_vertices: int) -> list[Finding]:
    """Findings about LOD0: surface, counts, textures."""
    return [
        *_check_surface(prop),
        *_check_counts(prop, engine_vertices, budget, max_engine_vertices),
        *_check_textures(prop),
    ]


def _check_surface(prop: Prop) -> list[Finding]:
    mesh = prop.mesh
    areas = np.linalg.norm(face_vectors(mesh), axis=1)
    low, high = mesh.bounds()
    limit = NO_AREA * float(((high - low) ** 2).sum())
    flat = areas <= limit
    if not flat.any():
        return []
    number = int(flat.sum())
    places = Places.of(mesh.positions[mesh.triangles()[flat]])
    return [
        Finding("triangles-without-area", Severity.WATCH, f"{number} triangles have no area", number, places=places)
    ]


def _check_counts(prop: Prop, engine_vertices: int, budget: Budget, limit: int) -> list[Finding]:
    findings = []
    triangles = prop.mesh.n_faces
    if budget.triangles is not None and triangles > budget.triangles:
        findings.append(
            Finding(
                "triangles-over-budget",
                Severity.WATCH,
                f"{grouped(triangles)} triangles, {grouped(triangles - budget.triangles)} over the budget of "
                f"{grouped(budget.triangles)}",
                triangles - budget.triangles,
                level=0,
            )
        )
    used = len(np.unique(prop.mesh.face_material))
    if budget.materials is not None and used > budget.materials:
        findings.append(
            Finding(
                "materials-over-budget",
                Severity.WATCH,
                f"{used} materials, {used - budget.materials} over the budget of {budget.materials}: "
                f"each is a draw call",
                used - budget.materials,
            )
        )
    if engine_vertices > limit:
        findings.append(
            Finding(
                "engine-vertices-over-limit",
                Severity.WATCH,
                f"{grouped(engine_vertices)} engine vertices; the destination holds {grouped(limit)} and cuts the mesh",
                engine_vertices - limit,
                level=0,
            )
        )
    return findings


def _check_textures(prop: Prop) -> list[Finding]:
    odd = [i for i in prop.images if i.width & (i.width - 1) or i.height & (i.height - 1)]
    if not odd:
        return []
    names = ", ".join(f"{i.name} ({i.width} × {i.height})" for i in odd[:3])
    return [
        Finding(
            "texture-size-odd",
            Severity.WATCH,
            f"{len(odd)} textures have sides that are no power of two: {names}",
            len(odd),
        )
    ]
