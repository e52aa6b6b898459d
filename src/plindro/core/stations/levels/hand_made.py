"""Levels that someone modelled: what must agree with LOD0, and what is said where it does not."""

from dataclasses import dataclass, field

import numpy as np

from plindro.core.findings import Finding, Severity, length
from plindro.core.measure.change import Change
from plindro.core.mesh.mesh import Mesh

_OFF = 0.05
"""Share of LOD0's diagonal by which the middle, and of each side by which the size, may differ."""
_OTHER_OUTLINE = 0.1
"""Share of the outline's area that may change."""


@dataclass(frozen=True, slots=True)
class HandMade:
    """A mesh for one level, in LOD0's place and numbering of materials and parts; ``problem`` where it is of no use.

    ``has_parts`` is False where none of its parts is named as one of LOD0's: what is missing cannot be told then.
    """

    name: str
    mesh: Mesh | None = None
    problem: str = ""
    unknown_materials: tuple[str, ...] = field(default=())
    n_channels: int = 0
    has_parts: bool = True


def check_by_hand(made: HandMade, mesh: Mesh, first: Mesh, change: Change, index: int) -> list[Finding]:
    """What differs from LOD0 in pivot, size, materials, UVs and outline."""
    found = []

    def say(code: str, text: str) -> None:
        found.append(Finding(code, Severity.WARNING, f"LOD{index}, '{made.name}', {text}", level=index))

    low, high = first.bounds()
    own_low, own_high = mesh.bounds()
    diagonal = float(np.linalg.norm(high - low)) or 1.0
    off = float(np.linalg.norm((own_low + own_high) / 2 - (low + high) / 2))
    if off > _OFF * diagonal:
        say("hand-made-pivot", f"lies {length(off)} beside LOD0; export it with the same pivot")
    sides = (own_high - own_low) / np.maximum(high - low, 1e-3 * diagonal)
    if (np.abs(sides - 1.0) > _OFF)[high - low > 0.1 * diagonal].any():
        said = " × ".join(f"{side:.2f}" for side in sides)
        say("hand-made-size", f"is {said} times LOD0's size along X, Y and Z; check its scale and unit")
    if made.unknown_materials:
        names = ", ".join(made.unknown_materials[:3]) + (" …" if len(made.unknown_materials) > 3 else "")
        say("hand-made-materials", f"uses {names}, which LOD0 does not have; those faces got LOD0's first material")
    if made.n_channels != len(first.uvs):
        say("hand-made-uvs", f"has {made.n_channels} UV channels, LOD0 has {len(first.uvs)}; unwrap it alike")
    if change.outline_share > _OTHER_OUTLINE:
        say("hand-made-silhouette", f"changes {change.outline_share:.0%} of the silhouette; compare it with LOD0")
    return found
