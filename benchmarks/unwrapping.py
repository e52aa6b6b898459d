"""Unwrapping and packing beside xatlas: the same geometry into one square, four empty pixels between islands."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import NamedTuple

import numpy as np
import xatlas

from benchmarks.bare import Soup, given, mean_of, welded
from benchmarks.meshes import (
    drilled_plate,
    hilly_sphere,
    loose_boxes,
    scattered_parts,
    thin_bowl,
    toothed_wheel,
    wavy_sheet,
)
from benchmarks.timing import timed
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.mesh.mesh import F64, Mesh, make_triangles
from plindro.core.packing import Sheet
from plindro.core.polygons import triangulate
from plindro.core.unwrap.unwrap import unwrap_mesh
from plindro.core.uvs.judge import judge_channel
from plindro.demo.catalogue import DEMO_PROPS, build_prop

_PIXELS, _PADDING = 1024, 4
_HALVINGS = 7
_SIZE = 10.0
"""Diagonal to which meshes are brought: xatlas cuts small ones into more charts, and misses their scale."""
_FLOOR = 0.03
"""Diagonals of seams that are none: an open sheet has none at all."""
_SHAPES: dict[str, Callable[[], Soup]] = {
    "hilly": partial(hilly_sphere, 40),
    "hard-surface": partial(toothed_wheel, 40, 40),
    "thin": partial(thin_bowl, 40),
    "open": partial(wavy_sheet, 40),
    "many parts": partial(scattered_parts, 20),
    "200 boxes": partial(loose_boxes, 200),
    "45 holes": partial(drilled_plate, 9, 5, 16),
}


class _Found(NamedTuple):
    used: float
    stretch: float
    islands: int
    seam: float
    seconds: float
    sound: bool


def _judged(mesh: Mesh, uvs: F64, seconds: float) -> _Found:
    figures = judge_channel(replace(mesh, uvs=(uvs.astype(np.float32),)), 0, _PIXELS, 1).whole
    sound = not (figures.overlap or figures.flipped_triangles or figures.zero_area_triangles or figures.outside)
    stretch = figures.stretch.l2 if figures.stretch else np.nan
    return _Found(figures.used, stretch, figures.islands, figures.seams.length / _SIZE, seconds, sound)


def _ours(mesh: Mesh) -> _Found:
    sheet = Sheet(_PIXELS, _PIXELS, _PADDING, _PADDING // 2)
    made, seconds = timed(lambda: unwrap_mesh(mesh, sheet, lambda done, doing: None))
    return _judged(mesh, made.uvs.astype(float), seconds)


def _atlas(mesh: Mesh, texels: float | None) -> xatlas.Atlas:
    """Its charts packed; at so many texels a unit, or as it finds itself."""
    atlas = xatlas.Atlas()
    atlas.add_mesh(mesh.positions.astype(np.float32), mesh.triangles().astype(np.uint32))
    options = xatlas.PackOptions()
    # Its padding surrounds each chart, so that two of them count.
    options.padding = _PADDING // 2
    options.resolution = _PIXELS if texels is None else 0
    if texels is not None:
        options.texels_per_unit = texels
    atlas.generate(xatlas.ChartOptions(), options)
    return atlas


def _theirs(mesh: Mesh) -> _Found:
    """xatlas at the largest scale at which all its charts fit the square; its time is that of one run."""
    atlas, seconds = timed(lambda: _atlas(mesh, None))
    low, high, best = 0.3 * atlas.texels_per_unit, 2.0 * atlas.texels_per_unit, atlas
    for _ in range(_HALVINGS):
        middle = float(np.sqrt(low * high))
        tried = _atlas(mesh, middle)
        if max(tried.width, tried.height) <= _PIXELS:
            low, best = middle, tried
        else:
            high = middle
    _, index, uvs = best[0]
    size = np.array([best.width, best.height]) / max(_PIXELS, best.width, best.height)
    return _judged(mesh, uvs[index.reshape(-1).astype(np.int64)] * size, seconds)


def _demo(stem: str) -> Soup:
    files = build_prop(stem)
    name = next(iter(files))
    return welded(triangulate(read_scene(files[name], name, MemoryFiles(files)).mesh).mesh)


def unwrapping(*files: str) -> None:
    """Used share, L2 stretch, islands, diagonals of seams and CPU seconds, with their ratios to xatlas's."""
    shapes = dict(given(files)) if files else {**_SHAPES, **{stem: partial(_demo, stem) for stem in DEMO_PROPS}}
    ratios: list[Sequence[float]] = []
    unwrap_mesh(make_triangles(*hilly_sphere(8)), Sheet(64, 64, 2, 1), lambda done, doing: None)
    for name, make in shapes.items():
        points, triangles = make()
        mesh = make_triangles(points * _SIZE / np.linalg.norm(np.ptp(points, axis=0)), triangles)
        own, other = _ours(mesh), _theirs(mesh)
        seams = (own.seam + _FLOOR) / (other.seam + _FLOOR)
        row = (own.used / other.used, own.islands / other.islands, seams, own.seconds / other.seconds)
        ratios.append(row)
        print(
            f"  {name:<18} {mesh.n_faces:>6} triangles  used {own.used:.2f} ({row[0]:.2f})  "
            f"L2 {own.stretch:.4f} / {other.stretch:.4f}  islands {own.islands} ({row[1]:.2f})  "
            f"seams {own.seam:.3g} ({row[2]:.2f})  {own.seconds:.2f} s ({row[3]:.2f})"
            f"{'' if own.sound else '  NOT SOUND'}{'' if other.sound else '  (theirs is not sound)'}",
            flush=True,
        )
    for what, values in zip(("used", "islands", "seams", "time"), zip(*ratios, strict=True), strict=True):
        print(f"  {what}: geometric mean {mean_of(list(values))}, from {min(values):.2f} to {max(values):.2f}")
