"""What a worker runs to make a shared sheet: core functions on stored files, no database."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any, Literal

from plindro.core.destinations import DESTINATIONS
from plindro.core.errors import InvalidSettings
from plindro.core.files import MemoryFiles, PathFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.findings import holds_back
from plindro.core.line import StationCache, StationLine, run_until
from plindro.core.packing import Sheet
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.sheets.placing import Density
from plindro.core.sheets.shared import Tiling, share_sheet
from plindro.core.stations.source import SourceSettings, plan_props
from plindro.core.stations.uvs import UVS
from plindro.web.store import Store
from plindro.web.work.progress import JobChannel

SPLIT: Literal["object"] = "object"
"""How the scene that is made becomes props again."""
_READ = 0.3
_cache = StationCache()


@dataclass(frozen=True, slots=True)
class Member:
    """A prop that goes onto a sheet: its name, its source by the digests of its files, and its line."""

    name: str
    source_name: str
    source: str
    side_files: Mapping[str, str]
    line: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class SheetOrder:
    """Props for a sheet of ``size`` pixels along a side, and how they go onto it."""

    store: Store
    name: str
    members: Sequence[Member]
    size: int
    padding: int
    tiling: Tiling
    density: Density


@dataclass(frozen=True, slots=True)
class SheetResult:
    """The stored scene and its size in bytes, which prop of its split each member became, the digest of the sheet's
    colours, and what is told of it."""

    digest: str
    size: int
    keys: list[str]
    picture: str
    before: dict[str, Any]
    after: dict[str, Any]
    findings: list[dict[str, Any]]


def share(order: SheetOrder, channel: JobChannel) -> SheetResult:
    """Make a sheet and store the scene; raises what ``share_sheet`` raises, and ``InvalidSettings`` for a prop that is
    held back before it has UVs."""
    report = channel.report()
    n = len(order.members)
    props = [
        _prop(order.store, member, report.span(_READ * k / n, _READ * (k + 1) / n))
        for k, member in enumerate(order.members)
    ]
    sheet = Sheet(order.size, order.size, order.padding, (order.padding + 1) // 2)
    shared = share_sheet(
        order.name, props, sheet, report.span(_READ, 0.95).step, tiling=order.tiling, density=order.density
    )
    report.step(0.95, "writing the sheet")
    data = write_glb(shared.prop)
    scene = read_scene(data, f"{order.name}.glb", MemoryFiles({}))
    plans = plan_props(scene.parts, [True] * len(scene.parts), SourceSettings(split=SPLIT), order.name)
    return SheetResult(
        digest=order.store.keep(data),
        size=len(data),
        keys=[plan.key for plan in plans],
        picture=_picture(order.store, shared.prop),
        before=asdict(shared.before),
        after=asdict(shared.after),
        findings=[finding.as_dict() for finding in shared.findings],
    )


def _picture(kept: Store, prop: Prop) -> str:
    """Digest of the sheet's colours; empty where it has none."""
    texture = prop.materials[0].texture("base_color")
    return kept.keep(prop.images[texture.image].data) if texture else ""


def _prop(kept: Store, member: Member, report: Report) -> Prop:
    """A member as its line has it after UVs."""
    side_files = PathFiles({name: kept.path_of(digest) for name, digest in member.side_files.items()})
    scene = read_scene(kept.load(member.source), member.source_name, side_files)
    line = StationLine.model_validate(member.line)
    prop, findings = run_until(
        scene, line, DESTINATIONS[0], report, UVS, source_digest=f"{member.source}|{sorted(member.side_files.items())}",
        cache=_cache,
    )  # fmt: skip
    if holds_back(findings) or not prop.mesh.n_faces:
        why = next((finding.message for finding in findings if finding.severity == "stop"), "nothing of it ships")
        raise InvalidSettings(f"{member.name} is held back ({why}); mend it first, or leave it out")
    return Prop(member.name, prop.mesh, prop.parts, prop.materials, prop.images)
