"""A picture of a prop from its real mesh: the face of a prop on the board and in a report."""

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image as Pillow

from plindro.core.files.images import open_image
from plindro.core.measure.raster import rasterise
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, Mesh
from plindro.core.numeric.srgb import to_linear, to_srgb
from plindro.core.prop import Prop
from plindro.core.viewing.eye import first_eye

FIELD_OF_VIEW = 26.0
SUN = (0.35, 0.8, 0.48)
SKY, GROUND = np.array([0.80, 0.87, 0.95]), np.array([0.50, 0.46, 0.40])
SUPERSAMPLING = 2


def render_picture(prop: Prop, size: int) -> bytes:
    """PNG bytes, ``size`` pixels square, with a transparent background; LOD0 in its own materials."""
    mesh = prop.levels[0].mesh if prop.levels else prop.mesh
    side = size * SUPERSAMPLING
    pixels = np.zeros((side, side, 4))
    if mesh.n_faces and mesh.is_triangles and np.isfinite(mesh.positions).all():
        pixels = _draw(prop, mesh, side)
    # Averaging works on what is seen: colours weighted by their cover.
    pixels[..., :3] *= pixels[..., 3:]
    small = pixels.reshape(size, SUPERSAMPLING, size, SUPERSAMPLING, 4).mean(axis=(1, 3))
    small[..., :3] /= np.maximum(small[..., 3:], 1e-6)
    buffer = io.BytesIO()
    Pillow.fromarray((np.clip(small, 0, 1) * 255 + 0.5).astype(np.uint8), "RGBA").save(buffer, "PNG")
    return buffer.getvalue()


def _draw(prop: Prop, mesh: Mesh, side: int) -> F64:
    low, high = mesh.bounds()
    centre = (low + high) / 2
    double = np.array([m.double_sided for m in prop.materials])[mesh.face_material]
    forward = -first_eye(mesh, double)
    right = unit(np.cross(forward, [0.0, 1.0, 0.0])[None])[0]
    up = np.cross(right, forward)
    local = (mesh.positions - centre) @ np.stack([right, up, forward]).T
    slope = np.tan(np.radians(FIELD_OF_VIEW / 2))
    distance = _fit(local, slope * 0.92)
    local[:, 2] += distance
    local[:, :2] -= _middle(local)
    scale = side / 2 / slope
    screen = np.stack(
        [side / 2 + scale * local[:, 0] / local[:, 2], side / 2 - scale * local[:, 1] / local[:, 2], local[:, 2]],
        axis=1,
    )
    through = np.array([m.alpha_mode == "BLEND" for m in prop.materials])[mesh.face_material]
    eye = centre - forward * distance
    pixels = np.zeros((side, side, 4))
    nearest = np.zeros((side, side))
    for faces in (np.flatnonzero(~through), np.flatnonzero(through)):
        seen, weights, depth = rasterise(screen, mesh.triangles()[faces], double[faces], side, side)
        hit = (seen >= 0) & (depth > nearest)
        if hit.any():
            layer = _shade(prop, mesh, faces[seen[hit]], weights[hit].astype(np.float64), eye)
            pixels[hit] = _over(layer, pixels[hit])
            nearest[hit] = depth[hit]
    return pixels


def _over(front: F64, back: F64) -> F64:
    """Colours and cover of ``front`` laid over ``back``."""
    cover = front[:, 3:] + back[:, 3:] * (1 - front[:, 3:])
    color = front[:, :3] * front[:, 3:] + back[:, :3] * back[:, 3:] * (1 - front[:, 3:])
    return np.concatenate([color / np.maximum(cover, 1e-6), cover], axis=1)


def _fit(local: F64, slope: float) -> float:
    """Distance of the eye at which all points lie within the view."""
    return float(max((np.abs(local[:, :2]).max(axis=1) / slope - local[:, 2]).max(), 1e-6))


def _middle(local: F64) -> F64:
    """How far the picture's middle is off, at the mean distance: keeps tall and flat props centred."""
    flat = local[:, :2] / local[:, 2:]
    return (flat.max(axis=0) + flat.min(axis=0)) / 2 * local[:, 2:]


def _shade(prop: Prop, mesh: Mesh, triangle: NDArray[np.int64], weights: F64, eye: F64) -> F64:
    """(N, 4) sRGB colour and cover of the pixels that see ``triangle`` at ``weights``."""

    def blend(values: NDArray[np.float32] | F64) -> F64:
        return np.einsum("nk,nkj->nj", weights, values.reshape(-1, 3, values.shape[-1])[triangle].astype(np.float64))

    points = blend(mesh.positions[mesh.corner_vertex])
    flat = unit(face_vectors(mesh))[triangle]
    normals = flat if mesh.normals is None else unit(blend(mesh.normals))
    to_eye = unit(eye - points)
    facing = np.einsum("ij,ij->i", flat, to_eye) < 0
    normals = np.where(facing[:, None], -normals, normals)
    color, cover, roughness, metallic, glow = _surface(prop, mesh, triangle, blend)
    sun = unit(np.array([SUN]))[0]
    sky = 0.5 + 0.5 * normals[:, 1:2]
    light = (GROUND + (SKY - GROUND) * sky) * 0.62 + np.clip(normals @ sun, 0, None)[:, None] * 0.95
    half = unit(to_eye + sun)
    power = 2.0 / np.maximum(roughness, 0.12) ** 3
    shine = np.clip(np.einsum("ij,ij->i", normals, half), 0, None) ** power * (1.0 - roughness)
    tint = 0.04 + (color - 0.04) * metallic[:, None]
    mirrored = 0.5 + 0.5 * (2 * np.einsum("ij,ij->i", normals, to_eye) * normals[:, 1] - to_eye[:, 1])
    gloss = (metallic * (1 - 0.6 * roughness) * mirrored)[:, None] * tint * 0.9
    linear = color * light * (1 - 0.65 * metallic[:, None]) + tint * shine[:, None] * 1.4 + gloss + glow
    return np.concatenate([to_srgb(np.clip(linear, 0, 1)), cover[:, None]], axis=1)


def _surface(prop: Prop, mesh: Mesh, triangle, blend):  # type: ignore[no-untyped-def]
    """Base colour (linear), cover, roughness, metallic and glow at each pixel."""
    n = len(triangle)
    color, cover = np.ones((n, 3)), np.ones(n)
    roughness, metallic, glow = np.ones(n), np.zeros(n), np.zeros((n, 3))
    material_of = mesh.face_material[triangle]
    uv = [blend(channel) for channel in mesh.uvs]
    for index in np.unique(material_of):
        material = prop.materials[index]
        at = material_of == index
        base = np.tile(np.array(material.base_color), (int(at.sum()), 1))
        rough, metal = np.full(len(base), material.roughness), np.full(len(base), material.metallic)
        light = np.tile(np.array(material.emissive), (len(base), 1))
        texture = material.texture("base_color")
        if texture is not None and texture.channel < len(uv):
            texels = _sample(prop, texture.image, uv[texture.channel][at])
            base[:, :3] = base[:, :3] * to_linear(texels[:, :3])
            base[:, 3] *= texels[:, 3]
        texture = material.texture("metallic_roughness")
        if texture is not None and texture.channel < len(uv):
            texels = _sample(prop, texture.image, uv[texture.channel][at])
            rough, metal = rough * texels[:, 1], metal * texels[:, 2]
        texture = material.texture("emissive")
        if texture is not None and texture.channel < len(uv):
            light = light * to_linear(_sample(prop, texture.image, uv[texture.channel][at])[:, :3])
        color[at], roughness[at], metallic[at], glow[at] = base[:, :3], rough, metal, light
        if material.alpha_mode == "MASK":
            cover[at] = base[:, 3] >= material.alpha_cutoff
        elif material.alpha_mode == "BLEND":
            cover[at] = np.clip(base[:, 3], 0.25, 1.0)
    if mesh.colors is not None:
        color *= blend(mesh.colors)[:, :3]
    return color, cover, roughness, metallic, glow


def _sample(prop: Prop, image: int, uv: F64) -> F64:
    """(N, 4) texels in 0..1 at repeating UVs, blended between the four nearest."""
    picture = open_image(prop.images[image], "RGBA")
    picture.thumbnail((512, 512), Pillow.Resampling.BOX)
    texels = np.asarray(picture, np.float64) / 255.0
    height, width = texels.shape[:2]
    x = np.nan_to_num(uv[:, 0]) * width - 0.5
    y = np.nan_to_num(uv[:, 1]) * height - 0.5
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = (x - x0)[:, None], (y - y0)[:, None]
    x1, y1 = (x0 + 1) % width, (y0 + 1) % height
    x0, y0 = x0 % width, y0 % height
    top = texels[y0, x0] * (1 - fx) + texels[y0, x1] * fx
    bottom = texels[y1, x0] * (1 - fx) + texels[y1, x1] * fx
    return top * (1 - fy) + bottom * fy
