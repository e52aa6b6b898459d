"""Which stored files somebody still needs, and which results."""

from collections.abc import Iterator
from dataclasses import dataclass

from plindro.web.bench.models import Decision
from plindro.web.sheets.models import SharedSheet
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.yard.building import SOURCE_KIND, SourceFiles, source_of
from plindro.web.yard.models import KeptFile, Prop


@dataclass(frozen=True, slots=True)
class References:
    """Digests of the files that are sources, and of those that results left behind."""

    sources: frozenset[str]
    results: frozenset[str]


def sources_in_use() -> dict[str, SourceFiles]:
    """Every source that a prop has, had before a decision that can be undone, or will be shipped with, by its key."""
    found = [source_of(prop) for prop in Prop.objects.all()]
    for sides in Decision.objects.values_list("before", "after"):
        # Decisions of an early version tell of the settings alone.
        found += [SourceFiles(s["source_name"], s["source"], s["side_files"]) for s in sides if s.get("source")]
    waiting = ShipmentItem.objects.filter(state=ShipmentItem.State.WAITING)
    found += [SourceFiles(**source) for source in waiting.values_list("source", flat=True)]
    return {source.key: source for source in found}


def files_in_use() -> References:
    """The files that some row refers to."""
    sources = sources_in_use().values()
    kept = KeptFile.objects.exclude(digest="").values_list("digest", flat=True)
    return References(
        frozenset(digest for source in sources for digest in (source.digest, *source.side_files.values())),
        frozenset([*kept, *_shipped(), *SharedSheet.objects.exclude(picture="").values_list("picture", flat=True)]),
    )


def _shipped() -> Iterator[str]:
    """What the ledger tells of: the files of all shipments, the pictures of their props, reports and contact sheets."""
    for files, picture in ShipmentItem.objects.values_list("files", "picture"):
        yield from files.values()
        yield from [picture] if picture else []
    for extras in Shipment.objects.values_list("extras", flat=True):
        yield from extras.values()


def models_without_source() -> list[int]:
    """Rows of models whose source nobody needs any more."""
    in_use = sources_in_use()
    rows = KeptFile.objects.filter(kind=SOURCE_KIND).values_list("pk", "key")
    return [pk for pk, key in rows if key not in in_use]
