"""Names that every engine takes, by the house's rules; never two the same."""

import re
import unicodedata
from collections.abc import Iterable
from typing import Literal

MAX_LENGTH = 64
RESERVED = frozenset({"con", "prn", "aux", "nul", *(f"{port}{n}" for port in ("com", "lpt") for n in range(10))})
"""Names that Windows keeps for devices, whatever their case and ending: no file can be called so."""
Case = Literal["keep", "lower", "upper", "title"]


def clean_name(name: str, *, case: Case = "keep", hyphens: bool = False, longest: int = MAX_LENGTH) -> str:
    """``name`` without blanks, accents and odd characters; never empty.

    Letters, digits and underscores stay, with ``hyphens`` hyphens too; ``title`` makes Words_Like_This. What Windows
    keeps for devices gets an ending.
    """
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    plain = re.sub(r"[^A-Za-z0-9_-]+" if hyphens else r"[^A-Za-z0-9_]+", "_", plain).strip("_-")
    if case == "lower":
        plain = plain.lower()
    elif case == "upper":
        plain = plain.upper()
    elif case == "title":
        plain = re.sub(r"(^|[_-])([a-z])", lambda found: found[1] + found[2].upper(), plain)
    plain = plain[:longest].strip("_-") or "prop"
    return f"{plain}_prop" if is_reserved(plain) else plain


def is_reserved(name: str) -> bool:
    """Whether no file can be called so on Windows."""
    return name.lower() in RESERVED


def unique_names(names: Iterable[str]) -> list[str]:
    """The names in their order, a repeated one with _2, _3 ... (whatever its case: file systems fold it)."""
    taken: set[str] = set()
    numbers: dict[str, int] = {}
    result = []
    for name in names:
        # Every lower number of the name is taken: only higher ones need to be tried.
        candidate, number = name, numbers.get(name.lower(), 1)
        while candidate.lower() in taken:
            number += 1
            candidate = f"{name}_{number}"
        numbers[name.lower()] = number
        taken.add(candidate.lower())
        result.append(candidate)
    return result
