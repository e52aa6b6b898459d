"""Reading the Yard: rows of the board from stored results."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from plindro.core.destinations import DEFAULT_DESTINATION
from plindro.core.stations.levels import LEVELS
from plindro.core.stations.placement import PLACEMENT
from plindro.core.stations.source import SOURCE
from plindro.web.answers import mark_of
from plindro.web.catalogue.entries import destination_named, one_moment
from plindro.web.yard.building import address_of, facts_of, fitting_line, pictures_of
from plindro.web.yard.models import Prop
from plindro.web.yard.schemas import PropRow, Readiness

OVERLAP = timedelta(seconds=30)
"""A row may be written down a little later than the moment that it bears."""


def readiness(prop: Prop) -> Readiness:
    """Whether a prop could ship, in one word."""
    if prop.state == Prop.State.FAILED:
        return "failed"
    if prop.state == Prop.State.WAITING:
        return "cancelled"
    if prop.state != Prop.State.BUILT or prop.built is None:
        return "working" if prop.state == Prop.State.WORKING else "failed"
    if prop.built.status == "held":
        return "held"
    # A stop that somebody has waived is still worth a look.
    return "warning" if prop.built.severities.get("warning") or prop.built.severities.get("stop") else "ready"


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
        changed=prop.changed,
        name=prop.name,
        source_name=prop.source_name,
        source_bytes=prop.source_bytes,
        line=prop.line,
        readiness="failed" if misfit else readiness(prop),
        error=misfit or prop.error,
        is_stale=prop.is_stale,
        picture=address_of(picture, "png"),
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


def sizes() -> list[tuple[int, str, float]]:
    """Numbers, names and longest sides in metres of the props on the board, the smallest first."""
    rows = Prop.objects.filter(is_removed=False, built__isnull=False)
    found = rows.values_list("pk", "name", "built__facts__placement__size")
    sides = [(pk, name, max(size or [0.0])) for pk, name, size in found]
    return sorted((row for row in sides if row[2] > 0), key=lambda row: row[2])


def moments() -> dict[int, datetime]:
    """When each prop of the board changed last.

    All of them: the latest alone would miss one that was written down later than it says.
    """
    return dict(Prop.objects.filter(is_removed=False).order_by("pk").values_list("pk", "changed"))


def board_mark() -> str:
    """A mark that is another as soon as any prop of the board is."""
    return mark_of(*moments().items())


@dataclass(frozen=True, slots=True)
class KeptRow:
    """The row of a prop as JSON, as it is since the prop changed last."""

    prop: int
    changed: datetime
    body: bytes


class Board:
    """The rows of the board, each made anew only where its prop changed."""

    def __init__(self) -> None:
        self._rows: dict[int, KeptRow] = {}

    def read(self) -> tuple[str, list[KeptRow]]:
        """The board's mark, and its rows by name."""
        props = Prop.objects.filter(is_removed=False)
        found = dict(props.values_list("pk", "changed"))
        known = {pk: row for pk, row in self._rows.items() if found.get(pk) == row.changed}
        for row in board([pk for pk in found if pk not in known]):
            known[row.id] = KeptRow(row.id, row.changed, row.model_dump_json().encode())
        self._rows = known
        return mark_of(*found.items()), [known[pk] for pk in found if pk in known]


def board(prop_ids: list[int]) -> list[PropRow]:
    """The rows of these props."""
    if not prop_ids:
        return []
    # Findings with their places are a hundred times what a row shows.
    props = Prop.objects.filter(pk__in=prop_ids).select_related("built").defer("built__findings", "built__record")
    pictures = pictures_of([prop.built for prop in props if prop.built])
    with one_moment():
        return [prop_row(prop, pictures.get(prop.built.key) if prop.built else None) for prop in props]
