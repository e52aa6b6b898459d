"""How much a source may hold: counted while it is read, and refused in one sentence before it is built up."""

import os
from collections.abc import Iterable
from dataclasses import dataclass, fields

import numpy as np

from plindro.core.errors import UnreadableFile
from plindro.core.findings import grouped
from plindro.core.mesh.mesh import Mesh
from plindro.core.scene import Image

VARIABLE = "PLINDRO_MAX_"


@dataclass(frozen=True, slots=True)
class SourceLimits:
    """The most that a source may hold.

    ``nodes`` are objects of any kind, each instance of one counted; ``depth`` is how many of them hang below each
    other. ``image_pixels`` is for one image and ``all_image_pixels`` for all together.
    """

    vertices: int = 5_000_000
    faces: int = 5_000_000
    polygon_sides: int = 4_000
    nodes: int = 10_000
    depth: int = 256
    image_pixels: int = 16_384 * 16_384
    all_image_pixels: int = 4 * 16_384 * 16_384


def _from_environment() -> SourceLimits:
    """The limits with those that the environment sets, as ``PLINDRO_MAX_FACES``."""
    named = {field.name: os.environ.get(VARIABLE + field.name.upper(), "") for field in fields(SourceLimits)}
    return SourceLimits(**{name: int(text) for name, text in named.items() if text.isdigit()})


LIMITS = _from_environment()
_WORDS = {
    "polygon_sides": "a polygon of {} sides",
    "depth": "nodes {} deep",
    "image_pixels": "{} pixels",
    "all_image_pixels": "{} pixels in all images together",
}
_ADVICE = {
    "depth": "flatten its hierarchy",
    "polygon_sides": "cut the polygon into smaller ones",
    "image_pixels": "make the image smaller",
    "all_image_pixels": "make its images smaller",
}


class Census:
    """Counts what a source holds; raises ``UnreadableFile`` as soon as it is more than it may."""

    def __init__(self, name: str, limits: SourceLimits = LIMITS) -> None:
        self._name, self._limits = name, limits
        self._counts: dict[str, int] = {}

    def add(self, **more: int) -> None:
        """Count more of what adds up, as ``faces``."""
        for what, count in more.items():
            self._counts[what] = self._counts.get(what, 0) + count
            self.at_most(**{what: self._counts[what]})

    def at_most(self, **found: int) -> None:
        """Compare single figures, as a ``depth``."""
        for what, count in found.items():
            most: int = getattr(self._limits, what)
            if count > most:
                text = f"has {_WORDS.get(what, '{} ' + what).format(grouped(count))}; the limit is {grouped(most)}"
                advice = _ADVICE.get(what, "give it in several files")
                raise UnreadableFile(f"{self._name}: {text}; {advice}, or set {VARIABLE}{what.upper()} higher")

    def check(self, mesh: Mesh) -> None:
        """Compare a mesh that was read."""
        sides = int(np.diff(mesh.face_start).max(initial=0))
        self.at_most(vertices=mesh.n_vertices, faces=mesh.n_faces, polygon_sides=sides)


def check_image(name: str, size: tuple[int, int], beside: Iterable[Image]) -> None:
    """Compare an image of (width, height) that is about to be decoded, and all with those ``beside`` it."""
    pixels, census = size[0] * size[1], Census(name)
    census.at_most(image_pixels=pixels)
    census.at_most(all_image_pixels=pixels + sum(image.width * image.height for image in beside))
