"""Reading one prop for the Bench: everything that it shows, told once for as long as nothing changes."""

from functools import lru_cache

from plindro.core.destinations import DEFAULT_DESTINATION
from plindro.core.line import Facts, StationsFacts, StationsSettings
from plindro.core.stations.levels import LEVELS, LevelsFacts
from plindro.core.stations.registry import STATIONS
from plindro.core.stations.source import SOURCE
from plindro.core.waivers import open_codes
from plindro.web.answers import mark_of
from plindro.web.bench import source
from plindro.web.bench.schemas import Company, NamesOut, PeerOut, PropDetail, StateOut, UndoOut
from plindro.web.bench.services import next_steps
from plindro.web.catalogue.entries import destination_named
from plindro.web.errors import NotFound
from plindro.web.schemas import WaiverOut
from plindro.web.shipping.services import ship_names
from plindro.web.yard import queries
from plindro.web.yard.building import address_of, facts_of, files_of, fitting_line, source_model, waivers_of
from plindro.web.yard.models import Prop
from plindro.web.yard.queries import readiness
from plindro.web.yard.services import NOT_THERE, find_prop


def detail(prop_id: int, author: str) -> PropDetail:
    """Everything that the Bench shows of a prop in the browser of ``author``."""
    prop = find_prop(prop_id)
    return _detail(prop, _company(prop_id, author, queries.board_mark()))


def detail_json(prop_id: int, author: str) -> tuple[str, bytes]:
    """The same as JSON, with the mark that is another as soon as any of it changes."""
    moments = queries.moments()
    if prop_id not in moments:
        raise NotFound(NOT_THERE)
    board, own = mark_of(*moments.items()), mark_of(prop_id, moments[prop_id])
    return mark_of(own, board, author), _joined(prop_id, own, board, author)


@lru_cache(maxsize=256)
def _joined(prop_id: int, own: str, board: str, author: str) -> bytes:
    company = _company(prop_id, author, board).model_dump_json().encode()
    return _body_json(prop_id, own)[:-1] + b"," + company[1:]


@lru_cache(maxsize=128)
def _body_json(prop_id: int, own: str) -> bytes:
    """What a prop itself tells, which is nearly all of it, under the mark of its own."""
    alone = _detail(find_prop(prop_id), Company.nobody())
    return alone.model_dump_json(exclude=set(Company.model_fields)).encode()


@lru_cache(maxsize=8)
def _sizes(board: str) -> list[tuple[int, str, float]]:
    return queries.sizes()


def _company(prop_id: int, author: str, board: str) -> Company:
    """What depends on other props, and on who asks."""
    steps = next_steps(prop_id, author)
    return Company(
        peers=[PeerOut(name=name, longest=longest) for pk, name, longest in _sizes(board) if pk != prop_id],
        undo=UndoOut(label=steps.undo.label, is_own=steps.undo.is_own) if steps.undo else None,
        redo=steps.redo.label if steps.redo else None,
    )


def _detail(prop: Prop, company: Company) -> PropDetail:
    built, (line, misfit) = prop.built, fitting_line(prop)
    files = files_of(built) if built else {}
    facts = facts_of(built) or StationsFacts()
    chain = facts.of(LEVELS)
    destination = destination_named(DEFAULT_DESTINATION)
    source_digest = source_model(prop)
    return PropDetail(
        **dict(company),
        id=prop.pk,
        name=prop.name,
        source_name=prop.source_name,
        line=prop.line,
        readiness="failed" if misfit else readiness(prop),
        error=misfit or prop.error,
        is_stale=prop.is_stale,
        model=address_of(files.get(("model", "")), "glb"),
        sheet=address_of(files.get(("sheet", "")), "bin"),
        descent=address_of(files.get(("descent", "")), "bin"),
        source_model=address_of(source_digest, "glb"),
        textures={name: f"/api/files/{digest}.bin" for (kind, name), digest in files.items() if kind == "texture"},
        parts=source.parts_now(prop),
        split=source.split_preview(prop),
        source_changes=source.source_changes(prop),
        levels=chain.levels if chain else [],
        states=_states(chain, files),
        facts=_without_lists(facts),
        findings=built.findings if built else [],
        waivable=sorted(open_codes(built.findings if built else [], waivers_of(prop))),
        waivers=[WaiverOut(code=w.code, by=w.by, reason=w.reason) for w in waivers_of(prop)],
        settings=StationsSettings.model_construct(**{s.name: line.of(s) for s in STATIONS}),
        names=[
            NamesOut(root=n.root, files=list(n.files), levels=list(n.levels)) for n in ship_names(prop, destination)
        ],
        overridden={station: list(values) for station, values in prop.own_settings.items()},
        version=prop.version,
        triangle_budget=line.budget.triangles,
        material_budget=line.budget.materials,
        vertex_limit=destination.max_engine_vertices,
    )


def _without_lists(facts: Facts) -> Facts:
    """The facts without what is listed apart from them or can be long."""
    whole = facts.of(SOURCE)
    return facts.with_facts(SOURCE, whole.model_copy(update={"parts": [], "plan": []})) if whole else facts


def _states(chain: LevelsFacts | None, files: dict[tuple[str, str], str]) -> list[StateOut]:
    """The states as they were built, those that can be looked at."""
    rows = chain.states if chain else []
    models = {row.name: address_of(files.get(("state", row.name)), "glb") for row in rows}
    return [StateOut(**dict(row), model=model) for row in rows if (model := models[row.name])]
