"""Files by content: written once under their digest, never changed."""

import hashlib
from pathlib import Path

from django.conf import settings

from plindro.core.shipping import write_whole


def path_of(digest: str) -> Path:
    """Where the file of a digest lies."""
    return Path(settings.FILES) / digest[:2] / digest


def keep(data: bytes) -> str:
    """Store bytes; returns their SHA-256."""
    digest = hashlib.sha256(data).hexdigest()
    path = path_of(digest)
    if not path.exists():
        write_whole(path, data)
    return digest


def load(digest: str) -> bytes:
    """The bytes of a digest; raises ``FileNotFoundError``."""
    return path_of(digest).read_bytes()


def remove_unfinished() -> int:
    """Remove what a stopped server left half-written, while nothing is being written; returns how many files."""
    parts = [part for folder in (settings.FILES, settings.SHIPMENTS) for part in Path(folder).rglob("*.part")]
    for part in parts:
        part.unlink(missing_ok=True)
    return len(parts)
