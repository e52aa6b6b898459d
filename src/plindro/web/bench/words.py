"""What decisions and decided values are called, for people."""

from typing import Any

from plindro.core.stations.levels import LevelTarget
from plindro.core.stations.registry import STATIONS
from plindro.web.catalogue.entries import line_named

STATION_WORDS = {station.name: station.title for station in STATIONS} | {"budget": "Budget"}
_OWN_FIELDS = {"name": "Name", "line": "Line", "source": "Source"}
MAX_LABEL = 120


def words_of(key: str) -> str:
    """What a decided value is called."""
    station, _, setting = key.partition(".")
    return f"{STATION_WORDS.get(station, station)}: {setting.replace('_', ' ')}" if setting else _OWN_FIELDS[key]


def shown(key: str, value: Any) -> str:
    """A decided value as it is told in a line of text."""
    if key == "line":
        return line_named(value).title
    if key == "levels.levels":
        return " / ".join(LevelTarget(**target).in_words() for target in value) or "none"
    if key == "levels.lod0" and value is not None:
        return LevelTarget(**value).in_words()
    if isinstance(value, list) and value and isinstance(value[0], list | dict):
        return f"marks, {len(value)}"
    if isinstance(value, list):
        return " / ".join(f"{x:.0%}" if isinstance(x, float) else str(x) for x in value) or "none"
    if isinstance(value, bool):
        return "on" if value else "off"
    return "none" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


def label_of(changes: dict[str, dict[str, Any]]) -> str:
    """What a decision on settings, by station and setting, is called."""
    decided = [(f"{station}.{name}", value) for station, values in changes.items() for name, value in values.items()]
    return ", ".join(f"{words_of(key)} {shown(key, value)}" for key, value in decided)[:MAX_LABEL]
