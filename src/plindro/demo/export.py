"""Writing a demo source as OBJ, MTL and PNG, polygons and all."""

import io
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image as Pillow

from plindro.demo.paint import Paint, normal_map
from plindro.demo.shapes import Model


def _png(values: NDArray[Any], size: tuple[int, int] | None = None) -> bytes:
    buffer, picture = io.BytesIO(), Pillow.fromarray(values)
    if size is not None:
        picture = picture.resize(size)
    # Noise hardly compresses: a higher level takes three times as long for a few percent.
    picture.save(buffer, "PNG", compress_level=2)
    return buffer.getvalue()


def _bytes(values: NDArray[Any]) -> NDArray[np.uint8]:
    scaled: NDArray[np.float64] = np.clip(values, 0, 1) * 255 + 0.5
    return scaled.astype(np.uint8)


def export_model(model: Model, paints: Mapping[str, Paint], *, stem: str | None = None) -> dict[str, bytes]:
    """Files of a source by name: one OBJ, one MTL, and the maps of every material that is used."""
    stem = stem or model.name
    files = {f"{stem}.obj": _obj(model, paints, stem)}
    lines = []
    for material in dict.fromkeys(m for _, m, _ in model.objects):
        paint = paints[material]
        lines += [f"newmtl {material}", "Kd 1 1 1", f"Pm {paint.metallic:g}", f"d {paint.opacity:g}"]
        if any(paint.glow):
            lines.append("Ke " + " ".join(f"{x:g}" for x in paint.glow))
        base = paint.shared or f"{model.name}_{material}"
        color = paint.color if paint.alpha is None else np.dstack([paint.color, paint.alpha])
        files[f"{base}_color.png"] = _png(_bytes(color), paint.pixels)
        lines.append(f"map_Kd {base}_color.png")
        if paint.roughness is not None:
            files[f"{base}_roughness.png"] = _png(_bytes(paint.roughness), paint.pixels)
            lines.append(f"map_Pr {base}_roughness.png")
        if paint.metal is not None:
            files[f"{base}_metallic.png"] = _png(_bytes(paint.metal))
            lines.append(f"map_Pm {base}_metallic.png")
        if paint.holes is not None:
            files[f"{base}_opacity.png"] = _png(_bytes(paint.holes))
            lines.append(f"map_d {base}_opacity.png")
        if paint.height is not None and paint.is_bump:
            height = (paint.height - paint.height.min()) / np.ptp(paint.height)
            files[f"{base}_height.png"] = _png((height * 65_535).astype(np.uint16))
            lines.append(f"map_Bump {base}_height.png")
        elif paint.height is not None:
            normals = normal_map(paint.height, paint.relief)
            if paint.green_down:
                normals[..., 1] = 255 - normals[..., 1]
            files[f"{base}_normal.png"] = _png(normals, paint.pixels)
            lines.append(f"norm {base}_normal.png")
        lines += [f"{keyword} {file}" for keyword, file in paint.extras.items()]
        lines.append("")
    files[f"{stem}.mtl"] = "\n".join(lines).encode()
    return files


def _obj(model: Model, paints: Mapping[str, Paint], stem: str) -> bytes:
    out = [f"mtllib {stem}.mtl"]
    n_points = n_uvs = 0
    for name, material, shape in model.objects:
        out.append(f"o {name}")
        out += [f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in shape.points.tolist()]
        scale = 1.0 / paints[material].tile
        uvs = np.concatenate(shape.uvs) * scale
        rounded, index = np.unique(uvs.round(5), axis=0, return_inverse=True)
        out += [f"vt {u:.5f} {v:.5f}" for u, v in rounded.tolist()]
        out.append(f"usemtl {material}")
        group, at = -1, 0
        flat = index.reshape(-1).tolist()
        for face, smoothing in zip(shape.faces, shape.groups, strict=True):
            if smoothing != group:
                group = smoothing
                out.append(f"s {group or 'off'}")
            corners = [f"{v + n_points + 1}/{flat[at + i] + n_uvs + 1}" for i, v in enumerate(face)]
            out.append("f " + " ".join(corners))
            at += len(face)
        n_points += len(shape.points)
        n_uvs += len(rounded)
    return ("\n".join(out) + "\n").encode()
