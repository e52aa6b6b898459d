"""Addresses of the Bench."""

from django.http import HttpRequest
from ninja import File, Router, UploadedFile

from plindro.core.destinations import DEFAULT_DESTINATION, destination_named
from plindro.core.line import Facts, StationsFacts, StationsSettings
from plindro.core.stations.levels import LEVELS, LevelsFacts
from plindro.core.stations.registry import STATIONS
from plindro.core.stations.source import SOURCE
from plindro.web.bench import hand_made, services, source
from plindro.web.bench.schemas import (
    LineIn,
    NameIn,
    NamesOut,
    PeerOut,
    PropDetail,
    ReplaceOut,
    SettingsIn,
    StaleOut,
    StateOut,
    UndoOut,
    Versioned,
)
from plindro.web.shipping.services import ship_names
from plindro.web.yard import queries
from plindro.web.yard.api import sorted_files
from plindro.web.yard.building import facts_of, files_of, fitting_line, source_model
from plindro.web.yard.queries import readiness
from plindro.web.yard.schemas import PropIds, RefusedFile
from plindro.web.yard.services import find_prop

router = Router(tags=["bench"])
AUTHOR_HEADER = "X-Plindro-Browser"
DECIDED = {200: PropDetail, 409: StaleOut}


def _detail(request: HttpRequest, prop_id: int) -> PropDetail:
    prop = find_prop(prop_id)
    author = author_of(request)
    last, is_own = services.last_decision(prop, author)
    built, (line, misfit) = prop.built, fitting_line(prop)
    files = files_of(built) if built else {}
    facts = facts_of(built) or StationsFacts()
    chain = facts.of(LEVELS)
    destination = destination_named(DEFAULT_DESTINATION)
    source_digest = source_model(prop)
    return PropDetail(
        id=prop.pk,
        name=prop.name,
        source_name=prop.source_name,
        line=prop.line,
        readiness="failed" if misfit else readiness(prop),
        error=misfit or prop.error,
        model=_address(files.get(("model", "")), "glb"),
        sheet=_address(files.get(("sheet", "")), "bin"),
        descent=_address(files.get(("descent", "")), "bin"),
        source_model=_address(source_digest, "glb"),
        parts=source.parts_now(prop),
        split=source.split_preview(prop),
        source_changes=source.source_changes(prop),
        peers=[PeerOut(name=name, longest=longest) for name, longest in queries.sizes(excluding=prop.pk)],
        levels=chain.levels if chain else [],
        states=_states(chain, files),
        facts=_without_lists(facts),
        findings=built.findings if built else [],
        settings=StationsSettings.model_construct(**{s.name: line.of(s) for s in STATIONS}),
        names=[
            NamesOut(root=n.root, files=list(n.files), levels=list(n.levels)) for n in ship_names(prop, destination)
        ],
        overridden={station: list(values) for station, values in prop.overrides.items()},
        version=prop.version,
        undo=UndoOut(label=last.label, is_own=is_own) if last else None,
        redo=services.redo_label(prop, author),
        triangle_budget=line.budget.triangles,
        material_budget=line.budget.materials,
        vertex_limit=destination.max_engine_vertices,
    )


def author_of(request: HttpRequest) -> str:
    """The browser that decides, as it names itself; whoever does not is nobody in particular."""
    return request.headers.get(AUTHOR_HEADER, "")[:64]


def _seen(request: HttpRequest, body: Versioned) -> services.Seen:
    return services.Seen(author_of(request), body.version)


def _address(digest: str | None, ending: str) -> str | None:
    return f"/api/files/{digest}.{ending}" if digest else None


def _without_lists(facts: Facts) -> Facts:
    """The facts without what is listed apart from them or can be long."""
    whole = facts.of(SOURCE)
    return facts.with_facts(SOURCE, whole.model_copy(update={"parts": [], "plan": []})) if whole else facts


def _states(chain: LevelsFacts | None, files: dict[tuple[str, str], str]) -> list[StateOut]:
    """The states as they were built, those that can be looked at."""
    rows = chain.states if chain else []
    models = {row.name: _address(files.get(("state", row.name)), "glb") for row in rows}
    return [StateOut(**dict(row), model=model) for row in rows if (model := models[row.name])]


@router.get("/props/{prop_id}", operation_id="props_read", response=PropDetail)
def read_prop(request: HttpRequest, prop_id: int) -> PropDetail:
    """One prop with its settings, levels, findings and the address of its model."""
    return _detail(request, prop_id)


@router.patch("/props/{prop_id}/settings", operation_id="props_decide", response=DECIDED)
def decide(request: HttpRequest, prop_id: int, body: SettingsIn) -> PropDetail:
    """Change settings of stations on this prop."""
    return _detail(request, services.decide(prop_id, body.changes, _seen(request, body)).pk)


@router.patch("/props/{prop_id}/name", operation_id="props_rename", response=DECIDED)
def rename(request: HttpRequest, prop_id: int, body: NameIn) -> PropDetail:
    """Give the prop another name."""
    return _detail(request, services.rename(prop_id, body.name, _seen(request, body)).pk)


@router.patch("/props/{prop_id}/line", operation_id="props_change_line", response=DECIDED)
def change_line(request: HttpRequest, prop_id: int, body: LineIn) -> PropDetail:
    """Put the prop on another line."""
    return _detail(request, services.change_line(prop_id, body.line, _seen(request, body)).pk)


@router.post("/props/{prop_id}/split", operation_id="props_split", response=PropIds)
def split(request: HttpRequest, prop_id: int) -> PropIds:
    """Put a prop on the board for each that the split gives, in place of this one."""
    return PropIds(ids=[prop.pk for prop in source.split(prop_id)])


@router.post("/props/{prop_id}/source", operation_id="props_replace_source", response=ReplaceOut)
def replace_source(request: HttpRequest, prop_id: int, files: File[list[UploadedFile]]) -> ReplaceOut:
    """Take a new version of the source for this prop and all others of the same source."""
    with sorted_files(request, files) as upload:
        props = source.replace_source(prop_id, upload, author_of(request))
    refused = [RefusedFile(name=name, message=message) for name, message in upload.refused]
    return ReplaceOut(props=[prop.pk for prop in props], refused=refused)


@router.post("/props/{prop_id}/levels/{number}/mesh", operation_id="props_set_hand_made", response=PropDetail)
def set_hand_made(request: HttpRequest, prop_id: int, number: int, files: File[list[UploadedFile]]) -> PropDetail:
    """Take a mesh modelled by hand for one level, with its textures and material libraries."""
    with sorted_files(request, files) as upload:
        prop = hand_made.set_hand_made(prop_id, number, upload, author_of(request))
    return _detail(request, prop.pk)


@router.post("/props/{prop_id}/undo", operation_id="props_undo", response=PropDetail)
def undo(request: HttpRequest, prop_id: int, of_anyone: bool = False) -> PropDetail:
    """Take one's own last decision back, or with ``of_anyone`` the last of another where there is no own."""
    return _detail(request, services.undo(prop_id, author_of(request), of_anyone=of_anyone).pk)


@router.post("/props/{prop_id}/redo", operation_id="props_redo", response=PropDetail)
def redo(request: HttpRequest, prop_id: int) -> PropDetail:
    """Make the decision again that one took back last."""
    return _detail(request, services.redo(prop_id, author_of(request)).pk)
