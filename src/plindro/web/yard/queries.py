"""Reading the Yard: rows of the board from stored results."""

from django.db.models.functions import Lower

from plindro.core.destinations import DEFAULT_DESTINATION, destination_named
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.placement import PLACEMENT
from plindro.core.stations.source import SOURCE
from plindro.web.yard.building import facts_of, fitting_line, pictures_of
from plindro.web.yard.models import Prop
from plindro.web.yard.schemas import PropRow, Readiness


def readiness(prop: Prop) -> Readiness:
    """Whether a prop could ship, in one word."""
    if prop.state == Prop.State.FAILED:
        return "failed"
    if prop.state != Prop.State.BUILT or prop.built is None:
        return "working" if prop.state == Prop.State.WORKING else "failed"
    if prop.built.status == "held":
        return "held"
    return "warning" if prop.built.severities.get("warning") else "ready"


def prop_row(prop: Prop, picture: str | None) -> PropRow:
    """The row of one prop with the digest of its picture; figures are those of its latest result."""
    built = prop.built
    facts = facts_of(built)
    source = facts.of(SOURCE) if facts else None
    placed = facts.of(PLACEMENT) if facts else None
    chain = facts.of(LEVELS) if facts else None
    levels = chain.levels if chain else []
    severities = built.severities if built else {}
    line, misfit = fitting_line(prop)
    return PropRow(
        id=prop.pk,
        name=prop.name,
        source_name=prop.source_name,
        source_bytes=prop.source_bytes,
        line=prop.line,
        readiness="failed" if misfit else readiness(prop),
        error=misfit or prop.error,
        picture=f"/api/files/{picture}.png" if picture else None,
        format=source.format if source else None,
        polygons=source.polygons if source else None,
        triangles=levels[0].triangles if levels else source.triangles if source else None,
        engine_vertices=levels[0].vertices if levels else source.engine_vertices if source else None,
        levels=len(levels) if built else None,
        last_triangles=levels[-1].triangles if levels else None,
        materials=len(source.materials) if source else None,
        textures=len(source.textures) if source else None,
        size=list(placed.size) if placed else None,
        stops=severities.get("stop", 0),
        warnings=severities.get("warning", 0),
        infos=severities.get("info", 0),
        triangle_budget=line.budget.triangles,
        material_budget=line.budget.materials,
        vertex_limit=destination_named(DEFAULT_DESTINATION).max_engine_vertices,
    )


def row_of(prop: Prop) -> PropRow:
    """The row of one prop."""
    pictures = pictures_of([prop.built] if prop.built else [])
    return prop_row(prop, pictures.get(prop.built.key) if prop.built else None)


def sizes(*, excluding: int) -> list[tuple[str, float]]:
    """Names and longest sides in metres of the other props on the board."""
    rows = Prop.objects.filter(is_removed=False, built__isnull=False).exclude(pk=excluding)
    found = rows.values_list("name", "built__facts__placement__size")
    sides = [(name, max(size or [0.0])) for name, size in found]
    return sorted(((name, side) for name, side in sides if side > 0), key=lambda row: row[1])


def board() -> list[PropRow]:
    """All rows of the board, by name."""
    # Findings with their places are a hundred times what a row shows.
    props = Prop.objects.filter(is_removed=False).select_related("built").defer("built__findings", "built__record")
    props = props.order_by(Lower("name"), "pk")
    pictures = pictures_of([prop.built for prop in props if prop.built])
    return [prop_row(prop, pictures.get(prop.built.key) if prop.built else None) for prop in props]
