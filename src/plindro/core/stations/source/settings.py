"""Settings of Source: what ships, how a scene becomes props, and what happens to parts and materials."""

from typing import Literal

from pydantic import Field

from plindro.core.settings import StationSettings

Split = Literal["file", "object", "parent", "group"]


class SourceSettings(StationSettings):
    """Choices are kept by name and path, so that they hold for a new version of the source."""

    include: tuple[str, ...] = Field((), description="patterns (* ?) of names or paths that ship; none = all")
    exclude: tuple[str, ...] = Field((), description="patterns (* ?) of names or paths that do not ship")
    include_hidden: bool = Field(False, description="ship what is hidden in the source too")
    excluded_parts: tuple[str, ...] = Field(
        (), description="paths excluded by hand", json_schema_extra={"by_hand": True}
    )
    included_parts: tuple[str, ...] = Field(
        (), description="paths included by hand, whatever the rules say", json_schema_extra={"by_hand": True}
    )
    split: Split = Field("file", description="what becomes one prop")
    prop: str | None = Field(
        None,
        description="which of the props of the split this is; None = all in one",
        json_schema_extra={"by_hand": True},
    )
    instances_once: bool = Field(True, description="instances of one mesh are one prop")
    join: bool = Field(True, description="join the parts into one mesh")
    merge_materials: bool = Field(True, description="materials of the same values and images become one")
    connect_maps: bool = Field(
        False, description="maps beside the source whose names fit a material fill its empty places"
    )
    letter_materials: bool = Field(False, description="a letter before each material's name, so that the order shows")
