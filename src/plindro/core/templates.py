"""Templates of names: text with variables in plain braces, as ``{prop}_LOD{level}``."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from pydantic_core import PydanticCustomError

_ALLOWED = re.compile(r"[A-Za-z0-9_.-]")
_NUMBERS = frozenset({"level", "index"})
"""Variables that stand for a number."""


class TemplateError(ValueError):
    """What is wrong with a template, and at which character, counted from 0."""

    def __init__(self, message: str, place: int) -> None:
        super().__init__(message)
        self.message, self.place = message, place


@dataclass(frozen=True, slots=True)
class _Variable:
    name: str


@dataclass(frozen=True, slots=True)
class Template:
    """A template that was read: literal text and variables in their order."""

    pieces: tuple[str | _Variable, ...]

    def fill(self, values: Mapping[str, object]) -> str:
        """The name with these values."""
        return "".join(piece if isinstance(piece, str) else str(values[piece.name]) for piece in self.pieces)

    def pattern(self) -> re.Pattern[str]:
        """What finds names of the template: a group a variable, of digits where it is a number."""
        seen: set[str] = set()
        text = ""
        for piece in self.pieces:
            if isinstance(piece, str):
                text += re.escape(piece)
            elif piece.name in seen:
                text += f"(?P={piece.name})"
            else:
                seen.add(piece.name)
                text += f"(?P<{piece.name}>{r'[0-9]+' if piece.name in _NUMBERS else '.+'})"
        return re.compile(text + r"\Z")


@lru_cache(maxsize=256)
def read_template(text: str, known: tuple[str, ...], needed: tuple[str, ...] = ()) -> Template:
    """Read a template that may use the ``known`` variables and has each of those ``needed`` exactly once.

    Raises ``TemplateError``.
    """
    pieces: list[str | _Variable] = []
    places: dict[str, list[int]] = {}
    at = 0
    while at < len(text):
        if text[at] == "{":
            end = text.find("}", at)
            if end < 0:
                raise TemplateError("the brace is not closed", at)
            name = text[at + 1 : end]
            if name not in known:
                raise TemplateError(f"there is no {{{name}}}; {_listed(known)} can be used", at)
            places.setdefault(name, []).append(at)
            pieces.append(_Variable(name))
            at = end + 1
        elif text[at] == "}":
            raise TemplateError("the brace was not opened", at)
        elif not _ALLOWED.match(text[at]):
            raise TemplateError(f"'{text[at]}' cannot be in a name; use letters, digits, _ - .", at)
        else:
            pieces.append(text[at])
            at += 1
    for name in needed:
        if name not in places:
            raise TemplateError(f"{{{name}}} is missing, which tells names apart", len(text))
        if len(places[name]) > 1:
            raise TemplateError(f"{{{name}}} stands here a second time", places[name][1])
    _check_numbers(pieces, places)
    return Template(tuple(pieces))


def _check_numbers(pieces: list[str | _Variable], places: Mapping[str, list[int]]) -> None:
    """A number needs something that is no digit on either side, or it cannot be read out of a name."""
    for before, after in pairwise(pieces):
        for piece, beside in ((before, after), (after, before)):
            if not isinstance(piece, _Variable) or piece.name not in _NUMBERS:
                continue
            if isinstance(beside, _Variable) or beside.isdigit():
                text = f"{{{piece.name}}} needs a letter or a sign beside it, to be told from what stands there"
                raise TemplateError(text, places[piece.name][0])


def _listed(names: tuple[str, ...]) -> str:
    return " ".join(f"{{{name}}}" for name in names)


def checked_template(text: str, known: tuple[str, ...], needed: tuple[str, ...] = ()) -> str:
    """``text`` for a validator of settings: raises what pydantic tells with its place."""
    try:
        read_template(text, known, needed)
    except TemplateError as error:
        message = f"{error.message} (character {error.place + 1})"
        raise PydanticCustomError("template", "{reason}", {"reason": message, "place": error.place}) from error
    return text
