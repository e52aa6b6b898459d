"""States of a prop, intact and damaged: each a file with a chain of its own, which falls back to the base state's."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Severity
from plindro.core.levels import State
from plindro.core.line import BuiltProp, Line
from plindro.core.prop import Prop
from plindro.core.scene import Material


@dataclass(frozen=True, slots=True)
class StateBuilt:
    """A state's prop, with how many of its levels are the base state's."""

    state: State
    prop: Prop
    n_fallen_back: int

    def facts(self) -> dict[str, Any]:
        levels = [{"name": level.name, "triangles": level.mesh.n_faces} for level in self.prop.levels]
        return {"name": self.state.name, "prop": self.prop.name, "levels": levels, "fallen_back": self.n_fallen_back}


def base_line(line: Line) -> Line:
    """The line of the base state: everything that belongs to no other."""
    named = tuple(pattern for state in line.levels.states for pattern in state.parts)
    return _with(line, leave_out=(*line.source.leave_out, *named)) if named else line


def state_line(line: Line, state: State, name: str) -> Line:
    """The line of one state: its parts alone, its levels if it has any, a name after the prop's."""
    own = _with(line, only=state.parts)
    levels = line.levels.model_copy(update={"levels": state.levels or (), "states": (), "first": None})
    naming = line.naming.model_copy(update={"name": f"{name}_{state.name}", "prefix": "", "suffix": ""})
    return own.model_copy(update={"levels": levels, "naming": naming})


def _with(line: Line, **changes: Any) -> Line:
    return line.model_copy(update={"source": line.source.model_copy(update=changes)})


def fallen_back(state: State, built: BuiltProp, base: Prop, destination: Destination) -> StateBuilt:
    """The state with the base state's levels wherever it has none of its own."""
    prop = built.prop
    missing = [level for level in base.levels if level.index >= len(prop.levels)]
    levels, materials, images = list(prop.levels), list(prop.materials), list(prop.images)
    number = {material.name: i for i, material in enumerate(materials)}
    for level in missing:
        if level.mesh.n_faces >= levels[-1].mesh.n_faces:
            continue
        used = np.unique(level.mesh.face_material).tolist()
        onto = np.zeros(len(base.materials), np.int32)
        for index in used:
            material = base.materials[index]
            if material.name not in number:
                number[material.name] = len(materials)
                materials.append(_moved(material, len(images)))
                images.extend(base.images)
            onto[index] = number[material.name]
        mesh = replace(
            level.mesh,
            face_material=onto[level.mesh.face_material],
            face_part=np.zeros(level.mesh.n_faces, np.int32),
        )
        name = destination.level_template.format(prop=prop.name, level=len(levels))
        distance = max(level.distance, levels[-1].distance)
        levels.append(replace(level, index=len(levels), name=name, mesh=mesh, distance=distance))
    whole = replace(prop, levels=tuple(levels), materials=tuple(materials), images=tuple(images))
    return StateBuilt(state, whole, len(levels) - len(prop.levels))


def _moved(material: Material, by: int) -> Material:
    return material.with_textures(lambda texture: replace(texture, image=texture.image + by))


def state_findings(state: State, built: BuiltProp) -> list[Finding]:
    """What was found about a state, said of it; a state without parts is one that is not there."""
    if not built.prop.mesh.n_faces:
        text = f"the state '{state.name}' has no part named {', '.join(state.parts)}; name its parts, or take it away"
        return [Finding("state-empty", Severity.WATCH, text)]
    return [replace(found, message=f"{state.name}: {found.message}") for found in built.findings if found.level]
