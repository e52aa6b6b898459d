"""Names that every engine takes: letters, digits and underscores, never two the same."""

import re
import unicodedata
from collections.abc import Iterable

MAX_LENGTH = 64


def clean_name(name: str) -> str:
    """``name`` without blanks, accents and odd characters; never empty."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    plain = re.sub(r"[^A-Za-z0-9_]+", "_", plain).strip("_")
    return plain[:MAX_LENGTH].strip("_") or "prop"


def unique_names(names: Iterable[str]) -> list[str]:
    """The names in their order, a repeated one with _2, _3 ... (whatever its case: file systems fold it)."""
    taken: set[str] = set()
    result = []
    for name in names:
        candidate, number = name, 1
        while candidate.lower() in taken:
            number += 1
            candidate = f"{name}_{number}"
        taken.add(candidate.lower())
        result.append(candidate)
    return result
