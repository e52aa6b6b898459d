"""Settings of Naming."""

from pydantic import Field

from plindro.core.settings import StationSettings


class NamingSettings(StationSettings):
    """House prefix, and a name of the prop's own where the file's name is not wanted."""

    prefix: str = Field("", max_length=24, pattern=r"^[A-Za-z0-9_]*$", description="put in front of every name")
    name: str | None = Field(
        None, max_length=64, pattern=r"^[A-Za-z0-9_]+$", description="instead of the name of the source file"
    )
