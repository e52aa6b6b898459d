"""How well proxies stand for a mesh: the volume that they add, and the surface that lies outside of them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plindro.core.collision.convex import Convex
from plindro.core.collision.voxels import voxels_of
from plindro.core.mesh.mesh import F64, Mask, Mesh

ALONG = 64
"""Voxels on the longest side of the mesh by which volumes are compared."""
_NEAR = 1e-6


@dataclass(frozen=True, slots=True)
class Fit:
    """``volume`` cubic metres of all proxies together and ``enclosed`` by the mesh; ``missed`` the share of its surface
    outside of them."""

    volume: float
    enclosed: float
    missed: float

    @property
    def added(self) -> float:
        """The volume beside that of the mesh, as a share of it."""
        return self.volume / self.enclosed - 1.0 if self.enclosed > 0.0 else 0.0


def fit_of(mesh: Mesh, proxies: Sequence[Convex]) -> Fit:
    """The fit of proxies around a triangle mesh."""
    voxels = voxels_of(mesh, ALONG)
    size = float(np.ptp(mesh.bounds(), axis=0).max())
    outside = np.ones(len(voxels.samples), np.bool_)
    for proxy in proxies:
        outside &= ~_within(proxy, voxels.samples, _NEAR * size)
    return Fit(volume_together(proxies, voxels.side), voxels.volume, float(outside.mean()))


def volume_together(proxies: Sequence[Convex], side: float) -> float:
    """Cubic metres that are in one proxy at least; by voxels of this side where proxies overlap."""
    if len(proxies) == 1:
        return proxies[0].volume
    low = np.min([proxy.points.min(axis=0) for proxy in proxies], axis=0)
    high = np.max([proxy.points.max(axis=0) for proxy in proxies], axis=0)
    shape = np.ceil((high - low) / side).astype(int)
    taken = np.zeros(shape, np.bool_)
    for proxy in proxies:
        first = np.floor((proxy.points.min(axis=0) - low) / side).astype(int)
        last = np.minimum(np.ceil((proxy.points.max(axis=0) - low) / side).astype(int), shape)
        block = np.stack(np.meshgrid(*(np.arange(a, b) for a, b in zip(first, last, strict=True)), indexing="ij"), -1)
        inside = _within(proxy, low + (block.reshape(-1, 3) + 0.5) * side, 0.0)
        taken[tuple(slice(a, b) for a, b in zip(first, last, strict=True))] |= inside.reshape(block.shape[:3])
    return float(taken.sum() * side**3)


def _within(proxy: Convex, points: F64, near: float) -> Mask:
    """Whether points lie in a proxy or ``near`` metres beside it."""
    inside = ((points >= proxy.points.min(axis=0) - near) & (points <= proxy.points.max(axis=0) + near)).all(axis=1)
    for plane in proxy.planes():
        rows = np.flatnonzero(inside)
        inside[rows] = points[rows] @ plane[:3] + plane[3] <= near
    return inside
