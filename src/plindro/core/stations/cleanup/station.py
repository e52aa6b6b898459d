"""The station: the mesh without its faults, and the answer what was repaired and what is left."""

from dataclasses import replace

from plindro.core.findings import Finding, Severity, counted
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.stations.cleanup.clean import clean
from plindro.core.stations.cleanup.facts import CleanupFacts, FaultCount
from plindro.core.stations.cleanup.faults import MATERIALS, Fault
from plindro.core.stations.cleanup.flip_marks import turn_by_hand
from plindro.core.stations.cleanup.settings import CleanupSettings


def run(prop: Prop, settings: CleanupSettings, report: Report) -> Prop:
    """The prop with a clean mesh; the very same where nothing was repaired."""
    sided = [material.double_sided for material in prop.materials]
    mesh, faults = clean(prop.mesh, settings, double_sided=sided, report=report)
    if prop.unused_materials:
        shown = ", ".join(prop.unused_materials[:3]) + (" ..." if len(prop.unused_materials) > 3 else "")
        faults = [*faults, Fault(MATERIALS, len(prop.unused_materials), True, detail=shown)]
    for fault in faults:
        report.find(fault.finding())
    repaired = [fault for fault in faults if fault.is_repaired]
    left = [fault for fault in faults if not fault.is_repaired]
    answer = _answer(left)
    report.state(
        CleanupFacts(
            repaired=[FaultCount(code=fault.kind.code, count=fault.count) for fault in repaired],
            left=[FaultCount(code=fault.kind.code, count=fault.count) for fault in left],
            is_clean=not any(not fault.kind.is_open for fault in left),
            answer=answer,
        )
    )
    if repaired:
        report.find(Finding("checked-after-repair", Severity.INFO, f"checked after the repair: {answer}", 0))
    if not mesh.n_faces:
        text = "no face is left after the cleanup; repair the source"
        report.find(Finding("nothing-left", Severity.STOP, text, 0))
    cleaned = prop if mesh is prop.mesh else replace(prop, mesh=mesh)
    return replace(cleaned, mesh=turn_by_hand(cleaned, settings.flipped, report)) if settings.flipped else cleaned


def _answer(left: list[Fault]) -> str:
    """One sentence: what is left, and how much is only reported because it may be meant."""
    faulty = [fault for fault in left if not fault.kind.is_open]
    if faulty:
        return "left: " + ", ".join(f"{fault.name()} ({fault.by_hand})" for fault in faulty)
    reported = counted(len(left), "finding is", "findings are")
    return "nothing left to clean" + (f"; {reported} for information only" if left else "")
