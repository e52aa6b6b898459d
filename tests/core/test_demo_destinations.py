"""Every form that a destination can have, of every demo prop: read back as an engine does, and by other libraries."""

import io
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import trimesh
from pxr import Usd, UsdGeom

from plindro.core.destinations import ENDINGS, Destination, get_destination
from plindro.core.findings import Severity
from plindro.core.prop import Prop
from plindro.core.rehearsal import rehearse
from plindro.core.shipping import PrepareResult, write_prop
from plindro.core.shipping.shape import shape_of
from plindro.core.shipping.splitting import split_levels
from plindro.demo import DEMO_PROPS

FORMS = ("nested-split", "files-beside", "z-up-obj", "z-up-usdz", "left-hand-ply", "print-stl")


@pytest.mark.parametrize("name", FORMS)
def test_every_demo_prop_is_taken_by_a_strict_engine(
    demo_result: Callable[[str], PrepareResult], name: str, tmp_path: Path
) -> None:
    destination = get_destination(name)
    # Text takes a second a prop to write: every third will do.
    for stem in list(DEMO_PROPS)[:: 3 if destination.format == "obj" else 1]:
        prop = split_levels(_named_for(demo_result(stem).built.prop, destination), destination)[0]
        files = {file.path: file.data for file in write_prop(prop, destination)}
        mains = [path for path in files if path.endswith(ENDINGS[destination.format][0])]
        done = rehearse(mains, files, destination, shape_of(prop))
        # What the demo's faults leave in its props is told elsewhere already, and is no matter of the form.
        found = [f.message for f in done.findings if f.severity is Severity.STOP or "light-map" in f.code]
        assert found == [], stem
        assert [level.triangles for level in done.seen.levels] == [level.mesh.n_triangles for level in prop.levels]
        assert {row.state for material in done.seen.materials for row in material.maps} <= {"found"}
        size = prop.levels[0].mesh.positions[prop.levels[0].mesh.corner_vertex]
        assert np.allclose(done.seen.size, np.ptp(size, axis=0), rtol=1e-3, atol=1e-4), stem
        _opened_elsewhere(files, mains[0], destination.format, tmp_path / stem)


def _named_for(prop: Prop, destination: Destination) -> Prop:
    """The prop with the names that its levels have there."""
    levels = tuple(replace(lv, name=destination.level_name(prop.name, lv.index)) for lv in prop.levels)
    return replace(prop, levels=levels)


def _opened_elsewhere(files: dict[str, bytes], main: str, kind: str, folder: Path) -> None:
    """Another library finds as many triangles as there are, or opens the stage."""
    if kind.startswith("usd"):
        folder.mkdir()
        (folder / main).write_bytes(files[main])
        stage = Usd.Stage.Open(str(folder / main))
        assert [prim for prim in stage.Traverse() if prim.IsA(UsdGeom.Mesh)]
    elif kind in ("ply", "stl"):
        assert len(trimesh.load(io.BytesIO(files[main]), file_type=kind).faces)
