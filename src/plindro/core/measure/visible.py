"""What the eye sees of the difference between two meshes: pictures of both from all around, compared pixel by pixel.

A surface that is off by a millimetre is seen where it moves the outline or turns the shading. Both are measured as
lengths: how thick the thickest region is in which the pictures differ. As lengths they cover fewer pixels the further
away the viewer is, like any deviation.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plindro.core.measure.raster import rasterise
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, Mask, Mesh

N_VIEWS = 12
SIZE = 512
"""Pixels across the prop's bounding sphere."""
TURNED = 30.0
"""Degrees by which shading must turn to be seen as another: a Lambert surface then changes by a quarter at most."""
_FAR = 1e4
"""Distance of the eye in radii: far enough that the picture does not depend on it."""


@dataclass(frozen=True, slots=True)
class Visible:
    """Metres by which the outline moves and across which shading turns; the outline's change as a share of its area;
    the mean angle in degrees between the normals seen."""

    outline: float
    shading: float
    outline_share: float
    normal_angle: float


@dataclass(frozen=True, slots=True)
class _Picture:
    covered: Mask
    normals: F64


@dataclass(frozen=True, slots=True)
class Pictures:
    """A mesh from all around; ``pixel`` is what a pixel covers in metres: what is smaller is not told apart."""

    views: tuple[_Picture, ...]
    pixel: float

    def against(self, other: "Pictures") -> Visible:
        """What changes from the other mesh to this: the worst view's outline and shading, and the means of all."""
        outline = shading = 0
        changed = area = angles = seen = 0.0
        for after, before in zip(self.views, other.views, strict=True):
            moved = before.covered ^ after.covered
            outline = max(outline, _beyond_edges(moved))
            both = before.covered & after.covered
            cosine = np.einsum("ij,ij->i", before.normals[both], after.normals[both])
            angle = np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0)))
            turned = np.zeros_like(both)
            turned[both] = angle > TURNED
            shading = max(shading, _beyond_edges(turned))
            changed += float(moved.sum())
            area += float(before.covered.sum())
            angles += float(angle.sum())
            seen += float(both.sum())
        return Visible(
            outline * self.pixel, shading * self.pixel, changed / area if area else 0.0, angles / seen if seen else 0.0
        )


class Camera:
    """Draws meshes about the size of one source from all around.

    ``two_sided`` (materials,) says which materials are seen from behind; others are not drawn there, as in an engine.
    """

    def __init__(self, source: Mesh, two_sided: NDArray[np.bool_]) -> None:
        low, high = source.bounds()
        self._centre = (low + high) / 2
        self._radius = float(np.linalg.norm(high - low)) / 2 or 1.0
        self._two_sided = two_sided
        self._views = _views()

    def draw(self, mesh: Mesh) -> "Pictures":
        """A mesh from all around."""
        return Pictures(tuple(self._draw(mesh, axes) for axes in self._views), 2.0 * self._radius / SIZE)

    def _draw(self, mesh: Mesh, axes: F64) -> _Picture:
        local = (mesh.positions - self._centre) @ axes.T / self._radius
        screen = np.empty_like(local)
        screen[:, 0] = (local[:, 0] * 0.5 + 0.5) * SIZE
        screen[:, 1] = (0.5 - local[:, 1] * 0.5) * SIZE
        screen[:, 2] = _FAR - local[:, 2]
        triangles = mesh.triangles()
        seen, weights, _ = rasterise(screen, triangles, self._two_sided[mesh.face_material], SIZE, SIZE)
        covered = seen >= 0
        hit = seen[covered]
        normals = np.zeros((SIZE, SIZE, 3))
        flat = unit(face_vectors(mesh))[hit]
        shaded = flat
        if mesh.normals is not None:
            own = mesh.normals.reshape(-1, 3, 3)[hit].astype(np.float64)
            shaded = unit(np.einsum("nk,nkj->nj", weights[covered].astype(np.float64), own))
        # What is seen from behind is shaded from behind.
        behind = flat @ axes[2] < 0
        normals[covered] = np.where(behind[:, None], -shaded, shaded)
        return _Picture(covered, normals)


def _beyond_edges(region: Mask) -> int:
    """Its thickness but for the pixel or two that any edge shows that moves at all."""
    return max(thickness(region) - 2, 0)


def thickness(region: Mask) -> int:
    """Pixels across the thickest place of a region, by how often its rim can be taken off it.

    Rims are taken off by four neighbours and by eight in turn, so that a slanting strip counts as an upright one does.
    """
    times = 0
    inner = np.pad(region, 1)
    while inner.any():
        off = np.zeros_like(inner)
        core = inner[1:-1, 1:-1] & inner[:-2, 1:-1] & inner[2:, 1:-1] & inner[1:-1, :-2] & inner[1:-1, 2:]
        if times % 2:
            core &= inner[:-2, :-2] & inner[2:, 2:] & inner[:-2, 2:] & inner[2:, :-2]
        off[1:-1, 1:-1] = core
        inner = off
        times += 1
    return 2 * times


def _views() -> F64:
    """(N_VIEWS, 3, 3) right, up and towards the eye, spread evenly over the sphere (Fibonacci), none along an axis."""
    k = np.arange(N_VIEWS) + 0.5
    height, around = 1.0 - 2.0 * k / N_VIEWS, k * np.pi * (3.0 - np.sqrt(5.0))
    flat = np.sqrt(1.0 - height**2)
    towards = np.stack([flat * np.cos(around), height, flat * np.sin(around)], axis=1)
    right = np.cross((0.0, 1.0, 0.0), towards)
    right /= np.linalg.norm(right, axis=1, keepdims=True)
    return np.stack([right, np.cross(towards, right), towards], axis=1)
