"""What Naming found out: every name that the prop ships under."""

from pydantic import Field

from plindro.core.settings import StationFacts


class NamingFacts(StationFacts):
    """Names of the file's root, its files, levels and proxies; ``wanted`` is the name before the house's rules."""

    wanted: str
    root: str
    files: list[str] = Field(description="without the images that some formats keep beside them")
    levels: list[str]
    proxies: list[str] = Field([], description="collision proxies")
    materials: dict[str, str] = Field({}, description="names under which materials ship, where they are others")
