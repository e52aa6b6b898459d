"""Every name that is written, made in one place: of files, of the root, of levels, and of the states of a prop."""

from collections.abc import Sequence
from dataclasses import dataclass

from plindro.core.destinations import Destination
from plindro.core.names import clean_name
from plindro.core.prop import Prop
from plindro.core.stations.naming.settings import NamingSettings


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


def names_under(root: str, n_levels: int, destination: Destination) -> ShippedNames:
    """All names of what ships under ``root``."""
    levels = tuple(destination.level_name(root, index) for index in range(n_levels))
    return ShippedNames(root, destination.files(root, levels), levels)


def material_names(prop: Prop, destination: Destination) -> list[str]:
    """The names under which a prop's materials ship, in their order."""
    return [destination.material_name(prop.name, material.name) for material in prop.materials]


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
        *(names_under(destination.state_name(root, state), levels, destination) for state, levels in states),
    )
