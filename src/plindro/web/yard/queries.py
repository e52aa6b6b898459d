"""Reading the Yard: rows of the board from stored results."""

from collections import Counter

from django.db.models.functions import Lower

from plindro.core.destinations import DEFAULT_DESTINATION, get_destination
from plindro.web.yard.models import Prop
from plindro.web.yard.schemas import PropRow, Readiness
from plindro.web.yard.services import line_of


def readiness(prop: Prop) -> Readiness:
    """Whether a prop could ship, in one word."""
    if prop.state == Prop.State.FAILED:
        return "failed"
    if prop.state != Prop.State.BUILT or prop.built is None:
        return "working" if prop.state == Prop.State.WORKING else "failed"
    if prop.built.status == "held":
        return "held"
    return "watch" if any(f["severity"] == "watch" for f in prop.built.findings) else "ready"


def prop_row(prop: Prop) -> PropRow:
    """The row of one prop; figures are those of its latest result."""
    built = prop.built
    facts = built.facts if built else {}
    severities = Counter(finding["severity"] for finding in (built.findings if built else []))
    line = line_of(prop)
    levels = facts.get("levels") or []
    return PropRow(
        id=prop.pk,
        name=prop.name,
        source_name=prop.source_name,
        source_bytes=prop.source_bytes,
        line=prop.line,
        readiness=readiness(prop),
        error=prop.error,
        picture=f"/api/files/{built.picture}.png" if built else None,
        format=facts.get("format"),
        polygons=facts.get("polygons"),
        triangles=levels[0]["triangles"] if levels else facts.get("triangles"),
        engine_vertices=facts.get("engine_vertices"),
        levels=len(levels) if built else None,
        last_triangles=levels[-1]["triangles"] if levels else None,
        materials=len(facts["materials"]) if facts else None,
        textures=len(facts["textures"]) if facts else None,
        size=facts.get("size"),
        stops=severities["stop"],
        watches=severities["watch"],
        infos=severities["info"],
        triangle_budget=line.budget.triangles,
        material_budget=line.budget.materials,
        vertex_limit=get_destination(DEFAULT_DESTINATION).max_engine_vertices,
    )


def sizes(*, excluding: int) -> list[tuple[str, float]]:
    """Names and longest sides in metres of the other props on the board."""
    rows = Prop.objects.filter(is_removed=False, built__isnull=False).exclude(pk=excluding).select_related("built")
    found = [(prop.name, max(prop.built.facts.get("size") or [0.0])) for prop in rows if prop.built]
    return sorted(((name, size) for name, size in found if size > 0), key=lambda row: row[1])


def board() -> list[PropRow]:
    """All rows of the board, by name."""
    props = Prop.objects.filter(is_removed=False).select_related("built").order_by(Lower("name"), "pk")
    return [prop_row(prop) for prop in props]
