"""What a decision changes of what is decided about a prop: the name, the line, the source, each setting of a station.

A decided value has a key: the name of the field, and of a setting ``station.setting``.
"""

from typing import Any

from plindro.core.settings_versions import brought_up

OVERRIDES = "overrides"
SOURCE = ("source_name", "source", "source_bytes", "side_files")
DECIDED = ("name", "line", OVERRIDES, *SOURCE)
"""What a decision may change on a prop."""
Decided = dict[str, Any]
"""Values of ``DECIDED``."""
UNSAID = 2
"""The version of settings in decisions that do not tell it, as none did at first."""
_UNSET = object()
"""The value of a setting that is the line's own."""


def settings_of(decided: Decided) -> dict[str, Any]:
    """The settings of a decision as the current version has them."""
    return brought_up(decided.get(OVERRIDES, {}), decided.get("settings_version", UNSAID))


def values_of(decided: Decided) -> dict[str, Any]:
    """All decided values by key."""
    values = {key: decided[key] for key in DECIDED if key in decided and key != OVERRIDES}
    for station, settings in settings_of(decided).items():
        values |= {f"{station}.{setting}": value for setting, value in settings.items()}
    return values


def changed_keys(before: Decided, after: Decided) -> list[str]:
    """The keys whose values differ."""
    old, new = values_of(before), values_of(after)
    return [key for key in {**old, **new} if old.get(key, _UNSET) != new.get(key, _UNSET)]


def holds(now: Decided, before: Decided, after: Decided) -> bool:
    """Whether everything that leads from ``before`` to ``after`` stands now as ``after`` has it."""
    current, new = values_of(now), values_of(after)
    return all(current.get(key, _UNSET) == new.get(key, _UNSET) for key in changed_keys(before, after))


def moved(now: Decided, before: Decided, after: Decided) -> Decided:
    """``now`` with what differs between ``before`` and ``after`` as ``after`` has it; all else stays."""
    result, new = {**now, OVERRIDES: {s: dict(values) for s, values in settings_of(now).items()}}, values_of(after)
    for key in changed_keys(before, after):
        station, _, setting = key.partition(".")
        if not setting:
            result[key] = new.get(key, now[key])
        elif key in new:
            result[OVERRIDES].setdefault(station, {})[setting] = new[key]
        else:
            result[OVERRIDES].get(station, {}).pop(setting, None)
    result[OVERRIDES] = {station: values for station, values in result[OVERRIDES].items() if values}
    return result
