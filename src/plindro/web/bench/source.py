"""The Source station's writes and reads: splitting a prop's source into props, replacing it, telling what changed."""

from django.db import transaction

from plindro.core.destinations import DEFAULT_DESTINATION
from plindro.core.findings import counted
from plindro.core.line import Facts
from plindro.core.names import unique_names
from plindro.core.scene import Part
from plindro.core.stations.naming import NAMING, house_name, names_of
from plindro.core.stations.placement import PLACEMENT
from plindro.core.stations.source import SOURCE, PartFact, PropPlan, SourceFacts, choose, plan_props
from plindro.web import store
from plindro.web.bench.disputes import Seen, refuse_stale_source
from plindro.web.bench.schemas import ChangedRow, SourceChanges, SplitRow
from plindro.web.bench.services import record, snapshot
from plindro.web.catalogue.entries import destination_named
from plindro.web.errors import NotPossible
from plindro.web.yard.building import facts_of, fitting_line
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.services import find_prop, relative_files, request_build
from plindro.web.yard.uploads import SortedUpload


def _source_facts(built: Built | None) -> SourceFacts | None:
    facts = facts_of(built)
    return facts.of(SOURCE) if facts else None


def _part_rows(prop: Prop) -> list[PartFact]:
    """The parts of the source as the last build found them."""
    source = _source_facts(prop.built)
    return source.parts if source else []


def _part(row: PartFact) -> Part:
    return Part(
        row.name, row.path, row.object, row.parent, row.group, row.hidden, row.source_mesh, is_flattened=row.flattened
    )


def parts_now(prop: Prop) -> list[PartFact]:
    """Parts of the source with whether each ships by the settings as they are now, even while a build runs."""
    rows = _part_rows(prop)
    choices = choose([_part(row) for row in rows], fitting_line(prop)[0].of(SOURCE))
    return [
        row.model_copy(update={"ships": choice.ships, "reason": choice.reason})
        for row, choice in zip(rows, choices, strict=True)
    ]


def _plans(prop: Prop) -> list[tuple[PropPlan, str, int]]:
    """The props that the split gives now, with their names and triangles."""
    rows = _part_rows(prop)
    parts = [_part(row) for row in rows]
    line = fitting_line(prop)[0]
    ships = [choice.ships for choice in choose(parts, line.of(SOURCE))]
    stem = prop.source_name.rsplit(".", 1)[0]
    plans = plan_props(parts, ships, line.of(SOURCE), stem)
    names = unique_names(house_name(plan.name, line.of(NAMING)) for plan in plans)
    return [(plan, name, sum(rows[i].triangles for i in plan.parts)) for plan, name in zip(plans, names, strict=True)]


def split_preview(prop: Prop) -> list[SplitRow]:
    """What the split would make."""
    naming = fitting_line(prop)[0].of(NAMING).model_copy(update={"name": None})
    destination = destination_named(DEFAULT_DESTINATION)
    return [
        SplitRow(
            key=plan.key,
            name=name,
            file=names_of(name, naming, destination, 0)[0].files[0],
            renamed_from=None if name == plan.name else plan.name,
            parts=len(plan.parts),
            triangles=triangles,
            instances=plan.instances,
        )
        for plan, name, triangles in _plans(prop)
    ]


def split(prop_id: int) -> list[Prop]:
    """A prop on the board for each that the split gives, in place of this one; raises ``NotPossible``."""
    with transaction.atomic():
        prop = find_prop(prop_id)
        plans = _plans(prop)
        if fitting_line(prop)[0].of(SOURCE).split == "file" or len(plans) < 1:
            raise NotPossible("the source is not split; choose objects, parents or groups first")
        prop.is_removed = True
        prop.save(update_fields=["is_removed", "changed"])
        taken = list(Prop.objects.filter(is_removed=False).order_by("pk").values_list("name", flat=True))
        names = unique_names([*taken, *(name for _, name, _ in plans)])[len(taken) :]
        made = []
        for (plan, _, _), name in zip(plans, names, strict=True):
            overrides = {**prop.own_settings, "source": {**prop.own_settings.get("source", {}), "prop": plan.key}}
            overrides["source"].setdefault("split", fitting_line(prop)[0].of(SOURCE).split)
            row = Prop.objects.create(
                name=name,
                source_name=prop.source_name,
                source=prop.source,
                source_bytes=prop.source_bytes,
                side_files=prop.side_files,
                line=prop.line,
                overrides=overrides,
            )
            request_build(row)
            made.append(row)
    return made


def replace_source(prop_id: int, upload: SortedUpload, seen: Seen) -> list[Prop]:
    """Give a prop, and all others of the same source, a new version of it; raises ``NotPossible`` and ``Stale``.

    Settings and marks stay; what no longer fits is found by the stations.
    """
    if len(upload.sources) != 1:
        raise NotPossible(f"give one source file with its textures; {len(upload.sources)} were given")
    path, new = next(iter(upload.sources.items()))
    kept = store.files()
    digest, side_files = kept.take(new), {name: kept.take(file) for name, file in upload.side_files.items()}
    with transaction.atomic():
        prop, name = find_prop(prop_id), path.rsplit("/", 1)[-1]
        refuse_stale_source(prop, name, digest, seen)
        same = Prop.objects.filter(source=prop.source, source_name=prop.source_name, is_removed=False)
        # Textures that were not given again are taken from the version before.
        files = {**prop.side_files, **relative_files(side_files, path)}
        changed = {"source_name": name, "source": digest, "source_bytes": new.size, "side_files": files}
        rows = list(same.select_related("built"))
        for row in rows:
            record(row, f"Source: {name}", {**snapshot(row), **changed}, seen.author)
    return rows


def source_changes(prop: Prop) -> SourceChanges | None:
    """What the last replacement of the source changed; None where there was none or it is not built yet."""
    for decision in prop.decisions.filter(is_undone=False).order_by("-pk"):
        before, after = decision.before, decision.after
        if before.get("source") and before["source"] != after.get("source"):
            old = facts_of(Built.objects.filter(pk=before.get("built")).first())
            new = facts_of(prop.built)
            if old is None or new is None or prop.state != Prop.State.BUILT:
                return None
            return SourceChanges(before=before["source_name"], after=after["source_name"], rows=_difference(old, new))
    return None


def _difference(old: Facts, new: Facts) -> list[ChangedRow]:
    """Rows of what, before, after."""
    one, two = old.of(SOURCE), new.of(SOURCE)
    if one is None or two is None:
        return []
    rows = []
    for what, before, after in (
        ("polygons", one.polygons, two.polygons),
        ("points", one.points, two.points),
        ("triangles", one.triangles, two.triangles),
    ):
        if before != after:
            rows.append(ChangedRow(what=what, before=str(before), after=str(after)))
    sizes = [_size(facts) for facts in (old, new)]
    if sizes[0] != sizes[1]:
        rows.append(ChangedRow(what="size", before=sizes[0], after=sizes[1]))
    for what, first, second in (
        ("part", _triangles_of_parts(one), _triangles_of_parts(two)),
        ("material", dict.fromkeys(one.materials, "there"), dict.fromkeys(two.materials, "there")),
        ("texture", _digests(one), _digests(two)),
    ):
        for name in sorted({*first, *second}):
            if first.get(name) != second.get(name):
                values = [_shown(what, side.get(name)) for side in (first, second)]
                rows.append(ChangedRow(what=f"{what} {name}", before=values[0], after=values[1]))
    return rows[:200]


def _size(facts: Facts) -> str:
    placed = facts.of(PLACEMENT)
    return " × ".join(f"{x:.3f}" for x in placed.size) + " m" if placed else "unknown"


def _triangles_of_parts(facts: SourceFacts) -> dict[str, str]:
    return {part.path: str(part.triangles) for part in facts.parts}


def _digests(facts: SourceFacts) -> dict[str, str]:
    return {texture.name: texture.digest for texture in facts.textures}


def _shown(what: str, value: str | None) -> str:
    if value is None:
        return "none"
    if what == "part":
        return counted(int(value), "triangle")
    return value[:8] if what == "texture" and value else "present"
