"""What a draft of a line or a destination does to the props of the board."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict
from typing import Any

from pydantic import ValidationError

from plindro.core.destinations import DEFAULT_DESTINATION, Destination
from plindro.core.errors import InvalidSettings
from plindro.core.line import Facts, Line, override
from plindro.core.shipping import find_clash, owners_of
from plindro.core.stations.collision import COLLISION
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.naming import ShippedNames
from plindro.core.stations.source import SOURCE
from plindro.core.stations.textures import TEXTURES
from plindro.core.stations.uvs import UVS
from plindro.web.catalogue.drafts import Difference, Faulty, differences, read_draft
from plindro.web.catalogue.entries import Kind, destination_named, entries, one_moment
from plindro.web.house.schemas import (
    DifferenceOut,
    DraftOut,
    FaultOut,
    NamedProp,
    PropFigures,
)
from plindro.web.shipping.left_behind import last_files, left_at
from plindro.web.shipping.services import files_of_names, ship_names
from plindro.web.yard.building import facts_of, fitting_line
from plindro.web.yard.models import Prop

_MIB = 2.0**20


def draft_out(kind: Kind, data: dict[str, Any]) -> DraftOut:
    """What is wrong with a draft; where nothing is, what differs from what stands, and all props under it."""
    try:
        draft = read_draft(kind, data)
    except Faulty as error:
        return DraftOut(faults=[FaultOut(**asdict(fault)) for fault in error.faults], changes=[], props=[])
    saved = draft.model_dump(mode="json")
    stands = entries(kind).get(saved["name"])
    changes = told(differences(stands.value.model_dump(mode="json"), saved)) if stands else []
    rows = Prop.objects.filter(is_removed=False).select_related("built").defer("built__findings", "built__record")
    props = list(rows.filter(line=saved["name"]) if kind == "line" else rows)
    destination = draft if isinstance(draft, Destination) else destination_named(DEFAULT_DESTINATION)
    with one_moment():
        return DraftOut(faults=[], changes=changes, props=_named(props, draft, destination))


def told(changes: Iterable[Difference]) -> list[DifferenceOut]:
    """Differences as the API tells them."""
    return [DifferenceOut(**asdict(change)) for change in changes]


def _line(prop: Prop, draft: Any) -> Line:
    """The line under which a prop would be named."""
    if isinstance(draft, Line):
        try:
            return override(draft, prop.own_settings)
        except (InvalidSettings, ValidationError):
            return draft
    return fitting_line(prop)[0]


def _named(props: Sequence[Prop], draft: Any, destination: Destination) -> list[NamedProp]:
    names = {prop.pk: ship_names(prop, destination, _line(prop, draft)) for prop in props}
    files = {prop.name: files_of_names(names[prop.pk]) for prop in props}
    owners = owners_of(files.items())
    shipped = last_files(destination)
    rows = []
    for prop in props:
        facts, base = facts_of(prop.built), names[prop.pk][0]
        own, clash = files[prop.name], find_clash(prop.name, files[prop.name], owners)
        rows.append(
            NamedProp(
                id=prop.pk,
                name=prop.name,
                files=own,
                nodes=[*base.levels, *_proxies(facts, base, destination)],
                materials=_materials(facts, base, destination),
                clash=clash.message if clash else "",
                left=left_at(names[prop.pk], destination, shipped.get(prop.pk, [])),
                figures=_costs(facts),
            )
        )
    return rows


def _proxies(facts: Facts | None, names: ShippedNames, destination: Destination) -> list[str]:
    collision = facts.of(COLLISION) if facts else None
    rows = collision.proxies if collision else []
    return [destination.proxy_name(names.root, index, row.shape) for index, row in enumerate(rows)]


def _materials(facts: Facts | None, names: ShippedNames, destination: Destination) -> list[str]:
    source = facts.of(SOURCE) if facts else None
    return [destination.material_name(names.root, name) for name in (source.materials if source else [])]


def _costs(facts: Facts | None) -> PropFigures | None:
    chain = facts.of(LEVELS) if facts else None
    if facts is None or chain is None or not chain.levels:
        return None
    source, textures = facts.of(SOURCE), facts.of(TEXTURES)
    collision, uvs = facts.of(COLLISION), facts.of(UVS)
    rows = textures.textures if textures else []
    return PropFigures(
        vertices=max(level.vertices for level in chain.levels),
        triangles=[level.triangles for level in chain.levels],
        materials=len(source.materials) if source else 0,
        channels=len(uvs.channels) if uvs else 0,
        proxies=len(collision.proxies) if collision else 0,
        texture_mib=(textures.gpu_bytes if textures else 0) / _MIB,
        largest_image=max((max(row.width, row.height) for row in rows), default=0),
    )
