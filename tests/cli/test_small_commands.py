"""The smaller commands: what is checked, listed, inspected and stored, in words and as JSON."""

import json
import re
from itertools import pairwise
from pathlib import Path

import pytest

from plindro.core.destinations import DESTINATIONS
from plindro.core.lines import LINES
from tests.cli.test_cli import TRIANGLE, plindro

SHEET = "\n".join(
    [
        "mtllib sheet.mtl\no plank\nusemtl oak",
        *(f"v {i % 9} 0 {i // 9}\nvt {i % 9 / 8} {i // 9 / 8}" for i in range(81)),
        *(f"f {a}/{a} {a + 9}/{a + 9} {a + 10}/{a + 10} {a + 1}/{a + 1}" for a in range(1, 72) if a % 9),
    ]
)


@pytest.fixture(scope="module")
def shipped(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with a prop that was shipped."""
    folder = tmp_path_factory.mktemp("small")
    source = folder / "sheet.obj"
    source.write_text(SHEET)
    (folder / "sheet.mtl").write_text("newmtl oak\nKd 0.5 0.3 0.1\n")
    assert plindro("build", source, "--out", folder / "out").returncode == 0
    return folder / "out"


def _glb(folder: Path) -> Path:
    return next(folder.rglob("*.glb"))


def test_checked_files_are_listed_with_their_levels_and_nothing_against_them(shipped: Path) -> None:
    file = _glb(shipped)
    run = plindro("check", file)
    assert (run.returncode, run.stderr) == (0, "")
    lines = run.stdout.splitlines()
    assert lines[0] == str(file)
    assert lines[-1] == "  no findings"
    levels = [line.split()[0] for line in lines if " triangles, " in line]
    assert levels == [f"sheet_LOD{i}" for i in range(len(levels))]
    assert "128 triangles, 81 vertices" in lines[1]
    document = json.loads(plindro("check", file, "--json").stdout)
    assert document["totals"] == {"files": 1, "stopped": 0, "unreadable": 0}
    assert document["files"][0]["levels"][0]["triangles"] == 128


def test_a_file_that_cannot_be_read_is_said_and_the_others_are_checked(shipped: Path, tmp_path: Path) -> None:
    (tmp_path / "sheet.glb").write_bytes(_glb(shipped).read_bytes())
    (tmp_path / "b.glb").write_bytes(b"glTF and no more")
    (tmp_path / "c.glb").write_bytes(_glb(shipped).read_bytes()[:-40])
    run = plindro("check", tmp_path)
    assert run.returncode == 2
    assert [line.split(":")[0] for line in run.stderr.splitlines()] == ["plindro"] * 2
    assert run.stdout.count("could not be read") == 2
    assert "no findings" in run.stdout
    document = json.loads(plindro("check", tmp_path, "--json").stdout)
    assert document["totals"] == {"files": 3, "stopped": 0, "unreadable": 2}
    assert [bool(row.get("error")) for row in document["files"]] == [True, True, False]


def test_a_name_that_the_destination_does_not_know_is_refused_before_anything_is_read(shipped: Path) -> None:
    run = plindro("check", _glb(shipped), "--destination", "moon")
    assert (run.returncode, run.stdout) == (2, "")
    assert "moon" in run.stderr
    assert len(run.stderr.splitlines()) == 1


@pytest.mark.parametrize(("command", "known"), [("lines", LINES), ("destinations", DESTINATIONS)])
def test_what_there_is_is_listed_and_exported(command: str, known: tuple) -> None:
    text = plindro(command).stdout.splitlines()
    assert [line.split()[0] for line in text] == [one.name for one in known]
    assert all(one.title in line for one, line in zip(known, text, strict=True))
    listed = json.loads(plindro(command, "--json").stdout)
    assert [row["name"] for row in listed] == [one.name for one in known]
    for one, row in [(known[0], listed[0]), (known[-1], listed[-1])]:
        exported = json.loads(plindro(command, "--export", one.name).stdout)
        assert exported == row
        assert type(one).model_validate(exported) == one, "what is exported is what is read"
    schema = json.loads(plindro(command, "--schema").stdout)
    assert set(listed[0]) <= set(schema["properties"])
    assert all(setting["description"] for setting in schema["properties"].values())
    run = plindro(command, "--export", "moon")
    assert (run.returncode, run.stdout) == (2, "")
    assert "moon" in run.stderr


def test_inspect_says_in_words_what_it_says_in_json(shipped: Path) -> None:
    source = shipped.parent / "sheet.obj"
    facts = json.loads(plindro("inspect", source, "--json").stdout)
    text = plindro("inspect", source).stdout
    rows = dict(line.strip().split(None, 1) for line in text.splitlines()[1:10] if "engine" not in line)
    assert rows["format"] == facts["format"] == "OBJ"
    assert facts["bytes"] == source.stat().st_size
    assert rows["size"] == "8.000 × 0.000 × 8.000 m"
    assert facts["size"] == pytest.approx([8, 0, 8])
    assert rows["polygons"].split()[0] == str(facts["polygons"]) == "64"
    assert facts["sides"] == {"4": 64}
    assert facts["materials"] == ["oak"]
    assert "1: plank" in text
    assert facts["engine_cut"] is None or facts["engine_cut"]["quads"] == 64
    codes = [finding["code"] for finding in facts["findings"]]
    assert all(finding["message"] in text for finding in facts["findings"]), codes


def test_inspect_of_what_would_be_held_says_so_by_its_status(tmp_path: Path) -> None:
    source = tmp_path / "flat.obj"
    source.write_text("v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n")
    run = plindro("inspect", source)
    assert run.returncode == 1
    assert "stop" in run.stdout
    source.write_text(TRIANGLE)
    assert plindro("inspect", source).returncode == 0


def test_versions_and_help_are_there_without_a_file() -> None:
    for option in ("--help", "--version"):
        run = plindro(option)
        assert run.returncode == 0
        assert "plindro" in run.stdout.lower()
    for command in ("build", "check", "inspect", "reduce", "triangulate", "serve", "storage", "lines", "destinations"):
        run = plindro(command, "--help")
        assert run.returncode == 0
        assert f" {command} " in run.stdout.splitlines()[0]
    unknown = plindro("polish")
    assert unknown.returncode == 2
    assert "polish" in unknown.stderr


def _channels(file: Path) -> list[dict[str, float]]:
    """What ``inspect`` says of a file's UVs."""
    document = json.loads(plindro("inspect", file, "--json").stdout)
    channels: list[dict[str, float]] = document["uvs"]["channels"]
    return channels


def test_a_channel_is_made_anew_and_read_back_sound(shipped: Path, tmp_path: Path) -> None:
    source = shipped.parent / "sheet.obj"
    run = plindro("unwrap", source, "--out", tmp_path / "a.glb", "--resolution", "256", "--padding", "3")
    assert run.returncode == 0
    assert run.stdout.splitlines()[0] == f"{source}: channel 0 of 128 triangles"
    (made,) = _channels(tmp_path / "a.glb")
    assert (made["islands"], made["overlap"], made["flipped_islands"]) == (1, 0.0, 0)
    assert made["used"] > 0.9
    assert plindro("unwrap", source, "--out", tmp_path / "b.obj", "--method", "box", "--axis", "x").returncode == 0
    assert _channels(tmp_path / "b.obj")[0]["islands"] == 1


def test_hard_edges_of_a_file_without_normals_are_those_that_fold(tmp_path: Path) -> None:
    source = tmp_path / "roof.obj"
    rows = [f"v {0.1 * i} {0.1 * min(i, 6 - i)} {z}" for i in range(7) for z in (0, 1)]
    rows += [f"f {2 * i + 1} {2 * i + 2} {2 * i + 4} {2 * i + 3}" for i in range(6)]
    source.write_text("\n".join(rows))
    assert plindro("unwrap", source, "--out", tmp_path / "a.glb", "--hard-edge-seams").returncode == 0
    assert _channels(tmp_path / "a.glb")[0]["islands"] == 2


def test_a_light_map_is_a_second_channel_beside_the_first(shipped: Path, tmp_path: Path) -> None:
    source = shipped.parent / "sheet.obj"
    run = plindro("unwrap", source, "--out", tmp_path / "a.glb", "--channel", "1", "--resolution", "64")
    assert "the light map is channel 0's islands, packed anew" in run.stdout
    first, second = _channels(tmp_path / "a.glb")
    assert first["used"] == pytest.approx(1.0)
    assert (second["islands"], second["overlap"], second["outside"]) == (1, 0.0, 0.0)


def test_islands_are_packed_anew_at_the_density_that_is_asked(shipped: Path, tmp_path: Path) -> None:
    asked = ("--method", "repack", "--density", "20", "--stack", "--resolution", "256")
    assert plindro("unwrap", shipped.parent / "sheet.obj", "--out", tmp_path / "a.glb", *asked).returncode == 0
    (made,) = _channels(tmp_path / "a.glb")
    # Told at 1 024 pixels, where the file names no texture.
    assert made["density"]["median"] == pytest.approx(80, rel=0.01)  # type: ignore[index]
    refused = plindro("unwrap", shipped.parent / "sheet.obj", "--out", tmp_path / "b.glb", "--density", "0")
    assert (refused.returncode, "is no density" in refused.stderr) == (2, True)


def test_seams_that_a_line_marks_are_cut(shipped: Path, tmp_path: Path) -> None:
    source = shipped.parent / "sheet.obj"
    points = [[float(word) for word in row.split()[1:]] for row in source.read_text().splitlines() if row[:2] == "v "]
    middle = sorted({point[0] for point in points})[4]
    across = sorted(point for point in points if point[0] == middle)
    seams = [[*pair] for pair in pairwise([*across, [9.0, 9.0, 9.0]])]
    (tmp_path / "line.json").write_text(json.dumps({"name": "cut", "title": "Cut", "uvs": {"seams": seams}}))
    run = plindro("unwrap", source, "--out", tmp_path / "a.glb", "--marks", tmp_path / "line.json")
    assert run.returncode == 0, run.stderr
    assert _channels(tmp_path / "a.glb")[0]["islands"] == 2
    assert "1 edge set by hand does not fit this source any more" in run.stdout
    refused = plindro("unwrap", source, "--out", tmp_path / "b.glb", "--channel", "1", "--marks", "standing")
    assert (refused.returncode, "--marks is for channel 0" in refused.stderr) == (2, True)


def test_files_share_a_sheet_and_each_is_an_object_of_the_scene(shipped: Path, tmp_path: Path) -> None:
    source = shipped.parent / "sheet.obj"
    out = tmp_path / "set.glb"
    run = plindro("sheet", source, source, "--out", out, "--size", "128", "--json")
    document = json.loads(run.stdout)
    assert (run.returncode, document["props"]) == (0, ["sheet", "sheet_2"])
    assert [document[side]["draw_calls"] for side in ("before", "after")] == [2, 2]
    inspected = json.loads(plindro("inspect", out, "--json").stdout)
    assert len(inspected["parts"]) == 2
    assert inspected["uvs"]["channels"][0]["overlap"] == 0.0
    words = plindro("sheet", source, "--out", out, "--size", "128")
    assert words.stdout.splitlines()[0] == f"{out}: sheet on 128 × 128 pixels"
    refused = plindro("sheet", source, "--out", tmp_path / "set.obj")
    assert (refused.returncode, "goes into a .glb" in refused.stderr) == (2, True)
    assert plindro("sheet", source, "--out", tmp_path / "no.glb", "--size", "64", "--padding", "64").returncode == 2
    assert not (tmp_path / "no.glb").exists()


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("--out", "a.obj", "--channel", "1"), "OBJ holds one UV channel"),
        (("--out", "a.glb", "--channel", "1", "--method", "box"), "channel 1 is a light map"),
        (("--out", "a.glb", "--resolution", "16", "--padding", "16"), "do not fit into 16 x 16 pixels"),
        (("--out", "a.glb", "--density", "1e12"), "unwrap: density: Input should be less than or equal to 65536"),
    ],
)
def test_what_cannot_be_unwrapped_is_said_in_one_line(
    shipped: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, arguments: tuple[str, ...], said: str
) -> None:
    monkeypatch.chdir(tmp_path)
    run = plindro("unwrap", shipped.parent / "sheet.obj", *arguments)
    assert run.returncode == 2
    assert said in run.stderr
    assert "Traceback" not in run.stderr
    assert list(tmp_path.iterdir()) == []


def test_a_build_with_a_report_is_a_folder_that_checks_itself(tmp_path: Path) -> None:
    (tmp_path / "sheet.obj").write_text(SHEET)
    out = tmp_path / "out"
    run = plindro("build", tmp_path / "sheet.obj", "--out", out, "--report", "--destination", "left-hand-ply", "--json")
    assert run.returncode == 0, run.stderr
    assert {path.name for path in out.iterdir()} >= {"manifest.json", "report.html", "contact-sheet.png"}
    manifest = json.loads((out / "manifest.json").read_text())
    assert (manifest["destination"], manifest["props"][0]["line"]["name"]) == ("left-hand-ply", "standing")
    assert "picture" not in manifest["props"][0]
    assert "data:image/png;base64," in (out / "report.html").read_text()
    check = plindro("check", out)
    assert (check.returncode, check.stderr) == (0, "")
    levels = sorted(out.glob("*_LOD1.ply"))
    levels[0].rename(out / "sheet_lod1.ply")
    told = json.loads(plindro("check", out, "--json").stdout)
    codes = {finding["code"] for row in told["files"] for finding in row["findings"]}
    assert {"level-number-missing", "file-missing", "file-stale"} <= codes


def test_a_stop_is_waived_on_the_command_line_by_name(tmp_path: Path) -> None:
    lit = {"name": "lit", "title": "Lit", "light_map": True}
    (tmp_path / "lit.json").write_text(json.dumps(lit))
    tiling = re.sub(r"vt (\S+) (\S+)", lambda m: f"vt {3 * float(m[1])} {3 * float(m[2])}", SHEET)
    (tmp_path / "sheet.obj").write_text(tiling)
    build = (
        "build",
        tmp_path / "sheet.obj",
        "--out",
        tmp_path / "out",
        "--destination",
        tmp_path / "lit.json",
        "--json",
    )
    assert plindro(*build).returncode == 1
    assert not list((tmp_path / "out").glob("*.glb"))
    reason = "light-map-missing=the level has no baked light"
    run = plindro(*build, "--waive", reason, "--by", "Ines")
    assert run.returncode == 0, run.stdout
    (record,) = json.loads(run.stdout)["props"]
    assert record["waivers"] == [{"code": "light-map-missing", "by": "Ines", "reason": "the level has no baked light"}]
    assert record["status"] == "shipped"
    refused = plindro(*build, "--waive", "light-map-missing")
    assert (refused.returncode, refused.stderr.count("\n")) == (2, 1)
    assert plindro(*build, "--waive", "no-faces=why").returncode == 2
