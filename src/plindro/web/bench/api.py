"""Addresses of the Bench."""

from typing import Any

from django.http import HttpRequest
from ninja import File, Router, UploadedFile

from plindro.core.destinations import DEFAULT_DESTINATION, get_destination
from plindro.core.line import STATIONS
from plindro.web.bench import hand_made, services, source
from plindro.web.bench.schemas import (
    LineIn,
    NameIn,
    PartOut,
    PeerOut,
    PropDetail,
    ReplaceOut,
    SettingsIn,
    SourceChanges,
    SplitRow,
    StateOut,
)
from plindro.web.yard import queries
from plindro.web.yard.api import sorted_files
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.queries import readiness
from plindro.web.yard.schemas import PropIds, RefusedFile
from plindro.web.yard.services import find_prop, line_of, source_view

router = Router(tags=["bench"])


def _detail(prop: Prop) -> PropDetail:
    prop = find_prop(prop.pk)
    built = prop.built
    facts = {k: v for k, v in built.facts.items() if k not in ("parts", "plan")} if built else {}
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
        sheet=f"/api/files/{built.sheet}.bin" if built and built.sheet else None,
        descent=f"/api/files/{built.descent}.bin" if built and built.descent else None,
        source_model=f"/api/files/{view}.glb" if (view := source_view(prop)) else None,
        parts=[PartOut(**{key: row[key] for key in PartOut.model_fields}) for row in source.parts_now(prop)],
        split=[SplitRow(**row) for row in source.split_preview(prop)],
        source_changes=SourceChanges(**changes) if (changes := source.source_changes(prop)) else None,
        peers=[PeerOut(name=name, longest=longest) for name, longest in queries.sizes(excluding=prop.pk)],
        levels=facts.pop("levels", []),
        states=_states(built, facts.pop("states", [])),
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


def _states(built: Built | None, rows: list[dict[str, Any]]) -> list[StateOut]:
    """The states as they were built; where an earlier version kept nothing to look at they come with the next build."""
    views = built.state_views if built else {}
    return [StateOut(**row, model=f"/api/files/{views[row['name']]}.glb") for row in rows if row["name"] in views]


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


@router.post("/props/{prop_id}/split", operation_id="props_split", response=PropIds)
def split(request: HttpRequest, prop_id: int) -> PropIds:
    """Put a prop on the board for each that the split gives, in place of this one."""
    return PropIds(ids=[prop.pk for prop in source.split(prop_id)])


@router.post("/props/{prop_id}/source", operation_id="props_replace_source", response=ReplaceOut)
def replace_source(request: HttpRequest, prop_id: int, files: File[list[UploadedFile]]) -> ReplaceOut:
    """Take a new version of the source for this prop and all others of the same source."""
    upload = sorted_files(request, files)
    props = source.replace_source(prop_id, upload)
    refused = [RefusedFile(name=name, message=message) for name, message in upload.refused]
    return ReplaceOut(props=[prop.pk for prop in props], refused=refused)


@router.post("/props/{prop_id}/levels/{number}/mesh", operation_id="props_set_hand_made", response=PropDetail)
def set_hand_made(request: HttpRequest, prop_id: int, number: int, files: File[list[UploadedFile]]) -> PropDetail:
    """Take a mesh modelled by hand for one level, with its textures and material libraries."""
    return _detail(hand_made.set_hand_made(prop_id, number, sorted_files(request, files)))


@router.post("/props/{prop_id}/undo", operation_id="props_undo", response=PropDetail)
def undo(request: HttpRequest, prop_id: int) -> PropDetail:
    """Take the last decision back."""
    return _detail(services.undo(prop_id))


@router.post("/props/{prop_id}/redo", operation_id="props_redo", response=PropDetail)
def redo(request: HttpRequest, prop_id: int) -> PropDetail:
    """Make the last decision that was taken back again."""
    return _detail(services.redo(prop_id))
