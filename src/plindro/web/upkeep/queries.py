"""What fills the store."""

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from plindro.web import store
from plindro.web.upkeep.references import files_in_use
from plindro.web.upkeep.services import unused_files


@dataclass(frozen=True, slots=True)
class Share:
    """One thing that fills the store, with the number of its files and their bytes."""

    name: str
    files: int
    bytes: int


@dataclass(frozen=True, slots=True)
class Usage:
    """All shares; of the unused files, how many bytes are old enough to be removed."""

    shares: tuple[Share, ...]
    removable: int

    @property
    def bytes(self) -> int:
        return sum(share.bytes for share in self.shares)


def usage() -> Usage:
    """What lies on the disk now."""
    in_use, kept = files_in_use(), store.files()
    unused = list(unused_files())
    before = timezone.now() - settings.GRACE
    database = Path(str(settings.DATABASES["default"]["NAME"]))
    shares = (
        _share("sources", (kept.path_of(digest) for digest in in_use.sources)),
        _share("results", (kept.path_of(digest) for digest in in_use.results - in_use.sources)),
        _share("shipments", Path(settings.SHIPMENTS).rglob("*")),
        Share("unused", len(unused), sum(size for _, size, _ in unused)),
        _share("database", database.parent.glob(f"{database.name}*")),
    )
    return Usage(shares, sum(size for _, size, since in unused if since < before))


def _share(name: str, paths: Iterable[Path]) -> Share:
    sizes = [path.stat().st_size for path in paths if path.is_file()]
    return Share(name, len(sizes), sum(sizes))
