"""Settings of Naming."""

from pydantic import Field, field_validator

from plindro.core.names import MAX_LENGTH, Case, is_reserved
from plindro.core.settings import StationSettings


class NamingSettings(StationSettings):
    """The house's rules, and a name of the prop's own where the source's is not wanted."""

    prefix: str = Field("", max_length=24, pattern=r"^[A-Za-z0-9_]*$", description="put in front of every name")
    suffix: str = Field("", max_length=24, pattern=r"^[A-Za-z0-9_]*$", description="put behind every name")
    case: Case = Field("keep", description="keep, lower, UPPER or Title_Case")
    hyphens: bool = Field(False, description="hyphens are allowed")
    longest: int = Field(MAX_LENGTH, ge=4, le=MAX_LENGTH, description="maximum length, without prefix and suffix")
    name: str | None = Field(
        None,
        max_length=64,
        pattern=r"^[A-Za-z0-9_-]+$",
        description="instead of the name of the source",
        json_schema_extra={"by_hand": True},
    )

    @field_validator("name")
    @classmethod
    def _is_no_device(cls, name: str | None) -> str | None:
        if name is not None and is_reserved(name):
            raise ValueError(f"'{name}' is a device on Windows, so no file can be called so; choose another name")
        return name
