"""The attributes of wedges as lengths, so that they weigh against distances.

A UV counts as the distance over the surface that it stands for; a normal and a colour count as a share of the
diagonal.
"""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32, Mesh
from plindro.core.reduction.order import Ordered

UV_WEIGHT = 0.3
NORMAL_WEIGHT = 0.01
COLOR_WEIGHT = 0.02


@dataclass(frozen=True, slots=True)
class Values:
    """``columns`` (W, K): normals where ``has_normals``, each UV channel, colours, times ``factor`` (K,).

    ``first_uv`` is the column of UV channel 0, -1 where there is none.
    """

    columns: F64
    factor: F64
    has_normals: bool
    first_uv: int

    def split(self, rows: F64, mesh: Mesh) -> tuple[F32 | None, tuple[F32, ...], F32 | None]:
        """Normals, UV channels and colours of rows of columns; None where the mesh has none of them."""
        plain = rows / self.factor
        at = 0
        normals = None
        if self.has_normals:
            length = np.linalg.norm(plain[:, :3], axis=1, keepdims=True)
            normals = (plain[:, :3] / np.where(length > 0, length, 1.0)).astype(np.float32)
            at = 3
        uvs = []
        for _ in mesh.uvs:
            uvs.append(plain[:, at : at + 2].astype(np.float32))
            at += 2
        colors = plain[:, at : at + 4].clip(0.0, 1.0).astype(np.float32) if mesh.colors is not None else None
        return normals, tuple(uvs), colors


def measure_values(mesh: Mesh, ordered: Ordered, wedge_corner: I32, *, with_normals: bool) -> Values:
    """The attributes at one corner of each wedge; the diagonal counts as 1."""
    blocks: list[F32] = []
    factors: list[float] = []
    has_normals = mesh.normals is not None and with_normals
    if has_normals and mesh.normals is not None:
        blocks.append(mesh.normals)
        factors += [NORMAL_WEIGHT] * 3
    first_uv = len(factors) if mesh.uvs else -1
    for uv in mesh.uvs:
        blocks.append(uv)
        factors += [UV_WEIGHT * _length_per_uv(ordered, uv)] * 2
    if mesh.colors is not None:
        blocks.append(mesh.colors)
        factors += [COLOR_WEIGHT] * 4
    factor = np.array(factors)
    columns = np.zeros((len(wedge_corner), len(factors)))
    at = 0
    for block in blocks:
        columns[:, at : at + block.shape[1]] = np.take(block, wedge_corner, axis=0, mode="clip")
        at += block.shape[1]
    return Values(columns * factor, factor, has_normals, first_uv)


def _length_per_uv(ordered: Ordered, uv: F32) -> float:
    """How long a step of 1 in the UVs is over the surface, by the areas of both; 1 where there is none.

    Summed in the order of the collapse, so that nothing depends on the file's.
    """
    corners = uv[ordered.corner].astype(np.float64)
    first, second = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    flat = float(np.abs(first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]).sum())
    points = ordered.positions[ordered.triangle_vertex]
    vectors = np.cross(points[:, 1] - points[:, 0], points[:, 2] - points[:, 0])
    area = float(np.linalg.norm(vectors, axis=1).sum())
    return float(np.sqrt(area / flat)) if flat > 0.0 and area > 0.0 else 1.0
