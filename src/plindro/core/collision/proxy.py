"""What a collision proxy is."""

from dataclasses import dataclass
from typing import Literal

from plindro.core.collision.convex import Convex

Shape = Literal["box", "turned-box", "ball", "capsule", "hull", "mesh"]


@dataclass(frozen=True, slots=True)
class Proxy:
    """A fitted shape: the mesh that stands for it, and what it is in itself.

    ``numbers`` are metres: of a ball its middle and radius, of a capsule both ends and the radius, of a box its middle,
    half sizes and axes, of a hull none. The mesh lies around them. ``part`` is the path of the part that it is for,
    ``name`` the one that it ships under.
    """

    shape: Shape
    mesh: Convex
    numbers: tuple[float, ...] = ()
    part: str = ""
    name: str = ""
