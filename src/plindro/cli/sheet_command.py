"""``plindro sheet``: the textures of several files on one sheet, each file an object of the scene that is written."""

import sys
from dataclasses import asdict, replace
from pathlib import Path

import click

from plindro.cli.output import DONE, grouped, print_findings, print_json
from plindro.cli.single_file import format_of, open_prop, with_normals, write_single
from plindro.core.errors import InvalidSettings
from plindro.core.names import clean_name, unique_names
from plindro.core.packing import Sheet
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.sheets.costs import Costs
from plindro.core.sheets.placing import Density
from plindro.core.sheets.shared import Tiling, share_sheet
from plindro.core.stations.triangulation import TriangulationSettings
from plindro.core.stations.triangulation import run as cut
from plindro.core.stations.uvs import UvsSettings, make_channel


def share_files(
    files: tuple[str, ...], out: str, size: int, padding: int, tiling: Tiling, density: Density, as_json: bool
) -> int:
    """Write ``out``, a scene whose objects are the files as one prop each: metres, Y up, pivots where they were."""
    target, report = Path(out), Report()
    if format_of(out) != "glb":
        raise InvalidSettings(f"{out}: a shared sheet goes into a .glb")
    names = unique_names(Path(file).stem for file in files)
    props = [_opened(file, name, report) for file, name in zip(files, names, strict=True)]
    sheet = Sheet(size, size, padding, (padding + 1) // 2)
    with click.progressbar(length=1000, label="sharing a sheet", file=sys.stderr) as bar:
        shared = share_sheet(
            clean_name(target.stem), props, sheet, lambda done, doing: bar.update(int(1000 * done) - bar.pos),
            tiling=tiling, density=density,
        )  # fmt: skip
    write_single(shared.prop, "glb", target)
    findings = [*report.findings, *shared.findings]
    if as_json:
        print_json(
            {
                "out": out,
                "props": names,
                "before": asdict(shared.before),
                "after": asdict(shared.after),
                "findings": [finding.as_dict() for finding in findings],
            }
        )
        return DONE
    click.echo(f"{out}: {', '.join(names)} on {grouped(size)} × {grouped(size)} pixels")
    click.echo(f"  before  {_in_words(shared.before)}")
    click.echo(f"  after   {_in_words(shared.after)}")
    print_findings(findings)
    return DONE


def _opened(file: str, name: str, report: Report) -> Prop:
    """A file as a prop of triangles with UVs: unwrapped where it has none."""
    prop = cut(open_prop(file, name, report), TriangulationSettings(), report)
    prop = replace(prop, mesh=with_normals(prop.mesh, False, report))
    return make_channel(prop, UvsSettings(), report)[0]


def _in_words(costs: Costs) -> str:
    calls = f"{grouped(costs.draw_calls)} draw call{'' if costs.draw_calls == 1 else 's'}"
    memory = f"{costs.texture_bytes / 2**20:.3g} MiB of textures with mips"
    return f"{calls}, {memory}, median {costs.density:.0f} px/m"
