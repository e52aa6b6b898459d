"""How a prop's file is laid out, besides what the prop itself says."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal
from urllib.parse import quote


def _plain_part(node: str, part: str) -> str:
    return f"{node}_{part}"


@dataclass(frozen=True, slots=True)
class FileForm:
    """The form of a file.

    stem : the name without ending of a file, from that of the prop, or of the level where each is a file
    part_name : the name of a part kept apart, from those of its level and its own
    nested : levels lie below the first one; wide : indices have 32 bits always (both of glTF)
    up, metres : the axis that points up and the metres of a unit, where a format says so (USD)
    to_shared : the way from the file to the folder that shared textures are named from
    clockwise : corners of faces go round the other way, where a format says so (USD)
    """

    stem: Callable[[str], str] = str
    part_name: Callable[[str, str], str] = _plain_part
    nested: bool = False
    wide: bool = False
    up: Literal["y", "z"] = "y"
    metres: float = 1.0
    clockwise: bool = False
    to_shared: str = ""

    def way_to(self, path: str) -> str:
        """The address of an image from where the file lies; those in a folder of their own are shared."""
        return quote(f"{self.to_shared}{path}" if "/" in path else path)


PLAIN_FORM = FileForm()
"""That of a file for which no destination asks."""
