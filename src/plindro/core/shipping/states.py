"""States of a prop, intact and damaged: each a file with a chain of its own, which falls back to the base state's."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Severity, length, metres
from plindro.core.line import BuiltProp, Line
from plindro.core.measure.deviation import Deviation
from plindro.core.mesh.mesh import I32
from plindro.core.prop import Level, Prop
from plindro.core.report import Report
from plindro.core.scene import Material
from plindro.core.stations.levels import LEVELS, Comparison, State, StateFacts, chain_facts, place
from plindro.core.stations.naming import NAMING
from plindro.core.stations.source import SOURCE


@dataclass(frozen=True, slots=True)
class StateBuilt:
    """A state's prop, with how many of its levels are the base state's, and what was found about those."""

    state: State
    prop: Prop
    n_fallen_back: int
    findings: tuple[Finding, ...] = ()

    def facts(self) -> StateFacts:
        """What is said of it; levels of the base state have the target -1."""
        chain = dict(chain_facts(self.prop))
        return StateFacts(name=self.state.name, prop=self.prop.name, fallen_back=self.n_fallen_back, **chain)


def base_line(line: Line) -> Line:
    """The line of the base state: everything that belongs to no other."""
    named = tuple(pattern for state in line.of(LEVELS).states for pattern in state.parts)
    return line.with_settings(SOURCE, exclude=(*line.of(SOURCE).exclude, *named)) if named else line


def state_line(line: Line, state: State, root: str, destination: Destination) -> Line:
    """The line of one state: its parts alone, its levels if it has any, a name after the prop's."""
    own = line.with_settings(SOURCE, include=(*state.parts, *state.shared_parts))
    own = own.with_settings(LEVELS, levels=state.levels or (), states=(), lod0=None)
    return own.with_settings(NAMING, name=destination.state_name(root, state.name), prefix="", suffix="")


def fallen_back(
    state: State,
    prop: Prop,
    base: Prop,
    line: Line,
    destination: Destination,
    on_share: Callable[[], None] = lambda: None,
) -> StateBuilt:
    """The state with the base state's levels wherever ``prop``, built by ``line``, has none of its own.

    They are drawn from where they cannot be told from the state's own LOD0, as all levels.
    ``on_share`` is called now and then and may raise to stop.
    """
    taken: list[Level] = []
    least = prop.levels[-1].mesh.n_faces
    for level in base.levels[len(prop.levels) :]:
        if level.mesh.n_faces < least:
            taken.append(level)
            least = level.mesh.n_faces
    if not taken:
        return StateBuilt(state, prop, 0)
    onto, materials = _onto(prop, base, taken)
    comparison = Comparison(prop.levels[0].mesh, materials, on_share=on_share)
    above = prop.levels[-1]
    if above.index:
        comparison.add(above.mesh, Deviation(above.deviation, above.mean_deviation, above.deviation))
    levels = list(prop.levels)
    for level in taken:
        mesh = replace(
            level.mesh,
            face_material=onto[level.mesh.face_material],
            face_part=np.zeros(level.mesh.n_faces, np.int32),
        )
        change, step = comparison.add(mesh)
        name = destination.level_name(prop.name, len(levels))
        levels.append(replace(level, index=len(levels), name=name, mesh=mesh, change=change, step=step, target=-1))
    images = prop.images if len(materials) == len(prop.materials) else (*prop.images, *base.images)
    whole = replace(prop, levels=tuple(levels), materials=materials, images=images)
    report = Report(station=LEVELS.name)
    placed = place(whole, line.of(LEVELS), report)
    n_own = len(prop.levels)
    first = placed.levels[n_own]
    text = (
        f"{state.name}: from LOD{n_own} on it has the levels of the base state, maximum deviation "
        f"{length(first.change.surface)} from its own LOD0; they are drawn from {metres(first.distance)}"
    )
    found = (
        Finding("state-falls-back", Severity.INFO, text, level=n_own, station=LEVELS.name),
        *(_said_of(state, finding) for finding in report.findings if (finding.level or 0) >= n_own),
    )
    return StateBuilt(state, placed, len(taken), found)


def _onto(prop: Prop, base: Prop, taken: list[Level]) -> tuple[I32, tuple[Material, ...]]:
    """(M,) where each of the base's materials that its levels use stands among the state's, and those with the new."""
    materials = list(prop.materials)
    number = {material.name: i for i, material in enumerate(materials)}
    onto = np.zeros(len(base.materials), np.int32)
    for index in np.unique(np.concatenate([level.mesh.face_material for level in taken])).tolist():
        material = base.materials[index]
        if material.name not in number:
            number[material.name] = len(materials)
            materials.append(_moved(material, len(prop.images)))
        onto[index] = number[material.name]
    return onto, tuple(materials)


def _moved(material: Material, by: int) -> Material:
    return material.with_textures(lambda texture: replace(texture, image=texture.image + by))


def state_findings(state: State, built: BuiltProp) -> list[Finding]:
    """What was found about a state, said of it; a state without parts is one that is not there."""
    if not built.prop.mesh.n_faces:
        text = f"the state '{state.name}' has no part named {', '.join(state.parts)}; name its parts, or remove it"
        return [Finding("state-empty", Severity.WARNING, text, station=LEVELS.name)]
    return [_said_of(state, found) for found in built.findings if found.level]


def _said_of(state: State, finding: Finding) -> Finding:
    return replace(finding, message=f"{state.name}: {finding.message}")
