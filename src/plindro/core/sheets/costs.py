"""What props cost where they are drawn together: draw calls, textures, and how dense these are on them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plindro.core.prop import Prop
from plindro.core.scene import Image
from plindro.core.sheets.materials import Painted, read_painted
from plindro.core.sheets.pieces import Piece, find_pieces
from plindro.core.uvs.sheet import signed_areas

_MIPS = 4 / 3
"""A texture with all its mips against itself."""


@dataclass(frozen=True, slots=True)
class Costs:
    """What props cost where they are drawn together: draw calls, and bytes of textures with mips at 8 bits a channel;
    ``density`` pixels a metre that half their surface is under."""

    draw_calls: int
    texture_bytes: int
    density: float


def _median_density(densities: list[float], surfaces: list[float]) -> float:
    values, weights = np.array(densities, np.float64), np.array(surfaces, np.float64)
    order = np.argsort(values)
    total = np.cumsum(weights[order])
    return float(values[order][np.searchsorted(total, 0.5 * total[-1])]) if len(values) and total[-1] > 0 else 0.0


def _texture_bytes(props: Sequence[Prop]) -> int:
    unique: dict[str, Image] = {}
    for prop in props:
        for material in np.unique(prop.mesh.face_material).tolist():
            for texture in prop.materials[material].all_textures():
                unique[prop.images[texture.image].digest] = prop.images[texture.image]
    return int(sum(image.width * image.height * 4 for image in unique.values()) * _MIPS)


def _draw_calls(prop: Prop) -> int:
    return len(np.unique(prop.mesh.face_part.astype(np.int64) * len(prop.materials) + prop.mesh.face_material))


def texture_density(piece: Piece, painted: Painted) -> float:
    """Pixels of its own texture a metre."""
    area = float(abs(signed_areas(piece.uv)).sum()) * painted.width * painted.height
    return float(np.sqrt(area / piece.surface)) if piece.surface > 0 else 0.0


def costs_apart(props: Sequence[Prop]) -> Costs:
    """What props cost with their own materials, each prop drawn as one mesh."""
    densities, surfaces = [], []
    for prop in props:
        for material in np.unique(prop.mesh.face_material).tolist():
            painted = read_painted(prop.materials[material], prop.images)
            if isinstance(painted, Painted) and prop.materials[material].textures:
                pieces = find_pieces(0, prop.mesh, material, painted)
                densities += [texture_density(piece, painted) for piece in pieces]
                surfaces += [piece.surface for piece in pieces]
    draw_calls = sum(len(np.unique(prop.mesh.face_material)) for prop in props)
    return Costs(draw_calls, _texture_bytes(props), _median_density(densities, surfaces))


def costs_together(prop: Prop, pieces: Sequence[Piece], densities: list[float]) -> Costs:
    """What the parts of a prop cost on their sheet, whose pieces have so many of its pixels a metre."""
    median = _median_density(densities, [piece.surface for piece in pieces])
    return Costs(_draw_calls(prop), _texture_bytes([prop]), median)
