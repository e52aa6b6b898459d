"""Addresses of the Bench."""

from django.http import HttpRequest
from ninja import Router

from plindro.core.destinations import DEFAULT_DESTINATION, get_destination
from plindro.core.line import STATIONS
from plindro.web.bench import services
from plindro.web.bench.schemas import LineIn, NameIn, PropDetail, SettingsIn
from plindro.web.yard.models import Prop
from plindro.web.yard.queries import readiness
from plindro.web.yard.services import find_prop, line_of

router = Router(tags=["bench"])


def _detail(prop: Prop) -> PropDetail:
    prop = find_prop(prop.pk)
    built = prop.built
    facts = dict(built.facts) if built else {}
    line = line_of(prop)
    settings = line.model_dump(mode="json")
    return PropDetail(
        id=prop.pk,
        name=prop.name,
        source_name=prop.source_name,
        line=prop.line,
        readiness=readiness(prop),
        error=prop.error,
        model=f"/api/files/{built.view}.glb" if built and built.view else None,
        levels=facts.pop("levels", []),
        facts=facts,
        findings=built.findings if built else [],
        settings={station: settings[station] for station in STATIONS},
        overrides=prop.overrides,
        undo=services.undo_label(prop),
        redo=services.redo_label(prop),
        triangle_budget=line.budget.triangles,
        material_budget=line.budget.materials,
        vertex_limit=get_destination(DEFAULT_DESTINATION).max_engine_vertices,
    )


@router.get("/props/{prop_id}", operation_id="props_read", response=PropDetail)
def read_prop(request: HttpRequest, prop_id: int) -> PropDetail:
    """One prop with its settings, levels, findings and the address of its model."""
    return _detail(find_prop(prop_id))


@router.patch("/props/{prop_id}/settings", operation_id="props_decide", response=PropDetail)
def decide(request: HttpRequest, prop_id: int, body: SettingsIn) -> PropDetail:
    """Change settings of stations on this prop."""
    return _detail(services.decide(prop_id, body.changes))


@router.patch("/props/{prop_id}/name", operation_id="props_rename", response=PropDetail)
def rename(request: HttpRequest, prop_id: int, body: NameIn) -> PropDetail:
    """Give the prop another name."""
    return _detail(services.rename(prop_id, body.name))


@router.patch("/props/{prop_id}/line", operation_id="props_change_line", response=PropDetail)
def change_line(request: HttpRequest, prop_id: int, body: LineIn) -> PropDetail:
    """Put the prop on another line."""
    return _detail(services.change_line(prop_id, body.line))


@router.post("/props/{prop_id}/undo", operation_id="props_undo", response=PropDetail)
def undo(request: HttpRequest, prop_id: int) -> PropDetail:
    """Take the last decision back."""
    return _detail(services.undo(prop_id))


@router.post("/props/{prop_id}/redo", operation_id="props_redo", response=PropDetail)
def redo(request: HttpRequest, prop_id: int) -> PropDetail:
    """Make the last decision that was taken back again."""
    return _detail(services.redo(prop_id))
