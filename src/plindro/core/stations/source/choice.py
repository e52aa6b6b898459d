"""Which parts of a scene ship, and which part goes into which prop."""

from collections.abc import Sequence
from dataclasses import dataclass
from fnmatch import fnmatchcase

from plindro.core.scene import Part
from plindro.core.stations.source.settings import SourceSettings


@dataclass(frozen=True, slots=True)
class Choice:
    """Whether a part ships, and the reason in two or three words."""

    ships: bool
    reason: str


@dataclass(frozen=True, slots=True)
class PropPlan:
    """A prop that a split would give: its key, its name, the numbers of its parts, and how many instances it has."""

    key: str
    name: str
    parts: tuple[int, ...]
    instances: int = 1


ZERO_SCALE = "has a scale of 0"


def choose(parts: Sequence[Part], settings: SourceSettings) -> list[Choice]:
    """For every part whether it ships: by hand before patterns, patterns before visibility."""
    return [_choose(part, settings) for part in parts]


def _choose(part: Part, settings: SourceSettings) -> Choice:
    if part.path in settings.excluded_parts:
        return Choice(False, "excluded by hand")
    if part.path in settings.included_parts:
        return Choice(True, "included by hand")
    matching = next((p for p in settings.exclude if _matches(part, p)), None)
    if matching is not None:
        return Choice(False, f"excluded by {matching}")
    if settings.include and not any(_matches(part, p) for p in settings.include):
        return Choice(False, "no include pattern matches")
    if part.is_flattened:
        return Choice(False, ZERO_SCALE)
    if part.is_hidden and not settings.include_hidden:
        return Choice(False, "hidden in the source")
    return Choice(True, "")


def _matches(part: Part, pattern: str) -> bool:
    """Whatever the case; a pattern fits the name or the whole path."""
    wanted = pattern.lower()
    return fnmatchcase(part.name.lower(), wanted) or fnmatchcase(part.path.lower(), wanted)


def plan_props(parts: Sequence[Part], ships: Sequence[bool], settings: SourceSettings, stem: str) -> list[PropPlan]:
    """The props that the split gives, in the order of their first part; parts that stay behind are in none."""
    chosen = [i for i, ships_too in enumerate(ships) if ships_too]
    if settings.split == "file":
        return [PropPlan("", stem, tuple(chosen))] if chosen else []
    groups: dict[str, list[int]] = {}
    for i in chosen:
        groups.setdefault(_key(parts[i], settings), []).append(i)
    plans = [PropPlan(key, key.rsplit("/", 1)[-1].split("#")[0] or stem, tuple(own)) for key, own in groups.items()]
    return _instances_once(plans, parts) if settings.instances_once else plans


def _key(part: Part, settings: SourceSettings) -> str:
    if settings.split == "parent":
        return part.parent or part.object or part.path
    if settings.split == "group":
        return part.group or part.object or part.path
    return part.object or part.path


def _instances_once(plans: list[PropPlan], parts: Sequence[Part]) -> list[PropPlan]:
    """Props made of just the same meshes are one prop; the first of them stands for all."""
    result: dict[tuple[str, ...], PropPlan] = {}
    for plan in plans:
        meshes = tuple(sorted(parts[i].source_mesh or parts[i].path for i in plan.parts))
        first = result.get(meshes)
        if first is None:
            result[meshes] = plan
        else:
            result[meshes] = PropPlan(first.key, first.name, first.parts, first.instances + 1)
    return list(result.values())
