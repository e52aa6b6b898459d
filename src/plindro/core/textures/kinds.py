"""What a map is for: told by the material slot that it fills, else by its name, else by what its pixels look like."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import PurePosixPath

import numpy as np

from plindro.core.mesh.mesh import F32
from plindro.core.scene import TextureSlot
from plindro.core.textures.rules import By, Kind

IN_LIGHT: frozenset[Kind] = frozenset({"color", "emissive"})
"""Kinds that hold colours: sRGB values, to be averaged as the light they stand for."""
ONE_CHANNEL: frozenset[Kind] = frozenset({"roughness", "metallic", "occlusion", "opacity", "height", "mask"})

_OF_SLOT: dict[TextureSlot, Kind] = {
    "base_color": "color",
    "normal": "normal",
    "metallic_roughness": "packed",
    "occlusion": "occlusion",
    "emissive": "emissive",
}
_OF_ENDING: dict[str, Kind] = {
    **dict.fromkeys(("color", "colour", "albedo", "basecolor", "diffuse", "diff", "col", "bc", "alb", "d"), "color"),
    **dict.fromkeys(("normal", "normals", "nrm", "norm", "nor", "n"), "normal"),
    **dict.fromkeys(("roughness", "rough", "rgh", "r"), "roughness"),
    **dict.fromkeys(("metallic", "metalness", "metal", "mtl", "met", "m"), "metallic"),
    **dict.fromkeys(("occlusion", "ao", "occ"), "occlusion"),
    **dict.fromkeys(("opacity", "alpha", "cutout", "transparency"), "opacity"),
    **dict.fromkeys(("height", "bump", "displacement", "disp", "h"), "height"),
    **dict.fromkeys(("emissive", "emission", "glow", "emit", "e"), "emissive"),
    **dict.fromkeys(("mask", "id"), "mask"),
    **dict.fromkeys(("orm", "arm", "rma", "mra", "metallicroughness", "packed", "mr"), "packed"),
}
_RESOLUTION = re.compile(r"[ _.-]+\d+k?$", re.IGNORECASE)
"""What often stands behind the kind in a name, as in ``anchor_rough_2k.png``."""
_UNIT_NORMAL = 0.08
"""How far from 1 the mean length of vectors may be in a map that is taken for normals."""


@dataclass(frozen=True, slots=True)
class Guess:
    """What a map is for, and what told so."""

    kind: Kind
    by: By


def kind_of(name: str, values: F32, slots: frozenset[TextureSlot]) -> Guess:
    """The kind of a map called ``name``, (H, W, C) values from 0 to 1, that fills ``slots`` of materials.

    A map that fills both the occlusion and the metallic-roughness slot is packed.
    """
    if kind := kind_of_slots(slots):
        return Guess(kind, "slot")
    named = kind_of_name(name)
    return Guess(named, "name") if named else Guess(kind_of_content(values), "content")


def kind_of_slots(slots: Iterable[TextureSlot]) -> Kind | None:
    """The kind of what fills these slots of materials; None where it fills none."""
    found = {_OF_SLOT[slot] for slot in slots}
    return next((kind for kind in ("packed", *_OF_SLOT.values()) if kind in found), None)


@dataclass(frozen=True, slots=True)
class NamedKind:
    """What a file's name says: the kind, and what stands before it, in small letters."""

    kind: Kind
    stem: str


def named_kind(name: str) -> NamedKind | None:
    """The kind that a file name's last word or two say, as in ``anchor_rough.png``; None where they say none."""
    stem = _RESOLUTION.sub("", PurePosixPath(name).stem)
    words = list(re.finditer(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])", stem))
    if len(words) < 2 and (not words or len(words[0].group()) < 3):
        return None
    for count in (2, 1):
        last = words[-count:]
        kind = _OF_ENDING.get("".join(word.group() for word in last).lower())
        if kind:
            return NamedKind(kind, stem[: last[0].start()].rstrip(" _-.").casefold())
    return None


def kind_of_name(name: str) -> Kind | None:
    """The kind that a file name says, if any."""
    told = named_kind(name)
    return told.kind if told else None


def kind_of_content(values: F32) -> Kind:
    """The kind that pixels look like: unit vectors that point out, one grey channel, or colours."""
    few = values[:: max(1, values.shape[0] // 128), :: max(1, values.shape[1] // 128)]
    if few.shape[2] < 3:
        return "mask"
    vectors = few[..., :3] * 2.0 - 1.0
    lengths = np.linalg.norm(vectors, axis=-1)
    if abs(float(lengths.mean()) - 1.0) < _UNIT_NORMAL and float((vectors[..., 2] > 0.0).mean()) > 0.98:
        return "normal"
    return "mask" if is_grey(few) else "color"


def is_grey(values: F32) -> bool:
    """Whether the first three channels say the same, to a step of 8 bits."""
    if values.shape[2] < 3:
        return True
    first = values[..., 0]
    return all(float(np.abs(values[..., c] - first).max(initial=0.0)) <= 1.5 / 255.0 for c in (1, 2))
