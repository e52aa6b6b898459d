"""Materials in their order, with their maps found or missing."""

import re
from collections.abc import Iterator, Sequence

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Severity, counted
from plindro.core.rehearsal.chain import ChainLevel
from plindro.core.rehearsal.found import FoundImage, FoundMaterial
from plindro.core.rehearsal.seen import SeenMap, SeenMaterial

_STEP = re.compile(r"_T\d+$")
_GPU = ("DDS", "KTX2")


def check_materials(
    levels: Sequence[ChainLevel], materials: Sequence[FoundMaterial], destination: Destination
) -> Iterator[Finding]:
    """Findings about the materials that levels use and their images."""
    for material in materials:
        for row in material.maps:
            for image in row.images:
                yield from _check_image(material, row.slot, image, destination)
    if not levels:
        return
    known = {_bare(name) for name in _names(levels[0], materials)}
    for index, level in enumerate(levels):
        if any(p.material is not None and p.material >= len(materials) for p in level.primitives):
            text = f"{level.name}: a primitive names a material that is not in the file"
            yield Finding("material-unknown", Severity.STOP, text, level=index)
        new = {name for name in _names(level, materials) if _bare(name) not in known}
        if new:
            text = f"{level.name} uses {counted(len(new), 'material')} that LOD0 does not have"
            yield Finding("materials-differ", Severity.WARNING, text, len(new), index)
    most = destination.max_materials
    used = len(set(_names(levels[0], materials)))
    if most is not None and used > most:
        text = f"{counted(used, 'material')}; the destination takes {most}"
        yield Finding("materials-over-budget", Severity.WARNING, text, used - most)


def _bare(material: str) -> str:
    """A material's name without its step: with smaller textures it is still that material."""
    return _STEP.sub("", material)


def _names(level: ChainLevel, materials: Sequence[FoundMaterial]) -> list[str]:
    numbers = [p.material for p in level.primitives if p.material is not None]
    return [materials[number].name for number in numbers if number < len(materials)]


def _check_image(material: FoundMaterial, slot: str, image: FoundImage, destination: Destination) -> Iterator[Finding]:
    named = f"material '{material.name}', {slot.replace('_', ' ')}: '{image.path}'"
    if image.state == "missing":
        yield Finding("texture-missing", Severity.STOP, f"{named} is missing; {image.fault}")
        return
    if image.state == "damaged":
        yield Finding("texture-damaged", Severity.STOP, f"{named} cannot be loaded; {image.fault}")
        return
    sides = (image.width, image.height)
    if image.format.startswith(_GPU):
        if destination.textures.sizes == "power-of-two" and any(side & (side - 1) for side in sides):
            text = f"{named} is {sides[0]} x {sides[1]}; the destination takes powers of two"
            yield Finding("texture-size-odd", Severity.WARNING, text)
        if image.levels == 1 and max(sides) > 4:
            yield Finding("texture-without-mips", Severity.WARNING, f"{named} has no mips and shimmers far away")


def seen_materials(levels: Sequence[ChainLevel], materials: Sequence[FoundMaterial]) -> list[SeenMaterial]:
    """As the engine lists them; the image that it draws stands for each map."""
    users: list[list[int]] = [[] for _ in materials]
    for index, level in enumerate(levels):
        for number in {p.material for p in level.primitives}:
            if number is not None and number < len(users):
                users[number].append(index)
    return [
        SeenMaterial(name=material.name, maps=[_seen(row.slot, row.images[0]) for row in material.maps], levels=used)
        for material, used in zip(materials, users, strict=True)
    ]


def _seen(slot: str, image: FoundImage) -> SeenMap:
    return SeenMap(
        slot=slot, path=image.path, state=image.state, format=image.format, width=image.width, height=image.height,
        levels=image.levels,
    )  # fmt: skip
