"""What the view replays of the way down against the levels themselves."""

import json
import shutil
import subprocess
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.streams import count_engine_vertices
from plindro.core.polygons import triangulate
from plindro.core.prop import Prop
from plindro.core.reduction import Plane, collapse, mirrored_sequence
from plindro.core.report import Report
from plindro.core.scene import Material
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.levels import LevelsSettings, LevelTarget, run
from plindro.core.viewing.descent import write_descent
from tests.shapes import bumpy_sphere, drilled_block, wavy_sheet

UI = Path(__file__).parents[2] / "ui"


@pytest.fixture(scope="module")
def script(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The view's modules as one file for Node."""
    out = tmp_path_factory.mktemp("bundle") / "descent.cjs"
    command = [UI / "node_modules" / ".bin" / "esbuild", Path(__file__).parent / "descent.ts", "--bundle"]
    subprocess.run([*command, "--platform=node", f"--outfile={out}", "--log-level=error"], check=True, cwd=UI)
    return out


def _soup(corners: np.ndarray) -> list[tuple[float, ...]]:
    """Triangles by their places, each from its smallest corner, in order."""
    faces = []
    for face in corners.reshape(-1, 3, 3).astype(np.float32).tolist():
        first = face.index(min(face))
        faces.append(tuple(x for corner in face[first:] + face[:first] for x in corner))
    return sorted(faces)


@pytest.mark.parametrize("kind", ["original", "optimal", "mirrored", "drilled"])
def test_view_draws_the_same_levels_in_any_order(script: Path, tmp_path: Path, kind: str) -> None:
    shape = bumpy_sphere(16) if kind == "mirrored" else wavy_sheet(16, islands=2, materials=3)
    mesh: Mesh = drilled_block(4, 3) if kind == "drilled" else triangulate(shape).mesh
    mesh = replace(mesh, normals=normals_by_angle(mesh, 60.0))
    if kind == "mirrored":
        sequence = mirrored_sequence(mesh, Plane(np.array([1.0, 0.0, 0.0]), 0.1), {"placement": "optimal"})
    else:
        sequence = collapse(mesh, placement="original" if kind == "original" else "optimal")
    materials = tuple(Material(name) for name in ("brass", "oak", "tar"))
    data = write_descent(Prop("thing", mesh, (), materials, sequence=sequence))
    assert data is not None
    (tmp_path / "descent.bin").write_bytes(data)
    n = sequence.n_steps
    assert (kind == "drilled") == bool(sequence.cut_steps)
    closings = [step + by for step in sequence.cut_steps[:2] for by in (0, 1)]
    steps = [n // 2, 0, n, n // 5, (9 * n) // 10, 1, *closings]
    (tmp_path / "steps.json").write_text(json.dumps(steps))
    node = shutil.which("node")
    assert node is not None
    subprocess.run([node, str(script), str(tmp_path)], check=True)
    seen = json.loads((tmp_path / "levels.json").read_text())
    assert seen["found"] == sequence.step_of_triangles(100)
    for step, level in zip(steps, seen["levels"], strict=True):
        mesh = sequence.level(step)
        for group in level["drawn"]:
            number = [material.name for material in materials].index(group["material"])
            own = mesh.positions[mesh.triangles()[mesh.face_material == number]]
            drawn = sequence.node_place[np.array(group["corners"], int)]
            assert _soup(drawn) == _soup(own), f"{group['material']} after {step} collapses"
        assert level["coldest"] == 0.0
        if kind == "drilled":
            continue  # flat sides lose nothing, so that nothing is hot for long
        assert level["hottest"] == (1.0 if step >= n // 5 else 0.0 if step == 0 else level["hottest"])


def _arrays(data: bytes) -> dict[str, np.ndarray]:
    """The arrays of a descent by name."""
    size = int(np.frombuffer(data, "<u4", 1)[0])
    at, found = 4 + size, {}
    for row in json.loads(data[4 : 4 + size])["arrays"]:
        found[row["name"]] = np.frombuffer(data, row["type"], row["length"], at)
        at += -(-found[row["name"]].nbytes // 4) * 4
    return found


def test_a_faceted_source_is_drawn_flat_and_counts_its_vertices_so() -> None:
    """What splits at every fold has three vertices a triangle, or a few less, not those of its smooth nodes."""
    settings = LevelsSettings(levels=[LevelTarget(ratio=share) for share in (0.5, 0.2)])
    mesh = triangulate(bumpy_sphere(14, height=0.3)).mesh
    flat, smooth = (Prop("ball", replace(mesh, normals=normals_by_angle(mesh, a)), (), ()) for a in (0.0, 180.0))
    for prop, is_flat in ((run(flat, settings, Report()), True), (run(smooth, settings, Report()), False)):
        data = write_descent(prop)
        assert data is not None
        arrays = _arrays(data)
        assert ("normal" in arrays) != is_flat
        for level in prop.levels:
            at = int(np.flatnonzero(arrays["trianglesAt"] <= level.mesh.n_faces)[0])
            held = count_engine_vertices(level.mesh)
            assert abs(int(arrays["verticesAt"][at]) - held) <= (0.01 * held if is_flat else held)
        if is_flat:
            assert arrays["verticesAt"][1:-1].min() >= 2 * arrays["trianglesAt"][1:-1].min()
