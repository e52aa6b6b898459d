"""Every name that is written, made in one place: of files, of the root, of levels, and of the states of a prop."""

from collections.abc import Sequence
from dataclasses import dataclass

from plindro.core.destinations import Destination, Format
from plindro.core.names import clean_name
from plindro.core.stations.naming.settings import NamingSettings

_ENDINGS: dict[Format, tuple[str, ...]] = {"glb": (".glb",), "obj": (".obj", ".mtl"), "usd": (".usdc",)}


@dataclass(frozen=True, slots=True)
class ShippedNames:
    """``root`` of the file, ``files`` without the images that some formats keep beside them, ``levels`` in order."""

    root: str
    files: tuple[str, ...]
    levels: tuple[str, ...]


def house_name(wanted: str, settings: NamingSettings) -> str:
    """A name by the house's rules, without prefix and suffix."""
    return clean_name(wanted, case=settings.case, hyphens=settings.hyphens, longest=settings.longest)


def root_name(wanted: str, settings: NamingSettings) -> str:
    """The name that a prop ships under; one of its own comes before the ``wanted`` one."""
    return settings.prefix + house_name(settings.name or wanted, settings) + settings.suffix


def state_name(root: str, state: str) -> str:
    """The name that a state of the prop of this name ships under."""
    return f"{root}_{state}"


def level_name(root: str, index: int, destination: Destination) -> str:
    """The name of a level's node."""
    return destination.level_template.format(prop=root, level=index)


def proxy_name(root: str, index: int, destination: Destination) -> str:
    """The name of a collision proxy's node."""
    return destination.proxy_template.format(prop=root, index=index)


def names_under(root: str, n_levels: int, destination: Destination) -> ShippedNames:
    """All names of what ships under ``root``."""
    return ShippedNames(
        root,
        tuple(root + ending for ending in _ENDINGS[destination.format]),
        tuple(level_name(root, index, destination) for index in range(n_levels)),
    )


def names_of(
    wanted: str,
    settings: NamingSettings,
    destination: Destination,
    n_levels: int,
    states: Sequence[tuple[str, int]] = (),
) -> tuple[ShippedNames, ...]:
    """The names of a prop and then of its states, given by (name, number of levels)."""
    root = root_name(wanted, settings)
    return (
        names_under(root, n_levels, destination),
        *(names_under(state_name(root, state), levels, destination) for state, levels in states),
    )
