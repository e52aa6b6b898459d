"""Vertex colours baked into the base colour maps of their materials, where each place of a map is of one colour."""

from dataclasses import replace
from pathlib import PurePosixPath

import numpy as np

from plindro.core.files.pixels import read_pixels
from plindro.core.findings import Finding, Severity
from plindro.core.mesh.mesh import F32, I32, Mesh
from plindro.core.names import clean_name
from plindro.core.numeric.srgb import to_linear, to_srgb
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Image, Material, Texture
from plindro.core.sheets.filling import fill_around
from plindro.core.sheets.materials import uv_matrix
from plindro.core.sheets.raster import paint_colors
from plindro.core.textures.images import encode
from plindro.core.textures.pixels import to_bytes

_UNTEXTURED = 512
"""Pixels along a side of a map that is made where a material has none."""
_SAME = 2.0 / 255.0
"""How far two linear colours may be apart that are to share a pixel."""
_MOST_SHARED = 0.005
"""Share of a map's pixels that may lie in triangles of different colours."""


def with_vertex_colors_baked(prop: Prop, report: Report) -> Prop:
    """The prop with its vertex colours multiplied into maps; those of a material whose UVs lie on each other with
    different colours stay, and a finding says so."""
    mesh = prop.levels[0].mesh if prop.levels else prop.mesh
    if mesh.colors is None:
        return prop
    images, materials, done = list(prop.images), list(prop.materials), set[int]()
    for number in np.unique(mesh.face_material):
        material = materials[number]
        corners = _corners_of(mesh, int(number))
        if np.allclose(mesh.colors[corners], 1.0, atol=1e-3):
            done.add(int(number))
            continue
        found = _baked(mesh, corners, material, tuple(images))
        if isinstance(found, str):
            text = f"material '{material.name}': its vertex colours stay, {found}"
            report.find(Finding("vertex-colors-kept", Severity.WARNING, text))
            continue
        texture = material.texture("base_color") or _beside(material)
        others = tuple(pair for pair in material.textures if pair[0] != "base_color")
        own = ("base_color", replace(texture, image=len(images)))
        materials[number] = replace(material, base_color=(1.0, 1.0, 1.0, 1.0), textures=(own, *others))
        images.append(found)
        done.add(int(number))
    if not done:
        return prop
    levels = tuple(replace(level, mesh=_without_colors(level.mesh, done)) for level in prop.levels)
    return replace(
        prop,
        mesh=_without_colors(prop.mesh, done),
        levels=levels,
        materials=tuple(materials),
        images=tuple(images),
    )


def _beside(material: Material) -> Texture:
    """A texture that is laid out as the material's others are."""
    first = next((texture for _, texture in material.textures), Texture(0))
    return replace(first, strength=1.0)


def _corners_of(mesh: Mesh, material: int) -> I32:
    of_corner = np.repeat(mesh.face_material, np.diff(mesh.face_start))
    return np.flatnonzero(of_corner == material).astype(np.int32)


def _baked(mesh: Mesh, corners: I32, material: Material, images: tuple[Image, ...]) -> Image | str:
    """The material's base colour map with the colours of its triangles in it; a clause where that cannot be."""
    texture = material.texture("base_color") or _beside(material)
    if len(mesh.uvs) <= texture.channel:
        return f"it has no UV channel {texture.channel}"
    if (np.diff(mesh.face_start) != 3).any():
        return "the faces are not triangles yet"
    base = material.texture("base_color")
    values = _base_map(base, material, images)
    height, width = values.shape[:2]
    matrix = uv_matrix(texture)
    uv = mesh.uvs[texture.channel][corners].astype(np.float64) @ matrix[:, :2].T + matrix[:, 2]
    triangles = (uv * (width, height)).reshape(-1, 3, 2)
    assert mesh.colors is not None
    colors = mesh.colors[corners].reshape(-1, 3, 4)
    spans = np.ptp(triangles, axis=1) > (width, height)
    if (spans.any(axis=1) & (np.ptp(colors, axis=1).max(axis=1) > _SAME)).any():
        return "triangles of several colours are larger than its map; give it UVs within the square"
    # An edge that two triangles share may run through the middles of pixels.
    painted, covered, shared = paint_colors(triangles, colors, width, height, _SAME)
    if shared > _MOST_SHARED:
        return f"{100 * shared:.3g} % of its map is used by triangles of different colours; give it UVs without overlap"
    painted = fill_around(painted, covered, float(max(width, height)))
    name = PurePosixPath(images[base.image].name).stem if base else f"{clean_name(material.name)}_color"
    if material.alpha_mode == "OPAQUE":
        painted[..., 3] = 1.0
    painted *= np.array(material.base_color, np.float32)
    return encode(f"{name}_vertex_colors.png", to_bytes(_multiplied(values, painted)))


def _base_map(texture: Texture | None, material: Material, images: tuple[Image, ...]) -> F32:
    """(H, W, 3 or 4) the map that the colours go into; white where there is none."""
    if texture is not None:
        image = images[texture.image]
        values = read_pixels(image.data, image.name).values
        return values if values.shape[2] > 2 else np.concatenate([values[..., :1]] * 3, axis=-1)
    sizes = [(images[t.image].height, images[t.image].width) for _, t in material.textures]
    height, width = max(sizes, default=(_UNTEXTURED, _UNTEXTURED), key=lambda size: size[0] * size[1])
    return np.ones((height, width, 3), np.float32)


def _multiplied(values: F32, colors: F32) -> F32:
    """The map times linear colours, as a shader multiplies them."""
    color = to_srgb(to_linear(values[..., :3]) * colors[..., :3])
    alpha = (values[..., 3:] if values.shape[2] > 3 else np.float32(1.0)) * colors[..., 3:]
    if values.shape[2] == 3 and float(alpha.min()) == 1.0:
        return color
    return np.concatenate([color, alpha], axis=-1)


def _without_colors(mesh: Mesh, done: set[int]) -> Mesh:
    """The mesh with white vertex colours on the faces of some materials; with none where all are white."""
    if mesh.colors is None:
        return mesh
    of_corner = np.repeat(mesh.face_material, np.diff(mesh.face_start))
    colors = np.where(np.isin(of_corner, sorted(done))[:, None], np.float32(1.0), mesh.colors)
    return replace(mesh, colors=None if (colors == 1.0).all() else colors)
