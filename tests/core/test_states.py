"""States: a damaged variant has a chain of its own and falls back to the intact one's."""

from dataclasses import replace

import numpy as np
import pytest

from plindro.core.destinations import get_destination
from plindro.core.files import MemoryFiles
from plindro.core.line import StationCache, override
from plindro.core.lines import get_line
from plindro.core.measure.deviation import DeviationFrom
from plindro.core.measure.game_view import View
from plindro.core.mesh.mesh import Mesh
from plindro.core.polygons import triangulate
from plindro.core.prop import Level, Prop
from plindro.core.reduction import diagonal
from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.chain import recognise
from plindro.core.rehearsal.drawn import draw
from plindro.core.rehearsal.readers import read_found
from plindro.core.scene import Material
from plindro.core.shipping import PrepareResult, prepare, prop_record
from plindro.core.shipping.states import fallen_back
from plindro.core.stations.levels import LEVELS, State
from tests.shapes import bumpy_sphere, flat_grid, moved

PLAIN = get_destination("plain")


def _obj(**objects: Mesh) -> bytes:
    lines, first = [], 1
    for name, mesh in objects.items():
        lines += [f"o {name}", f"usemtl {'dull' if 'damaged' in name else 'bright'}"]
        lines += [f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in mesh.positions.tolist()]
        lines += ["f " + " ".join(str(v + first) for v in face) for face in mesh.triangles().tolist()]
        first += mesh.n_vertices
    return "\n".join(lines).encode()


INTACT = triangulate(bumpy_sphere(20, 1)).mesh
DAMAGED = moved(triangulate(bumpy_sphere(14, 2)).mesh, (0.3, 0.0, 0.0))
SOURCE = _obj(crate=INTACT, crate_damaged=DAMAGED)


def _prepared(states: list[dict], cache: StationCache | None = None) -> PrepareResult:
    levels = {"levels": [{"ratio": 0.5}, {"ratio": 0.25}, {"ratio": 0.1}], "states": states}
    line = override(get_line("standing"), {"levels": levels, "source": {"exclude": []}})
    return prepare(SOURCE, "crate.obj", MemoryFiles({}), line, PLAIN, cache=cache)


class _Read:
    """A shipped chain as the rehearsal reads it."""

    def __init__(self, data: bytes, path: str) -> None:
        found = read_found(path, {path: data}, Axes())
        levels = recognise(found, path, PLAIN).levels
        drawn = [draw(level.primitives) for level in levels]
        self.names = [level.name for level in levels]
        self.counts = [len(arrays.triangles) for arrays in drawn]
        self.materials = [
            [found.materials[p.material].name for p in level.primitives if p.material is not None] for level in levels
        ]
        self.middle = drawn[0].positions.mean(axis=0)


def test_a_state_has_its_own_levels_and_the_base_states_below_them() -> None:
    result = _prepared([{"name": "damaged", "parts": ["*_damaged"], "levels": [{"ratio": 0.4}]}])
    assert [file.path for file in result.files] == ["crate.glb", "crate_damaged.glb"]
    base, damaged = (_Read(file.data, file.path) for file in result.files)
    counts = base.counts
    assert counts[0] == INTACT.n_faces, "the base state has nothing of the damaged one"
    own = damaged.counts
    assert own[0] == DAMAGED.n_faces
    assert own[1] <= 0.41 * DAMAGED.n_faces
    assert own[2:] == [count for count in counts[2:] if count < own[1]]
    assert damaged.names == [f"crate_damaged_LOD{i}" for i in range(len(own))]
    assert damaged.materials[-1] == base.materials[-1] == ["bright"]
    assert damaged.materials[0] == ["dull"]
    # One pivot for both: the damaged one lies beside the intact one as it does in the source.
    shift = damaged.middle - base.middle
    np.testing.assert_allclose(shift, DAMAGED.positions.mean(axis=0) - INTACT.positions.mean(axis=0), atol=0.05)
    (said,) = prop_record(result, "crate.obj")["states"]
    assert (said["name"], said["prop"], said["fallen_back"]) == ("damaged", "crate_damaged", len(own) - 2)
    # What is the base state's looks otherwise: it is measured against the state's own LOD0, and drawn from far enough.
    (whole,) = result.states
    assert [level.target for level in whole.prop.levels] == [-1, 0] + [-1] * said["fallen_back"]
    distances = [level.distance for level in whole.prop.levels]
    assert distances == sorted(distances)
    ruler = DeviationFrom(whole.prop.levels[0].mesh)
    for level, row in zip(whole.prop.levels[2:], said["levels"][2:], strict=True):
        measured = ruler.measure(level.mesh).largest
        assert row["deviation"] == pytest.approx(measured, rel=0.02)
        assert measured > 0.2
        assert View(radius=diagonal(whole.prop.levels[0].mesh) / 2).pixels(measured, row["distance"]) <= 1.001
    (told,) = [finding for finding in result.findings if finding.code == "state-falls-back"]
    assert told.level == 2
    assert "damaged" in told.message


def test_a_state_without_levels_falls_back_from_lod1_and_one_without_parts_is_said() -> None:
    result = _prepared([{"name": "damaged", "parts": ["*_damaged"]}, {"name": "burnt", "parts": ["*_burnt"]}])
    assert [file.path for file in result.files] == ["crate.glb", "crate_damaged.glb"]
    base, damaged = (_Read(file.data, file.path) for file in result.files)
    assert damaged.counts[1:] == [count for count in base.counts[1:] if count < DAMAGED.n_faces]
    (said,) = [f.message for f in result.findings if f.code == "state-empty"]
    assert "burnt" in said


def test_a_state_shares_parts_with_the_base() -> None:
    base, damaged = (
        _prepared([{"name": "damaged", "parts": ["*_damaged"], "shared_parts": shared}]) for shared in ([], ["crate"])
    )
    assert _triangles(base) == _triangles(damaged) == INTACT.n_faces
    own, both = (result.facts.of(LEVELS).states[0].levels[0].triangles for result in (base, damaged))
    assert own == DAMAGED.n_faces
    assert both == INTACT.n_faces + DAMAGED.n_faces


def _triangles(result: PrepareResult) -> int:
    """Triangles of the base as it came from its source."""
    return result.facts.source.triangles


def test_states_change_nothing_of_a_prop_without_them_and_come_out_the_same_from_the_cache() -> None:
    cache = StationCache()
    states = [{"name": "damaged", "parts": ["*_damaged"]}]
    first, again = _prepared(states, cache), _prepared(states, cache)
    assert [file.data for file in first.files] == [file.data for file in again.files]
    alone = _prepared([])
    assert [file.path for file in alone.files] == ["crate.glb"]
    assert _triangles(alone) == INTACT.n_faces + DAMAGED.n_faces


def test_what_falls_back_is_seen_with_its_own_materials_whatever_their_numbers() -> None:
    """A flat sheet that is seen from both sides, as the second of the base's materials and the first of the state's."""
    sheet = triangulate(flat_grid(12)).mesh
    coarse = triangulate(flat_grid(4)).mesh
    thin, card = Material("card", double_sided=False), Material("sheet", double_sided=True)
    second = replace(coarse, face_material=np.ones(coarse.n_faces, np.int32))
    base = Prop("sheet", sheet, (), (thin, card), levels=(Level(0, sheet), Level(1, second)))
    own = Prop("sheet_torn", sheet, (), (card,), levels=(Level(0, sheet),))
    state = State(name="torn", parts=("torn",))
    whole = fallen_back(state, own, base, get_line("standing"), PLAIN)
    (_, level) = whole.prop.levels
    assert [whole.prop.materials[m].name for m in np.unique(level.mesh.face_material)] == ["sheet"]
    assert level.change.outline_share < 0.01
    assert level.deviation < 1e-9
    # One that only the base has comes along.
    first = replace(coarse, face_material=np.zeros(coarse.n_faces, np.int32))
    whole = fallen_back(
        state, own, replace(base, levels=(Level(0, sheet), Level(1, first))), get_line("standing"), PLAIN
    )
    assert [material.name for material in whole.prop.materials] == ["sheet", "card"]
    assert whole.prop.levels[1].change.outline_share > 0.2, "it is not seen from behind any more"
