"""Selections of props that are shipped together again and again."""

from collections.abc import Sequence

from plindro.web.errors import NotFound, NotPossible
from plindro.web.shipping.models import Selection
from plindro.web.yard.models import Prop

_LONGEST = 80


def selections() -> list[tuple[Selection, list[int]]]:
    """All selections by name, each with those of its props that are on the board."""
    there = set(Prop.objects.filter(is_removed=False).values_list("pk", flat=True))
    return [(row, [prop for prop in row.props if prop in there]) for row in Selection.objects.all()]


def save_selection(name: str, prop_ids: Sequence[int]) -> Selection:
    """Keep these props under a name, in the place of those that it had; raises ``NotPossible``."""
    plain = " ".join(name.split())
    if not plain or len(plain) > _LONGEST:
        raise NotPossible(f"a selection's name has 1 to {_LONGEST} characters")
    known = sorted(Prop.objects.filter(pk__in=prop_ids, is_removed=False).values_list("pk", flat=True))
    if not known:
        raise NotPossible("choose at least one prop to keep in a selection")
    row, _ = Selection.objects.update_or_create(name=plain, defaults={"props": known})
    return row


def remove_selection(name: str) -> None:
    """Forget a selection; its props stay. Raises ``NotFound``."""
    if not Selection.objects.filter(name=name).delete()[0]:
        raise NotFound(f"there is no selection '{name}' any more")
