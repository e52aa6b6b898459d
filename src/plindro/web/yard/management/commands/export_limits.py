"""Print the limits of the stations' numbers, so that a field knows them before the server is asked."""

import json
from typing import Any

from django.core.management.base import BaseCommand

from plindro.core.stations.registry import STATIONS

_WORDS = {"minimum": "low", "exclusiveMinimum": "above", "maximum": "high"}


def limits() -> dict[str, dict[str, dict[str, Any]]]:
    """By station and setting: ``low``, ``above`` and ``high`` where there are any, and whether it is ``whole``."""
    found: dict[str, dict[str, dict[str, Any]]] = {}
    for station in STATIONS:
        for key, schema in station.settings.model_json_schema()["properties"].items():
            if schema.get("type") in ("number", "integer"):
                own = {word: schema[name] for name, word in _WORDS.items() if name in schema}
                found.setdefault(station.name, {})[key] = own | {"whole": schema["type"] == "integer"}
    return found


class Command(BaseCommand):
    """``manage export_limits``: limits of numbers by station and setting, as JSON on stdout."""

    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(json.dumps(limits(), indent=2, sort_keys=True))
