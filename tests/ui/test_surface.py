"""The view's own arithmetic on LOD0 against the core's: live normals and their cost, loops, patches and borders."""

import json
import shutil
import subprocess
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from plindro.core.files.gltf.writer import face_order
from plindro.core.mesh.mesh import Mesh
from plindro.core.prop import Level, Prop
from plindro.core.report import Report
from plindro.core.scene import Material
from plindro.core.stations.normals import NormalsFacts, NormalsSettings, run
from plindro.core.stations.triangulation import TriangulationSettings
from plindro.core.stations.triangulation import run as cut
from plindro.core.viewing.sheet import write_sheet
from tests.shapes import bumpy_sphere, cube, wavy_sheet

UI = Path(__file__).parents[2] / "ui"


@pytest.fixture(scope="module")
def script(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The view's modules as one file for Node."""
    out = tmp_path_factory.mktemp("bundle") / "surface.cjs"
    command = [UI / "node_modules" / ".bin" / "esbuild", Path(__file__).parent / "surface.ts", "--bundle"]
    subprocess.run([*command, "--platform=node", f"--outfile={out}", "--log-level=error"], check=True, cwd=UI)
    return out


def _ask(script: Path, folder: Path, prop: Prop, order: dict[str, Any]) -> tuple[dict[str, Any], np.ndarray]:
    """What the view computes on a prop's LOD0."""
    folder.mkdir(exist_ok=True)
    mesh = prop.mesh
    faces = face_order(prop, mesh)
    corners = (3 * faces[:, None] + np.arange(3)).reshape(-1)
    sheet = write_sheet(replace(prop, levels=(Level(0, mesh),)))
    assert sheet is not None
    assert mesh.normals is not None
    (folder / "sheet.bin").write_bytes(sheet)
    mesh.positions[mesh.corner_vertex[corners]].astype("<f4").tofile(folder / "positions.bin")
    mesh.normals[corners].astype("<f4").tofile(folder / "normals.bin")
    mesh.face_material[faces].astype("<u2").tofile(folder / "material.bin")
    full = {"angles": [], "marks": [], "loops": [], "patch": None, **order}
    (folder / "order.json").write_text(json.dumps(full))
    node = shutil.which("node")
    assert node
    subprocess.run([node, script, folder], check=True)
    normals = np.empty((mesh.n_corners, 3), np.float32)
    normals[corners] = np.fromfile(folder / "live.bin", "<f4").reshape(-1, 3)
    return json.loads((folder / "answer.json").read_text()), normals


def _prop(mesh: Mesh, **settings: Any) -> Prop:
    materials = tuple(Material(name) for name in ("b", "a", "c"))
    prop = cut(Prop("prop", mesh, (), materials), TriangulationSettings(), Report())
    return run(prop, NormalsSettings(**settings), Report())


def _rule(angle: float | None, weights: str = "angle") -> dict[str, Any]:
    return {"angle": angle, "ownHard": True, "weights": weights, "share": 0.5, "strength": 1.0}


@pytest.mark.parametrize("weights", ["angle", "area", "area-angle", "large"])
def test_normals_while_the_threshold_moves_are_those_that_the_core_makes(
    script: Path, tmp_path: Path, weights: str
) -> None:
    sheet = wavy_sheet(14, islands=2, materials=2)
    mesh = replace(sheet, positions=sheet.positions * (1, 5, 1))
    built = _prop(mesh, source="angle", angle=60.0, weighting=weights)
    steps = [40.0, 3.0, 90.0, 12.0]
    answer, live = _ask(script, tmp_path, built, {"rule": _rule(60.0, weights), "angles": steps})
    wanted = _prop(mesh, source="angle", angle=12.0, weighting=weights)
    assert wanted.mesh.normals is not None
    np.testing.assert_allclose(live, wanted.mesh.normals, atol=2e-4)
    for angle, cost in zip([60.0, *steps], answer["costs"], strict=True):
        report = Report()
        run(
            replace(built, mesh=replace(built.mesh, normals=None)), NormalsSettings(source="angle", angle=angle), report
        )
        curve = {sample.angle: sample.vertices for sample in report.stated(NormalsFacts).cost}
        if angle in curve:
            assert cost == curve[angle]


def test_marked_edges_cost_what_was_promised_and_look_as_the_core_makes_them(script: Path, tmp_path: Path) -> None:
    prop = _prop(bumpy_sphere(8, 2, height=0.4), source="smooth")
    ring = [(32 + i, 32 + (i + 1) % 16) for i in range(16)]
    mesh = prop.mesh
    triangles = mesh.triangles()
    half_edges = {(int(t[k]), int(t[(k + 1) % 3])): 3 * i + k for i, t in enumerate(triangles) for k in range(3)}
    edges = [half_edges[pair] for pair in ring]
    marks = [{"edges": edges, "as": "hard"}, {"edges": edges[:4], "as": "clear"}]
    answer, live = _ask(script, tmp_path, prop, {"rule": {**_rule(180.0), "ownHard": False}, "marks": marks})
    assert all(told == became for told, became in answer["promised"])
    assert answer["promised"][0][0] == 16
    ends = [tuple(tuple(mesh.positions[v].tolist()) for v in pair) for pair in ring[4:]]
    wanted = run(prop, NormalsSettings(source="smooth", hard=ends), Report())
    assert wanted.mesh.normals is not None
    np.testing.assert_allclose(live, wanted.mesh.normals, atol=2e-4)


def test_loops_run_over_quads_from_border_to_border_and_stop_at_poles(script: Path, tmp_path: Path) -> None:
    n = 6
    sheet = _prop(wavy_sheet(n, islands=3, materials=2), source="smooth")
    x, z = sheet.mesh.positions[sheet.mesh.triangles()].mean(axis=1)[:, [0, 2]].T
    near = int(np.argmin((x - 0.45) ** 2 + (z - 0.6) ** 2))
    place = np.argsort(face_order(sheet, sheet.mesh))
    points = [(0.5, 0.58), (0.42, 2 / 3 - 0.001)]
    loops = [{"triangle": int(place[near]), "point": [a, 0.0, b]} for a, b in points]
    answer, _ = _ask(script, tmp_path, sheet, {"rule": _rule(180.0), "loops": loops})
    for loop, axis in zip(answer["loops"], (0, 2), strict=True):
        ends = sheet.mesh.positions[np.array(loop)]
        assert len(loop) == n
        assert np.ptp(ends[:, :, axis]) < 1e-9
    islands = sheet.mesh.positions[np.array(answer["islands"])]
    assert len(islands) == 2 * n
    assert {round(float(v), 4) for v in islands[:, :, 0].reshape(-1)} == {round(1 / 3, 4), round(2 / 3, 4)}
    borders = sheet.mesh.positions[np.array(answer["materials"])]
    assert len(borders) == n
    np.testing.assert_allclose(borders[:, :, 2], 0.5)


def test_patch_grows_over_small_folds_to_the_edge_of_a_box(script: Path, tmp_path: Path) -> None:
    box = _prop(cube(), source="flat")
    answer, _ = _ask(script, tmp_path, box, {"rule": _rule(-1.0), "patch": {"triangle": 3, "angle": 30}})
    assert answer["patch"] == [2, 3]
    assert len(answer["border"]) == 4
