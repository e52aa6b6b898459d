"""The lines that come with the product, and lines from files."""

from typing import Any

from plindro.core.destinations import load_settings
from plindro.core.errors import InvalidSettings
from plindro.core.line import Line, StationLine


def _line(name: str, title: str, **stations: dict[str, Any]) -> Line:
    return StationLine.model_validate({"name": name, "title": title, **stations})


LINES: tuple[Line, ...] = (
    _line("standing", "Standing prop"),
    _line(
        "small",
        "Small prop",
        placement={"expected_size_m": (0.01, 2.0)},
        levels={"levels": ({"ratio": 0.4}, {"ratio": 0.12})},
        budget={"triangles": 8_000, "materials": 2},
    ),
    _line(
        "held",
        "Held up to the camera, no levels",
        placement={"pivot": "held", "expected_size_m": (0.02, 3.0)},
        levels={"levels": ()},
        budget={"triangles": 40_000, "materials": 3},
    ),
    _line("hanging", "Hanging prop", placement={"pivot": "hangs"}),
    _line("hinged", "Door, lid or flap", placement={"pivot": "hinges"}),
    _line("modular", "Modular piece on a grid", placement={"pivot": "grid", "expected_size_m": (0.1, 60.0)}),
)
DEFAULT_LINE = "standing"


def line_named(name: str) -> Line:
    """A built-in line; raises ``InvalidSettings``. No file is looked at, whatever the name."""
    for line in LINES:
        if line.name == name:
            return line
    raise InvalidSettings(f"there is no line '{name}'; give one of {', '.join(line.name for line in LINES)}")


def get_line(name_or_file: str) -> Line:
    """A built-in line by name, or one from a JSON file; raises ``InvalidSettings``."""
    if any(line.name == name_or_file for line in LINES):
        return line_named(name_or_file)
    return load_settings(name_or_file, StationLine, "line", [known.name for known in LINES])
