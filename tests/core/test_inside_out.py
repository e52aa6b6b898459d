"""What the rehearsal says of shells that face inward: they are told, hollows and flat boards are not."""

import numpy as np
import pytest

from plindro.core.destinations import get_destination
from plindro.core.rehearsal import rehearse
from tests.shapes import cube


def test_shells_that_are_drawn_from_within_are_told_and_hollows_are_not() -> None:
    box = cube().positions.astype(np.float64)

    def obj(*shells: tuple[float, bool]) -> bytes:
        lines, at = ["o box_LOD0"], 1
        for scale, is_turned in shells:
            lines += [f"v {x} {y} {z}" for x, y, z in (box - box.mean(axis=0)) * scale]
            mesh = cube()
            for f in range(mesh.n_faces):
                corners = mesh.corner_vertex[mesh.face_start[f] : mesh.face_start[f + 1]].tolist()
                lines.append("f " + " ".join(str(c + at) for c in (corners[::-1] if is_turned else corners)))
            at += len(box)
        return "\n".join(lines).encode()

    def codes(*shells: tuple[float, bool]) -> set[str]:
        return {
            f.code for f in rehearse(["box.obj"], {"box.obj": obj(*shells)}, get_destination("polygons-obj")).findings
        }

    assert "inside-out" not in codes((1.0, False), (0.5, True))
    assert "inside-out" in codes((1.0, True))


@pytest.mark.parametrize(("height", "is_told"), [(0.2, True), (0.004, False)])
def test_a_board_of_four_triangles_is_flat_and_not_inside_out(height: float, is_told: bool) -> None:
    places = ((0, 0, 0), (1, 0, 0), (1, height, 1), (0, 0, 1))
    lines = ["o board_LOD0", *(f"v {x} {y} {z}" for x, y, z in places), "f 1 2 3", "f 1 3 4", "f 1 4 2", "f 2 4 3"]
    found = rehearse(["board.obj"], {"board.obj": "\n".join(lines).encode()}, get_destination("polygons-obj")).findings
    assert ("inside-out" in {finding.code for finding in found}) is is_told


@pytest.mark.parametrize(("thickness", "of_level", "is_told"), [(0.5, -0.5, True), (0.002, -0.001, False)])
def test_a_level_is_inside_out_where_it_faces_against_lod0_and_not_where_a_thin_wall_crosses(
    thickness: float, of_level: float, is_told: bool
) -> None:
    lines, at, box = [], 1, cube()
    for name, height in (("plate_LOD0", thickness), ("plate_LOD1", of_level)):
        places = box.positions * (1.0, height, 1.0) + (0.0, max(0.0, -height) * is_told, 0.0)
        lines += [f"o {name}", *(f"v {x} {y} {z}" for x, y, z in places.tolist())]
        lines += ["f " + " ".join(str(c + at) for c in face) for face in box.corner_vertex.reshape(-1, 4).tolist()]
        at += len(places)
    files = {"plate.obj": "\n".join(lines).encode()}
    found = rehearse(["plate.obj"], files, get_destination("polygons-obj")).findings
    assert [f.level for f in found if f.code == "inside-out"] == ([1] if is_told else [])
