"""What the corners at a place share in the source they share in every level: a texture breaks along seams alone."""

from dataclasses import replace

import numpy as np
import pytest
from numpy.typing import NDArray

from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.polygons import triangulate
from plindro.core.reduction import collapse
from plindro.core.shading.normals import normals_by_angle
from tests.shapes import bumpy_sphere, wavy_sheet

SHARES = (0.6, 0.3, 0.1, 0.03)


def _at_places(mesh: Mesh, values: NDArray[np.float32]) -> float:
    """How many values the corners at one place carry, on average."""
    place = weld_positions(mesh.positions)[0][mesh.corner_vertex]
    both = np.unique(np.column_stack([place, values]), axis=0)
    return len(both) / len(np.unique(place))


@pytest.mark.parametrize("placement", ["optimal", "original"])
def test_hard_edges_do_not_break_the_uvs(placement: str) -> None:
    mesh = bumpy_sphere(24)
    around = mesh.positions[mesh.corner_vertex]
    mesh = replace(mesh, normals=normals_by_angle(mesh, 8.0), uvs=(around[:, :2].astype(np.float32),))
    assert _at_places(mesh, mesh.normals) > 1.5, "hard edges all over"
    sequence = collapse(mesh, placement=placement)
    for share in SHARES:
        level = sequence.level(sequence.step_of_triangles(int(share * mesh.n_faces)))
        assert _at_places(level, level.uvs[0]) == 1.0
        assert _at_places(level, level.normals) > 1.2, "they are not simply given up"


@pytest.mark.parametrize("placement", ["optimal", "original"])
def test_seams_do_not_break_the_normals(placement: str) -> None:
    mesh = triangulate(wavy_sheet(40, islands=4)).mesh
    mesh = replace(mesh, normals=normals_by_angle(mesh, 180.0))
    assert _at_places(mesh, mesh.uvs[0]) > 1.05
    sequence = collapse(mesh, placement=placement)
    for share in SHARES:
        level = sequence.level(sequence.step_of_triangles(int(share * mesh.n_faces)))
        assert _at_places(level, level.normals) == 1.0
        assert _at_places(level, level.uvs[0]) > 1.02
