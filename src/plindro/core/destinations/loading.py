"""Settings from JSON files, and what is wrong with them in one line."""

import json
from pathlib import Path
from typing import TypeVar

from pydantic import ValidationError

from plindro.core.errors import InvalidSettings
from plindro.core.settings import StationSettings

Settings = TypeVar("Settings", bound=StationSettings)


def load_settings(path: str, model: type[Settings], what: str, known: list[str]) -> Settings:
    """Settings from a JSON file; raises ``InvalidSettings`` with what is wrong and what would do."""
    file = Path(path)
    if not file.is_file():
        raise InvalidSettings(f"there is no {what} '{path}'; known are {', '.join(known)}, or give a JSON file")
    try:
        return model.model_validate(json.loads(file.read_text("utf-8")))
    except ValidationError as error:
        raise InvalidSettings(f"{path}: {describe(error)}; --export shows a whole {what}") from error
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InvalidSettings(f"{path}: is not valid JSON ({error})") from error


def describe(error: ValidationError) -> str:
    """The first problem of a validation error in one line."""
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"])
    if first["type"] == "missing":
        return f"'{place}' is missing"
    if first["type"] == "extra_forbidden":
        return f"'{place}' is not a setting"
    return f"{place + ': ' if place else ''}{first['msg'].removeprefix('Value error, ')}"
