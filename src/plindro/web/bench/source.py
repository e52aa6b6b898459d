"""The Source station's writes and reads: splitting a prop's source into props, replacing it, telling what changed."""

from typing import Any

from django.db import transaction

from plindro.core.names import unique_names
from plindro.core.stations.naming import house_name
from plindro.core.scene import Part
from plindro.core.stations.source import PropPlan, choose, plan_props
from plindro.web import store
from plindro.web.bench.services import record, snapshot
from plindro.web.errors import NotPossible
from plindro.web.yard.models import Built, Prop
from plindro.web.yard.services import find_prop, line_of, relative_files, request_build
from plindro.web.yard.uploads import SortedUpload


def _parts(prop: Prop) -> list[Part]:
    """The parts of the source as the last build found them."""
    rows = prop.built.facts.get("parts", []) if prop.built else []
    return [
        Part(
            row["name"], row["path"], row["object"], row["parent"], row["group"], row["hidden"], row["source_mesh"]
        )
        for row in rows
    ]  # fmt: skip


def parts_now(prop: Prop) -> list[dict[str, Any]]:
    """Parts of the source with whether each ships by the settings as they are now, even while a build runs."""
    parts = _parts(prop)
    rows = prop.built.facts["parts"] if parts and prop.built else []
    choices = choose(parts, line_of(prop).source)
    return [{**row, "ships": choice.ships, "reason": choice.reason} for row, choice in zip(rows, choices, strict=True)]


def _plans(prop: Prop) -> list[tuple[PropPlan, str, int]]:
    """The props that the split gives now, with their file names and triangles."""
    parts = _parts(prop)
    line = line_of(prop)
    ships = [choice.ships for choice in choose(parts, line.source)]
    stem = prop.source_name.rsplit(".", 1)[0]
    plans = plan_props(parts, ships, line.source, stem)
    triangles = [row["triangles"] for row in prop.built.facts["parts"]] if prop.built and parts else []
    names = unique_names(house_name(plan.name, line.naming) for plan in plans)
    return [(plan, name, sum(triangles[i] for i in plan.parts)) for plan, name in zip(plans, names, strict=True)]


def split_preview(prop: Prop) -> list[dict[str, Any]]:
    """What the split would make: key, name, file, parts, triangles, instances."""
    naming = line_of(prop).naming
    return [
        {
            "key": plan.key,
            "name": name,
            "file": f"{naming.prefix}{name}{naming.suffix}.glb",
            "renamed_from": None if name == plan.name else plan.name,
            "parts": len(plan.parts),
            "triangles": triangles,
            "instances": plan.instances,
        }
        for plan, name, triangles in _plans(prop)
    ]


def split(prop_id: int) -> list[Prop]:
    """A prop on the board for each that the split gives, in place of this one; raises ``NotPossible``."""
    with transaction.atomic():
        prop = find_prop(prop_id)
        plans = _plans(prop)
        if line_of(prop).source.split == "file" or len(plans) < 1:
            raise NotPossible("the source is not split; choose objects, parents or groups first")
        prop.is_removed = True
        prop.save(update_fields=["is_removed", "changed"])
        taken = list(Prop.objects.filter(is_removed=False).order_by("pk").values_list("name", flat=True))
        names = unique_names([*taken, *(name for _, name, _ in plans)])[len(taken) :]
        made = []
        for (plan, _, _), name in zip(plans, names, strict=True):
            overrides = {**prop.overrides, "source": {**prop.overrides.get("source", {}), "prop": plan.key}}
            overrides["source"].setdefault("split", line_of(prop).source.split)
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


def replace_source(prop_id: int, upload: SortedUpload) -> list[Prop]:
    """Give a prop, and all others of the same source, a new version of it; raises ``NotPossible``.

    Settings and marks stay; what no longer fits is found by the stations.
    """
    if len(upload.sources) != 1:
        raise NotPossible(f"give one source file with its textures; {len(upload.sources)} were given")
    path, data = next(iter(upload.sources.items()))
    digest = store.keep(data)
    side_files = {name: store.keep(content) for name, content in upload.side_files.items()}
    with transaction.atomic():
        prop = find_prop(prop_id)
        same = Prop.objects.filter(source=prop.source, source_name=prop.source_name, is_removed=False)
        # Textures that were not given again are taken from the version before.
        files = {**prop.side_files, **relative_files(side_files, path)}
        name = path.rsplit("/", 1)[-1]
        changed = {"source_name": name, "source": digest, "source_bytes": len(data), "side_files": files}
        rows = list(same.select_related("built"))
        for row in rows:
            record(row, f"Source: {name}", {**snapshot(row), **changed})
    return rows


def source_changes(prop: Prop) -> dict[str, Any] | None:
    """What the last replacement of the source changed; None where there was none or it is not built yet."""
    for decision in prop.decisions.filter(is_undone=False).order_by("-pk"):
        before, after = decision.before, decision.after
        if before.get("source") and before["source"] != after.get("source"):
            old = Built.objects.filter(pk=before.get("built")).first()
            if old is None or prop.built is None or prop.state != Prop.State.BUILT:
                return None
            rows = _difference(old.facts, prop.built.facts)
            return {"before": before["source_name"], "after": after["source_name"], "rows": rows}
    return None


def _difference(old: dict[str, Any], new: dict[str, Any]) -> list[dict[str, str]]:
    """Rows of what, before, after."""
    rows = []
    for key, label in (("polygons", "polygons"), ("points", "points"), ("triangles", "triangles")):
        if old.get(key) != new.get(key):
            rows.append({"what": label, "before": str(old.get(key, 0)), "after": str(new.get(key, 0))})
    sizes = [" × ".join(f"{x:.3f}" for x in facts.get("size", [])) + " m" for facts in (old, new)]
    if sizes[0] != sizes[1]:
        rows.append({"what": "size", "before": sizes[0], "after": sizes[1]})
    for what, before, after in (
        ("part", _triangles_of_parts(old), _triangles_of_parts(new)),
        ("material", dict.fromkeys(old["materials"], "there"), dict.fromkeys(new["materials"], "there")),
        ("texture", _digests(old), _digests(new)),
    ):
        for name in sorted({*before, *after}):
            if before.get(name) != after.get(name):
                values = [_shown(what, side.get(name)) for side in (before, after)]
                rows.append({"what": f"{what} {name}", "before": values[0], "after": values[1]})
    return rows[:200]


def _triangles_of_parts(facts: dict[str, Any]) -> dict[str, str]:
    return {part["path"]: str(part["triangles"]) for part in facts["parts"]}


def _digests(facts: dict[str, Any]) -> dict[str, str]:
    return {texture["name"]: texture.get("digest", "") for texture in facts["textures"]}


def _shown(what: str, value: str | None) -> str:
    if value is None:
        return "not there"
    return f"{value} triangles" if what == "part" else value[:8] if what == "texture" and value else "there"
