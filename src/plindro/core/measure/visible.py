"""What the eye sees of the difference between two meshes: pictures of both from all around, compared pixel by pixel.

A surface that is off by a millimetre is seen where it moves the outline or turns the shading. Both are measured as
lengths: how thick the thickest region is in which the pictures differ. As lengths they cover fewer pixels the further
away the viewer is, like any deviation.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plindro.core.measure.raster import draw, placing, weights_at
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F32, F64, I32, I64, Mask, Mesh
from plindro.core.numeric.kernels import helper, kernel

N_VIEWS = 12
SIZE = 512
"""Pixels across the prop's bounding sphere."""
TURNED = 30.0
"""Degrees by which shading must turn to be seen as another: a Lambert surface then changes by a quarter at most."""
_AT_ONCE = 8
"""Pixels in a row that are passed over at once where none is covered: their bytes are one number."""
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
    """``covered`` (SIZE, SIZE), and the unit ``normals`` (n, 3) seen at the pixels that are, row by row.

    ``lots`` (SIZE, SIZE / 8) are the same bytes as ``covered``, eight to a number.
    """

    covered: Mask
    normals: F32

    @property
    def lots(self) -> NDArray[np.uint64]:
        return self.covered.view(np.uint64)


@dataclass(frozen=True, slots=True)
class Pictures:
    """A mesh from all around; ``pixel`` is what a pixel covers in metres: what is smaller is not told apart."""

    views: tuple[_Picture, ...]
    pixel: float

    def against(self, other: "Pictures") -> Visible:
        """What changes from the other mesh to this: the worst view's outline and shading, and the means of all."""
        outline = shading = 0
        sums = np.zeros(4)
        limit = float(np.cos(np.radians(TURNED)))
        moved, turned = np.empty((2, SIZE, SIZE), bool)
        for after, before in zip(self.views, other.views, strict=True):
            moved.fill(False)
            turned.fill(False)
            around = np.array([[SIZE, 0, SIZE, 0]] * 2)
            _compare(
                before.covered, before.lots, before.normals, after.covered, after.lots, after.normals, limit, moved,
                turned, around, sums,
            )  # fmt: skip
            outline = max(outline, _beyond_edges(moved, around[0]))
            shading = max(shading, _beyond_edges(turned, around[1]))
        changed, area, angles, seen = sums.tolist()
        angle = float(np.degrees(angles / seen)) if seen else 0.0
        return Visible(outline * self.pixel, shading * self.pixel, changed / area if area else 0.0, angle)


class Camera:
    """Draws meshes about the size of one source from all around.

    ``two_sided`` (materials,) says which materials are seen from behind; others are not drawn there, as in an engine.
    """

    def __init__(self, source: Mesh, two_sided: NDArray[np.bool_], n_views: int = N_VIEWS) -> None:
        low, high = source.bounds()
        self._centre = (low + high) / 2
        self._radius = float(np.linalg.norm(high - low)) / 2 or 1.0
        self._two_sided = two_sided
        self._views = _views(n_views)
        self._depth, self._seen = np.empty((SIZE, SIZE)), np.empty((SIZE, SIZE), np.int32)

    def draw(self, mesh: Mesh) -> "Pictures":
        """A mesh from all around."""
        flat = unit(face_vectors(mesh)).astype(np.float32)
        own = np.repeat(flat, 3, axis=0) if mesh.normals is None else np.ascontiguousarray(mesh.normals, np.float32)
        triangles, two_sided = mesh.triangles(), self._two_sided[mesh.face_material]
        views = tuple(self._draw(mesh.positions, triangles, two_sided, flat, own, axes) for axes in self._views)
        return Pictures(views, 2.0 * self._radius / SIZE)

    def _draw(self, positions: F64, triangles: I32, two_sided: Mask, flat: F32, own: F32, axes: F64) -> _Picture:
        screen = (positions - self._centre) @ axes.T / self._radius
        screen[:, 0] = (screen[:, 0] * 0.5 + 0.5) * SIZE
        screen[:, 1] = (0.5 - screen[:, 1] * 0.5) * SIZE
        screen[:, 2] = _FAR - screen[:, 2]
        self._depth.fill(0.0)
        self._seen.fill(-1)
        draw(screen, triangles, two_sided, self._depth, self._seen)
        covered = self._seen >= 0
        picture = _Picture(covered, np.empty((int(np.count_nonzero(covered)), 3), np.float32))
        _shade(self._seen, picture.lots, screen, triangles, own, flat, axes[2], picture.normals)
        return picture


@helper
def _vector(rows, i):  # type: ignore[no-untyped-def]
    return rows[i, 0], rows[i, 1], rows[i, 2]


@kernel
def _shade(seen, lots, screen, triangles, corner_normals, flat, towards, normals):  # type: ignore[no-untyped-def]
    """The unit normals at the covered pixels; what is seen from behind is shaded from behind."""
    # What holds for a triangle is made ready once for the pixels of a row that show it.
    at, last = 0, -1
    for y in range(seen.shape[0]):
        for lot in range(lots.shape[1]):
            if lots[y, lot] == 0:
                continue
            for x in range(lot * _AT_ONCE, (lot + 1) * _AT_ONCE):
                t = seen[y, x]
                if t < 0:
                    continue
                if t != last:
                    last = t
                    place = placing(screen, triangles, t)
                    facing = flat[t, 0] * towards[0] + flat[t, 1] * towards[1] + flat[t, 2] * towards[2]
                    side = -1.0 if facing < 0.0 else 1.0
                    ax, ay, az = _vector(corner_normals, 3 * t)
                    bx, by, bz = _vector(corner_normals, 3 * t + 1)
                    cx, cy, cz = _vector(corner_normals, 3 * t + 2)
                a, b, c = weights_at(place, x, y)
                nx, ny, nz = a * ax + b * bx + c * cx, a * ay + b * by + c * cy, a * az + b * bz + c * cz
                size = nx * nx + ny * ny + nz * nz
                over = side / np.sqrt(size) if size > 0.0 else 0.0
                normals[at, 0], normals[at, 1], normals[at, 2] = over * nx, over * ny, over * nz
                at += 1


@helper
def _angle(cosine):  # type: ignore[no-untyped-def]
    """The angle of a cosine, in radians, wrong by 2e-8 at most (Abramowitz and Stegun 1964, 4.4.46)."""
    x = abs(cosine)
    series = -0.0012624911
    for factor in (
        0.0066700901, -0.0170881256, 0.0308918810, -0.0501743046, 0.0889789874, -0.2145988016, 1.5707963050,
    ):  # fmt: skip
        series = series * x + factor
    angle = np.sqrt(1.0 - x) * series
    return angle if cosine >= 0.0 else np.pi - angle


@helper
def _widen(around, y, x):  # type: ignore[no-untyped-def]
    around[0], around[1] = min(around[0], y), max(around[1], y + 1)
    around[2], around[3] = min(around[2], x), max(around[3], x + 1)


@kernel
def _compare(  # type: ignore[no-untyped-def]
    covered, lots, normals, other_covered, other_lots, other_normals, limit, moved, turned, around, sums
):
    """Mark where one picture has the prop and the other has not, and where normals turn by a cosine under ``limit``.

    ``around`` (2, 4) becomes the rows and columns around each; ``sums`` gathers pixels that moved, pixels of the first,
    the angles in radians where both are, and how many those are.
    """
    at = other_at = 0
    for y in range(covered.shape[0]):
        for lot in range(lots.shape[1]):
            if lots[y, lot] | other_lots[y, lot] == 0:
                continue
            for x in range(lot * _AT_ONCE, (lot + 1) * _AT_ONCE):
                one, two = covered[y, x], other_covered[y, x]
                if one != two:
                    moved[y, x] = True
                    _widen(around[0], y, x)
                    sums[0] += 1.0
                if one and two:
                    cosine = 0.0
                    for k in range(3):
                        cosine += normals[at, k] * other_normals[other_at, k]
                    if cosine < limit:
                        turned[y, x] = True
                        _widen(around[1], y, x)
                    sums[2] += _angle(min(max(cosine, -1.0), 1.0))
                    sums[3] += 1.0
                at += one
                other_at += two
    sums[1] += at


def _beyond_edges(region: Mask, around: I64) -> int:
    """Its thickness but for the pixel or two that any edge shows that moves at all; all lies within ``around``."""
    top, bottom, left, right = around.tolist()
    return max(thickness(region[top:bottom, left:right]) - 2, 0) if bottom > top else 0


def thickness(region: Mask) -> int:
    """Pixels across the thickest place of a region, by how often its rim can be taken off it.

    Rims are taken off by four neighbours and by eight in turn, so that a slanting strip counts as an upright one does.
    """
    if not region.any():
        return 0
    inner, off = np.pad(region, 1), np.zeros((region.shape[0] + 2, region.shape[1] + 2), bool)
    window = np.array([1, region.shape[0] + 1, 1, region.shape[1] + 1])
    times = 0
    while _take_rim(inner, off, window, times % 2 == 1):
        inner, off = off, inner
        times += 1
    return 2 * times + 2


@kernel
def _take_rim(inner, off, window, by_eight):  # type: ignore[no-untyped-def]
    """Write ``inner`` without its rim into ``off``, within the rows and columns of ``window``, which shrinks to fit.

    Returns whether anything is left.
    """
    top, bottom, left, right = window[0], window[1], window[2], window[3]
    window[0], window[1], window[2], window[3] = bottom, top, right, left
    for y in range(top, bottom):
        for x in range(left, right):
            core = inner[y, x] and inner[y - 1, x] and inner[y + 1, x] and inner[y, x - 1] and inner[y, x + 1]
            if core and by_eight:
                core = inner[y - 1, x - 1] and inner[y + 1, x + 1] and inner[y - 1, x + 1] and inner[y + 1, x - 1]
            off[y, x] = core
            if core:
                window[0], window[1] = min(window[0], y), max(window[1], y + 1)
                window[2], window[3] = min(window[2], x), max(window[3], x + 1)
    return window[0] < window[1]


def _views(n: int) -> F64:
    """(n, 3, 3) right, up and towards the eye, spread evenly over the sphere (Fibonacci), none along an axis."""
    k = np.arange(n) + 0.5
    height, around = 1.0 - 2.0 * k / n, k * np.pi * (3.0 - np.sqrt(5.0))
    flat = np.sqrt(1.0 - height**2)
    towards = np.stack([flat * np.cos(around), height, flat * np.sin(around)], axis=1)
    right = np.cross((0.0, 1.0, 0.0), towards)
    right /= np.linalg.norm(right, axis=1, keepdims=True)
    return np.stack([right, np.cross(towards, right), towards], axis=1)
