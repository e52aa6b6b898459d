"""The command line as a contract: documents, exit statuses, one line on bad input, nothing half-written."""

import io
import json
import math
import subprocess
import sys
import zipfile
from collections.abc import Callable
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest.mock import patch

import numpy as np
import pytest

from plindro.cli.main import main
from plindro.core.files import FolderFiles, MemoryFiles, read_scene
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mesh
from plindro.core.polygons import triangulate
from plindro.core.scene import Scene
from plindro.core.shipping import PrepareResult
from tests.shapes import bumpy_sphere, drilled_block, make_glb

TRIANGLE = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"


def in_a_shell(*arguments: object) -> subprocess.CompletedProcess[str]:
    """Run the console script as a user would."""
    command = [str(Path(sys.executable).parent / "plindro"), *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, timeout=240, check=False)


def plindro(*arguments: object) -> subprocess.CompletedProcess[str]:
    """Run the console script's function here: the same, without two seconds of imports each time."""
    command = ["plindro", *map(str, arguments)]
    out, err = io.StringIO(), io.StringIO()
    with (
        patch.object(sys, "argv", command),
        redirect_stdout(out),
        redirect_stderr(err),
        pytest.raises(SystemExit) as left,
    ):
        main()
    return subprocess.CompletedProcess(command, int(left.value.code or 0), out.getvalue(), err.getvalue())


def test_inspect_says_what_a_source_holds(demo_sources: Path) -> None:
    run = in_a_shell("inspect", demo_sources / "davit" / "davit.obj", "--json")
    facts = json.loads(run.stdout)
    assert run.returncode == 0
    assert facts["format"] == "OBJ"
    assert facts["triangles"] == sum((int(k) - 2) * n for k, n in facts["sides"].items())
    assert sum(part["triangles"] for part in facts["parts"]) == facts["triangles"]
    assert facts["materials"] == ["painted", "rope", "steel"]
    assert {"painted", "steel", "rope"} == {t["name"].split("_")[1] for t in facts["textures"] if "color" in t["name"]}
    text = in_a_shell("inspect", demo_sources / "davit" / "davit.obj").stdout
    assert "1.855 × 2.505 × 0.540 m" in text
    (channel,) = facts["uvs"]["channels"]
    assert facts["uvs"]["pixels"] == max(t["width"] for t in facts["textures"])
    assert channel["islands"] == sum(part["islands"] for part in channel["parts"])
    # Parts share one painted sheet and repeat it.
    assert 0 < channel["mirrored_overlap"] < channel["overlap"] < 1
    assert channel["tiles"]["0 0"] == pytest.approx(1 - channel["outside"])
    assert f"UVs 0        {channel['islands']} islands, " in text


def test_build_of_several_files_goes_on_past_bad_ones_and_ships_the_same_bytes_each_time(
    demo_sources: Path, demo_result: Callable[[str], PrepareResult], tmp_path: Path
) -> None:
    nan = tmp_path / "nan.obj"
    nan.write_text(TRIANGLE.replace("1 0 0", "nan 0 0"))
    inputs = [demo_sources / s / f"{s}.obj" for s in ("life_ring", "storm làntern 01")]
    run = plindro("build", *inputs, nan, tmp_path / "gone.obj", "--out", tmp_path / "a", "--json")
    assert run.returncode == 1
    assert "there is no such file" in run.stderr
    document = json.loads(run.stdout)
    assert [(p["name"], p["status"]) for p in document["props"]] == [
        ("life_ring", "shipped"),
        ("storm_lantern_01", "shipped"),
        ("nan", "held"),
        ("gone", "failed"),
    ]
    assert document["totals"] | {"triangles": 0, "bytes": 0, "seconds": 0} == {
        "shipped": 2, "held": 1, "failed": 1, "triangles": 0, "bytes": 0, "seconds": 0,
    }  # fmt: skip
    ring = document["props"][0]
    assert [level["name"] for level in ring["levels"]] == [f"life_ring_LOD{i}" for i in range(4)]
    assert [level["triangles"] for level in ring["levels"]] == sorted(
        (x["triangles"] for x in ring["levels"]), reverse=True
    )
    assert [level["screen_size"] for level in ring["levels"]] == sorted(
        (level["screen_size"] for level in ring["levels"]), reverse=True
    )
    # What is a pixel high at 1 080 lines over 60°, where nothing turns its shading further than that.
    for level in ring["levels"]:
        assert level["distance"] >= 0.999 * level["deviation"] * 1080 / (2 * math.tan(math.radians(30)))
    assert [level["distance"] for level in ring["levels"]] == sorted(level["distance"] for level in ring["levels"])
    assert sorted(p.name for p in (tmp_path / "a").iterdir()) == [
        "life_ring.glb",
        "storm_lantern_01.glb",
    ]

    for source in inputs:
        (file,) = demo_result(source.stem).files
        assert (tmp_path / "a" / file.path).read_bytes() == file.data, "workers change the bytes"

    check = plindro("check", tmp_path / "a", "--json")
    rows = json.loads(check.stdout)
    assert check.returncode == 0
    assert rows["totals"] == {"files": 2, "stopped": 0, "unreadable": 0}
    counts = {row["prop"]: [level["triangles"] for level in row["levels"]] for row in rows["files"]}
    assert counts["life_ring"] == [level["triangles"] for level in ring["levels"]]


def test_a_state_that_would_take_the_file_of_another_prop_is_held(tmp_path: Path) -> None:
    line = json.loads(plindro("lines", "--export", "standing").stdout)
    line["levels"] |= {"states": [{"name": "dented", "parts": ["dent*"]}], "has_levels": False}
    (tmp_path / "line.json").write_text(json.dumps(line))
    shifted = TRIANGLE.replace("f 1 2 3", "f 4 5 6")
    (tmp_path / "drum.obj").write_text(f"o whole\n{TRIANGLE}o dent\n{shifted}")
    (tmp_path / "Drum_Dented.obj").write_text(TRIANGLE)
    inputs = [tmp_path / "drum.obj", tmp_path / "Drum_Dented.obj"]
    out = ["--out", tmp_path / "out", "--line", tmp_path / "line.json"]
    run = plindro("build", *inputs, *out, "--json", "--workers", 1)
    held, shipped = json.loads(run.stdout)["props"]
    assert (run.returncode, held["status"], shipped["status"]) == (1, "held", "shipped")
    assert held["findings"][0]["message"].startswith("'drum' and 'Drum_Dented' both ship drum_dented.glb; rename")
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["Drum_Dented.glb"]
    assert json.loads(plindro("build", inputs[0], *out, "--json").stdout)["totals"]["shipped"] == 1


def _bad_inputs(folder: Path) -> dict[str, bytes]:
    good = make_glb({"nodes": [{"mesh": 0}], "meshes": [{"primitives": [{"attributes": {}}]}]})
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w") as target:
        target.writestr("../outside.obj", TRIANGLE)
    return {
        "empty.obj": b"",
        "empty.glb": b"",
        "cut.glb": good[:30],
        "liar.glb": good[:8] + (999_999).to_bytes(4, "little") + good[12:],
        "range.obj": TRIANGLE.replace("1 2 3", "1 2 4").encode(),
        "notes.glb": b"just text",
        "prose.obj": b"It was a dark and stormy night.\n",
        "binary.obj": bytes(range(256)),
        "zip.obj": archive.getvalue(),
        "picture.png": b"\x89PNG",
    }


@pytest.mark.parametrize("command", ["inspect", "build"])
@pytest.mark.parametrize("name", list(_bad_inputs(Path())))
def test_unusable_input_gets_one_line_and_writes_nothing(command: str, name: str, tmp_path: Path) -> None:
    (tmp_path / name).write_bytes(_bad_inputs(tmp_path)[name])
    out = ["--out", tmp_path / "out"] if command == "build" else []
    run = plindro(command, tmp_path / name, *out, "--json")
    assert run.returncode == 2
    assert len(run.stderr.strip().splitlines()) == 1
    assert name in run.stderr
    assert "Traceback" not in run.stderr
    json.loads(run.stdout)
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize(("name", "code"), [("nothing.obj", "no-faces"), ("nan.obj", "nothing-left")])
def test_what_cannot_ship_is_held_and_writes_nothing(name: str, code: str, tmp_path: Path) -> None:
    text = "v 0 0 0\nv 1 0 0\n" if name == "nothing.obj" else TRIANGLE.replace("1 0 0", "1 nan 0")
    (tmp_path / name).write_text(text)
    run = plindro("build", tmp_path / name, "--out", tmp_path / "out", "--json")
    assert run.returncode == 1
    prop = json.loads(run.stdout)["props"][0]
    assert prop["status"] == "held"
    assert code in [finding["code"] for finding in prop["findings"] if finding["severity"] == "stop"]
    assert not (tmp_path / "out").exists()
    assert name == "nothing.obj" or "non-finite-positions" in [finding["code"] for finding in prop["findings"]]
    assert plindro("inspect", tmp_path / name).returncode == 1


def test_missing_side_files_are_said_and_do_not_stop(tmp_path: Path) -> None:
    (tmp_path / "a.obj").write_text("mtllib gone.mtl\nusemtl x\n" + TRIANGLE)
    (tmp_path / "b.obj").write_text("mtllib b.mtl\nusemtl x\n" + TRIANGLE)
    (tmp_path / "b.mtl").write_text("newmtl x\nmap_Kd gone.png\n")
    run = plindro("build", tmp_path / "a.obj", tmp_path / "b.obj", "--out", tmp_path / "out", "--json")
    codes = [{f["code"] for f in prop["findings"]} for prop in json.loads(run.stdout)["props"]]
    assert run.returncode == 0
    assert "missing-material-library" in codes[0]
    assert "missing-texture" in codes[1]


def test_wrong_calls_are_refused_in_one_line(tmp_path: Path) -> None:
    (tmp_path / "a.obj").write_text(TRIANGLE)
    (tmp_path / "line.json").write_text(
        '{"name": "x", "title": "X", "levels": {"levels": [{"ratio": 0.2}, {"ratio": 0.5}]}}'
    )
    for arguments, word in (
        (["build", tmp_path / "a.obj"], "--out"),
        (["build", tmp_path / "a.obj", "--out", tmp_path / "o", "--line", "nope"], "known are standing"),
        (["build", tmp_path / "a.obj", "--out", tmp_path / "o", "--line", tmp_path / "line.json"], "ratios must fall"),
        (["build", tmp_path / "a.obj", "--out", tmp_path / "a.obj"], "--out"),
        (["check", tmp_path / "line.json"], "no file with meshes"),
        (["frobnicate"], "frobnicate"),
    ):
        run = plindro(*arguments)
        assert run.returncode == 2, arguments
        assert len(run.stderr.strip().splitlines()) == 1, run.stderr
        assert word in run.stderr


def test_exported_line_and_destination_can_be_given_back(tmp_path: Path) -> None:
    (tmp_path / "a.obj").write_text(TRIANGLE)
    line = json.loads(plindro("lines", "--export", "small").stdout)
    line["naming"]["prefix"] = "SK_"
    (tmp_path / "line.json").write_text(json.dumps(line))
    destination = json.loads(plindro("destinations", "--export", "plain").stdout)
    destination["level_template"] = "{prop}.detail{level}"
    (tmp_path / "there.json").write_text(json.dumps(destination))
    arguments = ["--line", tmp_path / "line.json", "--destination", tmp_path / "there.json", "--json"]
    prop = json.loads(plindro("build", tmp_path / "a.obj", "--out", tmp_path / "o", *arguments).stdout)["props"][0]
    assert prop["files"][0]["path"] == "SK_a.glb"
    assert prop["levels"][0]["name"] == "SK_a.detail0"
    assert plindro("check", tmp_path / "o", "--destination", tmp_path / "there.json").returncode == 0
    assert plindro("check", tmp_path / "o").returncode == 1


def test_scene_is_split_into_props_that_are_the_same_whatever_the_workers(tmp_path: Path) -> None:
    from plindro.demo import build_landing

    for name, data in build_landing().items():
        (tmp_path / name).write_bytes(data)
    line = json.loads(plindro("lines", "--export", "standing").stdout)
    line["source"] |= {"exclude": ["ref_*"], "split": "group"}
    line["cleanup"]["holes"] = True
    line["levels"]["has_levels"] = False
    (tmp_path / "line.json").write_text(json.dumps(line))
    scene = tmp_path / "landing_stage.usda"
    run = plindro(
        "build", scene, "--line", tmp_path / "line.json", "--split", "object", "--out", tmp_path / "a", "--json"
    )
    props = json.loads(run.stdout)["props"]
    assert run.returncode == 0
    assert [prop["name"] for prop in props] == [
        "Planks", "Beams", "Rails", "Rungs", "Post", "Bracket_left", "Bracket_right",
    ]  # fmt: skip
    rungs = {f["code"]: f["count"] for f in props[3]["findings"]}
    assert rungs["inside-out-shells"] == 1
    plindro(
        "build", scene, "--line", tmp_path / "line.json", "--split", "object", "--out", tmp_path / "b", "--workers", "1"
    )
    for path in (tmp_path / "a").iterdir():
        assert path.read_bytes() == (tmp_path / "b" / path.name).read_bytes(), "workers change the bytes"
    grouped = plindro(
        "build", scene, "--line", tmp_path / "line.json", "--out", tmp_path / "c", "--workers", "1", "--json"
    )
    names = [prop["name"] for prop in json.loads(grouped.stdout)["props"]]
    assert names == ["Deck", "Ladder", "Post_1", "Bracket_left", "Bracket_right"]
    inspected = plindro("inspect", scene)
    assert "0.01 m, Z up (as the file says)" in inspected.stdout


STAR = """o star
v 0 0 0
v 2 0.9 0
v 4 0 0
v 3 2 0.1
v 4 4 0
v 2 3 0
v 0 4 0
v 1 2 0
v 6 0 0
v 6 4 0
vn 0.6 0 0.8
vn 0 0 1
vt 0 0
vt 1 1
f 1/1/1 2/1/1 3/1/1 4/1/2 5/2/2 6/2/2 7/2/2 8/2/2
f 3/1/2 9/1/2 10/2/2 5/2/2
"""


def _triangles(path: Path) -> tuple[np.ndarray, Scene]:
    scene = read_scene(path.read_bytes(), path.name, FolderFiles(path.parent))
    return scene.mesh.face_sides, scene


@pytest.mark.parametrize(("suffix", "quads_stay"), [("glb", 0), ("obj", 1), ("usda", 1), ("usdc", 1)])
def test_triangulate_cuts_from_so_many_sides_on(tmp_path: Path, suffix: str, quads_stay: int) -> None:
    source = tmp_path / "star.obj"
    source.write_text(STAR)
    out = tmp_path / "out" / f"cut.{suffix}"
    answer = plindro("triangulate", str(source), "--out", str(out), "--min-sides", "5", "--ngons", "shapely")
    assert answer.returncode == 0, answer.stderr
    sides, scene = _triangles(out)
    assert (sides == 4).sum() == quads_stay
    assert scene.mesh.n_triangles == 8
    before = read_scene(STAR.encode(), "star.obj").mesh
    area = np.abs(face_vectors(triangulate(scene.mesh).mesh)[:, 2]).sum()
    assert area == pytest.approx(np.abs(face_vectors(before)[:, 2]).sum(), rel=1e-6)
    kept = {tuple(np.round(n, 4)) for n in scene.mesh.normals.tolist()}
    assert kept == {(0.6, 0.0, 0.8), (0.0, 0.0, 1.0)}


def test_triangulate_drops_normals_where_asked_and_refuses_what_it_cannot_do(tmp_path: Path) -> None:
    source = tmp_path / "star.obj"
    source.write_text(STAR)
    out = tmp_path / "cut.glb"
    assert plindro("triangulate", str(source), "--out", str(out), "--drop-normals").returncode == 0
    assert _triangles(out)[1].mesh.normals is None
    for arguments, words in (
        ((str(source), "--out", str(tmp_path / "cut.dxf")), "not written"),
        ((str(tmp_path / "gone.obj"), "--out", str(out)), "no such file"),
        ((str(source), "--out", str(tmp_path)), "not written"),
        ((str(source), "--out", str(out), "--quads", "third"), "third"),
    ):
        answer = plindro("triangulate", *arguments)
        assert answer.returncode == 2
        assert words in answer.stderr
        assert len(answer.stderr.strip().splitlines()) == 1


def test_build_for_a_destination_that_holds_polygons(tmp_path: Path) -> None:
    source = tmp_path / "star.obj"
    source.write_text(STAR)
    line = json.loads(plindro("lines", "--export", "held").stdout)
    line["triangulation"]["min_sides"] = 5
    (tmp_path / "line.json").write_text(json.dumps(line))
    for destination, name in (("polygons-obj", "star.obj"), ("polygons-usd", "star.usdc")):
        out = tmp_path / destination
        answer = plindro(
            "build", str(source), "--out", str(out), "--line", str(tmp_path / "line.json"), "--destination", destination
        )
        assert answer.returncode == 0, answer.stderr + answer.stdout
        sides, scene = _triangles(out / name)
        assert (sides == 4).sum() == 1
        assert scene.mesh.n_triangles == 8


def test_reduce_stops_at_the_first_limit_and_says_how_far_off_it_is(tmp_path: Path) -> None:
    mesh = bumpy_sphere(24, height=0.3)
    source, out = tmp_path / "ball.obj", tmp_path / "ball.glb"
    rows = [f"v {x!r} {y!r} {z!r}" for x, y, z in mesh.positions.tolist()]
    rows += ["f " + " ".join(str(v + 1) for v in face) for face in mesh.triangles().tolist()]
    source.write_text("\n".join(rows))

    def reduced(*options: str) -> tuple[Mesh, str]:
        answer = plindro("reduce", str(source), "--out", str(out), *options)
        assert answer.returncode == 0, answer.stderr
        return read_scene(out.read_bytes(), out.name, MemoryFiles({})).mesh, answer.stdout

    quarter, said = reduced("--ratio", "0.25")
    assert quarter.n_faces == round(0.25 * mesh.n_faces)
    assert "maximum deviation" in said
    close, _ = reduced("--ratio", "0.02", "--tolerance", "0.5", "--placement", "original")
    assert close.n_faces > 0.02 * mesh.n_faces
    singles = {tuple(point) for point in mesh.positions.astype(np.float32).tolist()}
    assert {tuple(point) for point in close.positions.astype(np.float32).tolist()} <= singles
    both, _ = reduced("--triangles", "300", "--mirror", "x")
    points = {tuple(point) for point in np.round(both.positions, 6).tolist()}
    assert {(-x, y, z) for x, y, z in points} == points


def test_reduce_closes_holes_and_says_so_unless_they_are_to_be_kept(tmp_path: Path) -> None:
    mesh = drilled_block(5, 4)
    source, out = tmp_path / "grate.obj", tmp_path / "grate.glb"
    rows = [f"v {x!r} {y!r} {z!r}" for x, y, z in mesh.positions.tolist()]
    rows += ["f " + " ".join(str(v + 1) for v in face) for face in mesh.triangles().tolist()]
    source.write_text("\n".join(rows))

    def reduced(*options: str) -> tuple[int, str]:
        answer = plindro("reduce", str(source), "--out", str(out), "--triangles", "40", *options)
        assert answer.returncode == 0, answer.stderr
        return read_scene(out.read_bytes(), out.name, MemoryFiles({})).mesh.n_faces, answer.stdout + answer.stderr

    triangles, said = reduced()
    assert triangles <= 40
    assert "through-holes closed" in said
    assert "stops at" not in said
    triangles, said = reduced("--keep-holes")
    assert triangles > 100
    assert "through-holes keep their last triangles" in said
    assert "closed" not in said


@pytest.mark.parametrize(
    ("options", "word"),
    [
        ((), "how far"),
        (("--ratio", "1.5"), "share of 0 to 1"),
        (("--pixels", "1"), "belong together"),
        (("--ratio", "0.5", "--mirror", "found"), "no plane"),
    ],
)
def test_reduce_refuses_what_it_cannot_do_in_one_sentence(tmp_path: Path, options: tuple[str, ...], word: str) -> None:
    source, out = tmp_path / "a.obj", tmp_path / "a.glb"
    source.write_text("v 0 0 0\nv 3 0 0\nv 0 2 0\nv 1 1 5\nf 1 2 3\nf 1 4 2\n")
    answer = plindro("reduce", str(source), "--out", str(out), *options)
    assert answer.returncode == 2
    assert word in answer.stderr
    assert len(answer.stderr.strip().splitlines()) == 1
    assert not out.exists()
