"""The level where the slider rests is the one that would be built there: same shape, shading, seams and figures."""

import json
import struct
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

from plindro.core.files import MemoryFiles, read_scene
from plindro.core.mesh.mesh import Mesh
from plindro.web import store
from plindro.web.bench.previews import PREVIEW
from plindro.web.work.models import Job
from plindro.web.yard.models import Prop

pytestmark = pytest.mark.django_db
N = 14


def _waves(kind: str) -> bytes:
    """A wavy sheet as OBJ: flat, smooth with hard edges in it, in three materials, or with points for each face."""
    rng = np.random.default_rng(5)
    height = 0.06 * rng.random((N + 1, N + 1)) + 0.3 * (np.arange(N + 1)[:, None] > N // 2)
    lines = ["mtllib none.mtl"] if kind == "materials" else []
    places = [(i / N, height[i, j], j / N) for i in range(N + 1) for j in range(N + 1)]
    faces = []
    for i in range(N):
        for j in range(N):
            a = i * (N + 1) + j
            faces.append((i, (a, a + 1, a + N + 2, a + N + 1)))
    if kind == "unwelded":
        places = [places[v] for _, face in faces for v in face]
        faces = [(row, tuple(4 * k + c for c in range(4))) for k, (row, _) in enumerate(faces)]
    lines += [f"v {x:.5f} {y:.5f} {z:.5f}\nvt {x:.5f} {z:.5f}" for x, y, z in places]
    for k, (row, face) in enumerate(faces):
        if kind == "materials" and k % (4 * N) == 0:
            lines.append(f"usemtl m{row // 4 % 3}")
        if kind in ("flat", "unwelded"):
            lines.append("s off" if kind == "flat" else "s 1")
        elif k % N == 0:
            lines.append(f"s {1 + row // 5}")
        lines.append("f " + " ".join(f"{v + 1}/{v + 1}" for v in face))
    return "\n".join(lines).encode()


def _level(address: str, which: int) -> tuple[Mesh, int]:
    """A level of a stored model, and how many vertices its primitives hold."""
    data = store.files().load(address.rsplit("/", 1)[-1].removesuffix(".glb"))
    size = struct.unpack_from("<I", data, 12)[0]
    document = json.loads(data[20 : 20 + size])
    nodes = [node for node in document["nodes"] if "mesh" in node]
    primitives = document["meshes"][nodes[which]["mesh"]]["primitives"]
    vertices = sum(document["accessors"][one["attributes"]["POSITION"]]["count"] for one in primitives)
    scene = read_scene(data, "level.glb", MemoryFiles({}))
    parts = [part.name for part in scene.parts]
    own = scene.mesh.face_part == which if len(parts) > 1 else np.ones(scene.mesh.n_faces, bool)
    return scene.mesh.with_faces(own), vertices


def _corners(mesh: Mesh) -> np.ndarray:
    """Every triangle's corners with normals and UVs, each from its smallest, in order."""
    assert mesh.normals is not None
    rows = np.concatenate([mesh.positions[mesh.corner_vertex], mesh.normals, *mesh.uvs], axis=1)
    triangles = rows.astype(np.float32).reshape(mesh.n_faces, 3, -1)
    first = [min(range(3), key=lambda k, t=t: t[k].tolist()) for t in triangles]
    turned = [np.roll(t, -k, axis=0).reshape(-1) for t, k in zip(triangles, first, strict=True)]
    return np.array(sorted(turned, key=lambda row: row.tolist()))


@pytest.fixture
def prop_of(upload: Callable[..., Any], run_jobs: Callable[[], None]) -> Callable[[str], int]:
    def made(kind: str) -> int:
        identity: int = upload.named({"waves.obj": _waves(kind)})["props"][0]  # type: ignore[attr-defined]
        run_jobs()
        return identity

    return made


def _look(call: Callable[..., Any], prop: int, triangles: int) -> dict[str, Any]:
    status, answer = call("POST", f"props/{prop}/preview?triangles={triangles}")
    assert status == 200, answer
    found: dict[str, Any] = answer
    return found


@pytest.mark.parametrize("kind", ["flat", "smooth", "materials", "unwelded"])
@pytest.mark.parametrize("triangles", [250, 60])
def test_where_the_slider_rests_is_what_is_built_there(call, prop_of, run_jobs, kind: str, triangles: int) -> None:
    prop = prop_of(kind)
    assert _look(call, prop, triangles)["state"] == "working"
    run_jobs()
    seen = _look(call, prop, triangles)
    assert seen["state"] == "ready", seen
    call("PATCH", f"props/{prop}/settings", {"changes": {"levels": {"levels": [{"triangles": triangles}]}}})
    run_jobs()
    detail = call("GET", f"props/{prop}")[1]
    built = detail["levels"][1]
    assert built["triangles"] <= triangles
    told = {key: value for key, value in built.items() if seen["level"][key] != value}
    assert not told, "the figures are those of the level that is built"
    (shown, vertices), (shipped, held) = _level(seen["model"], 0), _level(detail["model"], 1)
    np.testing.assert_array_equal(_corners(shown), _corners(shipped))
    assert vertices == held == built["vertices"]


def test_one_level_at_a_time_is_looked_at_and_nothing_is_decided(call, prop_of, run_jobs) -> None:
    prop = prop_of("smooth")
    before = call("GET", f"props/{prop}")[1]
    for triangles in (300, 200, 120):
        assert _look(call, prop, triangles)["state"] == "working"
    assert _look(call, prop, 120)["state"] == "working"
    waiting = Job.objects.filter(kind=PREVIEW, state=Job.State.QUEUED)
    assert waiting.count() == 1, "the slider moved on: what it passed is not made"
    run_jobs()
    assert _look(call, prop, 120)["level"]["triangles"] <= 120
    assert _look(call, prop, 300)["state"] == "working"
    after = call("GET", f"props/{prop}")[1]
    for key in ("model", "levels", "version", "undo", "overridden", "readiness"):
        assert after[key] == before[key], key
    assert Prop.objects.get(pk=prop).state == Prop.State.BUILT


def test_it_is_made_of_what_is_decided_and_comes_back_without_work(call, prop_of, run_jobs) -> None:
    prop = prop_of("smooth")
    _look(call, prop, 100)
    run_jobs()
    first = _look(call, prop, 100)
    call("PATCH", f"props/{prop}/settings", {"changes": {"levels": {"placement": "original"}}})
    run_jobs()
    assert _look(call, prop, 100)["state"] == "working", "another way down gives another level"
    run_jobs()
    other = _look(call, prop, 100)
    assert other["model"] != first["model"]
    call("POST", f"props/{prop}/undo")
    assert _look(call, prop, 100) == first


def test_what_cannot_be_looked_at_says_so(call, prop_of, run_jobs, monkeypatch: pytest.MonkeyPatch) -> None:
    prop = prop_of("smooth")
    whole = call("GET", f"props/{prop}")[1]["levels"][0]["triangles"]
    _look(call, prop, whole - 1)
    run_jobs()
    answer = _look(call, prop, whole - 1)
    assert (answer["state"], answer["error"]) == ("failed", "a level of so many triangles is not worth having")
    assert call("POST", "props/4711/preview?triangles=10")[0] == 404
    source = Prop.objects.get(pk=prop).source
    _look(call, prop, 77)
    store.files().path_of(source).unlink()
    run_jobs()
    lost = _look(call, prop, 77)
    assert (lost["state"], lost["error"]) == ("failed", "waves.obj: its stored file is gone; import it again")


def test_a_look_that_is_called_off_is_not_begun_again_until_the_slider_moves(call, prop_of, run_jobs) -> None:
    prop = prop_of("smooth")
    _look(call, prop, 100)
    job = Job.objects.get(kind=PREVIEW)
    assert call("POST", f"jobs/{job.pk}/cancel")[0] == 200
    run_jobs()
    assert Job.objects.get(pk=job.pk).state == Job.State.CANCELLED
    for _ in range(2):
        assert _look(call, prop, 100) == {"state": "failed", "model": None, "level": None, "error": "it was called off"}
    assert not Job.objects.filter(kind=PREVIEW, state=Job.State.QUEUED).exists()
    assert _look(call, prop, 90)["state"] == "working"
    run_jobs()
    assert _look(call, prop, 90)["state"] == "ready"
    assert _look(call, prop, 100)["state"] == "working", "after another count it may be looked at again"


def test_a_count_that_is_asked_for_again_is_made_though_its_first_job_was_superseded(call, prop_of, run_jobs) -> None:
    prop = prop_of("smooth")
    for triangles in (100, 150, 100):
        _look(call, prop, triangles)
    first, _, last = Job.objects.filter(kind=PREVIEW).order_by("pk")
    assert (first.state, last.state) == (Job.State.CANCELLED, Job.State.QUEUED)
    run_jobs()
    assert _look(call, prop, 100)["state"] == "ready"


def test_a_prop_that_ships_without_levels_can_be_looked_at_with_one(call, prop_of, run_jobs) -> None:
    prop = prop_of("smooth")
    call("PATCH", f"props/{prop}/settings", {"changes": {"levels": {"has_levels": False}}})
    run_jobs()
    assert len(call("GET", f"props/{prop}")[1]["levels"]) == 1
    _look(call, prop, 100)
    run_jobs()
    assert _look(call, prop, 100)["level"]["triangles"] <= 100
