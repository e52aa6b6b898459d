"""Making a chain: each level taken from LOD0's collapse sequence or laid anew, shaded, and measured."""

import math
from dataclasses import dataclass, replace

import numpy as np

from plindro.core.findings import Finding, Severity, grouped, length
from plindro.core.measure.deviation import Deviation, DeviationFrom
from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import Mask, Mesh
from plindro.core.prop import Level, Prop
from plindro.core.reduction import (
    Known,
    Limits,
    Reduced,
    Sequence,
    Topology,
    border_vertices,
    calibrated,
    diagonal,
    measure_step,
    take_level,
    what_holds,
)
from plindro.core.remesh import even_mesh
from plindro.core.report import Report
from plindro.core.shading.faceted import is_faceted
from plindro.core.shading.normals import normals_by_angle
from plindro.core.stations.levels.comparing import Comparison
from plindro.core.stations.levels.dropping import part_sizes, parts_named, parts_too_small
from plindro.core.stations.levels.hand_made import HandMade, check_by_hand
from plindro.core.stations.levels.level_normals import LevelShader, Shaded
from plindro.core.stations.levels.reducing import make_sequence, mirror_of, protected_vertices
from plindro.core.stations.levels.settings import LevelsSettings, LevelTarget
from plindro.core.stations.levels.switching import view_of

MIN_FALL = 0.98
"""A level with more than this share of the triangles above it saves nothing and is left out."""
FAR_OFF = 0.05
"""A level further from LOD0 than this share of the prop's diagonal is seen to be another shape."""
BROKEN = 0.15
"""A level further off than this share is left out: a wrong prop is worse than a heavier one."""
MEASURING = "measuring and shading levels"


@dataclass(frozen=True, slots=True)
class _Taken:
    """A level as it came of its sequence, without the parts of ``dropped`` (P,)."""

    sequence: Sequence
    result: Reduced
    dropped: Mask


class _Way:
    """The way down from LOD0, and what was measured of its levels."""

    def __init__(self, sequence: Sequence, ruler: DeviationFrom) -> None:
        self.sequence, self.known = sequence, Known()
        self._ruler = ruler
        self._stating: Sequence | None = None

    def stating(self) -> Sequence:
        """The sequence with a deviation stated from which a limit is soon found; made once."""
        if self._stating is None:
            self._stating = calibrated(self.sequence, self._ruler, self.known, roughly=True)
        return self._stating


class ChainMaker:
    """Makes one level after the other; what they share is built once."""

    def __init__(self, prop: Prop, settings: LevelsSettings, report: Report) -> None:
        self._prop, self._settings, self._report = prop, settings, report
        mesh = prop.mesh
        self._faceted = is_faceted(mesh)
        self.diameter = diagonal(mesh)
        self._view = view_of(settings, self.diameter)
        self._ruler = DeviationFrom(mesh, on_share=lambda: report.step(0.6, MEASURING))
        self._locked = protected_vertices(prop, settings, report)
        self._plane = mirror_of(prop, settings, report)
        self._ways: dict[tuple[float, float], _Way] = {}
        self._main = self._way(settings.silhouette_weight, settings.curvature_weight)
        self._done = 0.6
        self._comparison = Comparison(
            mesh, prop.materials, self._ruler, lambda: self._report.step(self._done, MEASURING)
        )
        self._sizes = part_sizes(mesh, len(prop.parts))
        self._shaders: dict[str, LevelShader] = {}
        self._topology: Topology | None = None

    def add(self, levels: list[Level], number: int, wanted: LevelTarget) -> None:
        """Put one more level below the last, or say why not."""
        settings, report, above = self._settings, self._report, levels[-1]
        index = len(levels)
        try:
            taken = self._take(wanted)
            result = taken.result
            why = _why_not(result, above, self.diameter, is_dropping=bool(taken.dropped.any()), settings=settings)
        except ValueError as error:
            why = str(error)
        if why:
            text = f"a level of {wanted.in_words()} was skipped: {why}"
            report.find(Finding("level-skipped", Severity.WARNING, text, level=index))
            return
        shaded = self._shaded(taken, wanted)
        freed = None
        if self._has_lost_hard_edges(taken):
            freed = _freed(index, None if shaded.choice == "keep" else settings.hard_angle)
        for finding in _tell(taken, wanted, index, self.diameter, settings, freed):
            report.find(finding)
        vanished = self._missing(shaded.mesh, taken.dropped)
        told = self._tell_topology(taken, vanished, index)
        if told is not None:
            report.find(told)
        elif vanished:
            report.find(self._part_missing(vanished, index))
        if wanted.remesh and self._plane is not None:
            text = f"LOD{index} is remeshed over both sides and so not symmetric; use edge collapse to mirror it"
            report.find(Finding("remesh-not-mirrored", Severity.WARNING, text, level=index))
        self._put(levels, number, shaded, result.deviation, taken.dropped, vanished)

    def add_by_hand(self, levels: list[Level], number: int, wanted: LevelTarget, made: HandMade) -> None:
        """Put a level that was modelled below the last, with what is to be said about it, or say why not."""
        above, index = levels[-1], len(levels)
        mesh = made.mesh
        problem = made.problem
        if mesh is not None and mesh.n_faces > MIN_FALL * above.mesh.n_faces:
            problem = f"it has {grouped(mesh.n_faces)} triangles, hardly fewer than LOD{above.index}"
        if mesh is None or problem:
            text = f"the hand-made level '{made.name}' was skipped: {problem}"
            self._report.find(Finding("level-skipped", Severity.WARNING, text, level=index))
            return
        angle = 0.0
        if mesh.normals is not None:
            angle = self._shader(LevelTarget(ratio=0.5, normals="keep")).shade(mesh).angle
        dropped = parts_named(self._prop, wanted.excluded_parts)
        missing = self._missing(mesh, dropped) if made.has_parts else []
        level = self._put(levels, number, Shaded(mesh, "by hand", angle), self._ruler.measure(mesh), dropped, missing)
        for finding in check_by_hand(made, mesh, self._prop.mesh, level.change, index):
            self._report.find(finding)
        if missing:
            self._report.find(self._part_missing(missing, index))

    def _put(
        self,
        levels: list[Level],
        number: int,
        shaded: Shaded,
        deviation: Deviation,
        dropped: Mask,
        vanished: list[int],
    ) -> Level:
        """Measure what changes from LOD0 and from the level above, and put the level below the last."""
        self._done = 0.6 + 0.4 * (number + 0.7) / len(self._settings.levels)
        change, step = self._comparison.add(shaded.mesh, deviation)
        if not deviation.is_certain:
            self._report.find(_uncertain(len(levels), deviation))
        level = Level(
            index=len(levels),
            mesh=shaded.mesh,
            normal_angle=shaded.angle,
            normals=shaded.choice,
            change=change,
            step=step,
            dropped=tuple(self._prop.parts[i].path for i in np.flatnonzero(dropped)),
            vanished=tuple(self._prop.parts[i].path for i in vanished),
            target=number,
        )
        levels.append(level)
        return level

    def first(self, wanted: LevelTarget) -> tuple[Mesh, float]:
        """LOD0 as far reduced as it should be, and its deviation in metres; the source's mesh where nothing can go."""
        taken = self._take(wanted)
        result = taken.result
        if _why_not(result, Level(0, self._prop.mesh), self.diameter, is_dropping=True, settings=self._settings):
            return self._prop.mesh, 0.0
        return self._shaded(taken, wanted).mesh, result.deviation.largest

    @property
    def main(self) -> tuple[Sequence, Known]:
        """The way down under the chain's own weights, and what was measured of it by step."""
        return self._main.sequence, self._main.known

    def _way(self, silhouette: float, curved: float) -> _Way:
        """The way down under these weights; levels with the same weights share one."""
        key = (silhouette, curved)
        if key not in self._ways:
            weighted = self._settings.model_copy(update={"silhouette_weight": silhouette, "curvature_weight": curved})
            sequence = make_sequence(
                self._prop,
                weighted,
                self._report,
                hold_hard_edges=not self._faceted,
                locked=self._locked,
                plane=self._plane,
            )
            self._ways[key] = _Way(sequence, self._ruler)
        return self._ways[key]

    def _take(self, wanted: LevelTarget) -> _Taken:
        """Reduced as far as it should be, without what it should go without."""
        settings, prop = self._settings, self._prop
        if wanted.remesh:
            return self._even(wanted)
        way = self._way(
            settings.silhouette_weight if wanted.silhouette_weight is None else wanted.silhouette_weight,
            settings.curvature_weight if wanted.curvature_weight is None else wanted.curvature_weight,
        )
        limits = wanted.limits(settings.view_height, settings.vertical_fov)
        if self._plane is not None:
            # A mirrored sequence begins with another mesh; a ratio is one of LOD0 all the same.
            limits = limits.of_whole(prop.mesh.n_faces)
        dropped = parts_named(prop, wanted.excluded_parts)
        taken = self._without(way, dropped, limits)
        if wanted.exclude_below_px is None:
            return taken
        # From where it would be drawn anyway; going without more moves that further away, where they are smaller still.
        distance = wanted.switch_distance or self._view.distance(
            taken.result.deviation.largest, settings.max_pixel_error
        )
        return self._without(
            way, dropped | parts_too_small(self._sizes, self._view, distance, wanted.exclude_below_px), limits
        )

    def _even(self, wanted: LevelTarget) -> _Taken:
        """Laid anew in even triangles; raises ``ValueError`` where the source is not made for that."""
        mesh = self._prop.mesh
        dropped = parts_named(self._prop, wanted.excluded_parts)
        if dropped.any() and dropped[mesh.face_part].all():
            dropped = np.zeros_like(dropped)
        source = mesh.with_faces(~dropped[mesh.face_part]) if dropped.any() else mesh
        counts = [] if wanted.triangles is None else [wanted.triangles]
        if wanted.ratio is not None:
            counts.append(round(wanted.ratio * mesh.n_faces))
        if wanted.edge_length_mm is not None:
            area = float(np.linalg.norm(face_vectors(source), axis=1).sum())
            counts.append(round(area / (math.sqrt(3) / 4 * (wanted.edge_length_mm / 1000) ** 2)))
        wanted_count = max(min(counts), self._settings.min_triangles, 4)
        even = even_mesh(
            source,
            wanted_count,
            hold_hard_edges=not self._faceted,
            locked=self._locked | border_vertices(mesh) if self._settings.lock_borders else self._locked,
            on_pass=lambda share: self._report.step(0.6, "remeshing"),
        )
        deviation = self._ruler.measure(even)
        result = Reduced(even, 0, deviation, reached=even.n_faces <= wanted_count, stopped_by_deviation=False)
        return _Taken(self._main.sequence, result, dropped)

    def _without(self, way: _Way, dropped: Mask, limits: Limits) -> _Taken:
        # A mirrored way down begins with another mesh.
        part = way.sequence.source.face_part
        faces = dropped[part] if dropped.any() else np.zeros(len(part), bool)
        if faces.all():
            dropped, faces = np.zeros_like(dropped), np.zeros_like(faces)
        # Where a tolerance is to be found, what the sequence states says where to begin.
        whole = way.stating() if math.isfinite(limits.largest_deviation(self.diameter)) else way.sequence
        left, known = (whole.without(faces), Known()) if faces.any() else (whole, way.known)
        result = take_level(left, limits, self._ruler, self.diameter, known)
        if result.deviation.largest > BROKEN * self.diameter and not dropped.any():
            # Rather too heavy than another shape.
            nearer = replace(limits, tolerance=100.0 * BROKEN)
            result = replace(take_level(left, nearer, self._ruler, self.diameter, known), reached=False)
        lowest = self._settings.min_triangles
        if result.mesh.n_faces < lowest:
            step = max(left.step_of_triangles(lowest - 1) - 1, 0)
            mesh, deviation = measure_step(left, step, self._ruler, known)
            result = Reduced(mesh, step, deviation, reached=True, stopped_by_deviation=False)
        return _Taken(left, result, dropped)

    def _missing(self, mesh: Mesh, dropped: Mask) -> list[int]:
        """Parts of LOD0 that are not there and were not excluded."""
        parts = self._prop.parts
        there = np.zeros(len(parts), bool)
        there[mesh.face_part if len(parts) else []] = True
        return np.flatnonzero((self._sizes > 0) & ~there & ~dropped).tolist() if len(parts) else []

    def _part_missing(self, missing: list[int], index: int) -> Finding:
        parts = self._prop.parts
        text = f"LOD{index} has no triangle left of {self._names(missing)}; keep more triangles, or exclude the part"
        return Finding("part-missing", Severity.WARNING, text, len(missing), level=index, part=parts[missing[0]].path)

    def _names(self, numbers: list[int]) -> str:
        return ", ".join(self._prop.parts[i].name for i in numbers[:3]) + (" …" if len(numbers) > 3 else "")

    def _tell_topology(self, taken: _Taken, vanished: list[int], index: int) -> Finding | None:
        """What of its topology a level goes without since that cost least, and the parts that went whole with it."""
        source, result = taken.sequence.source, taken.result
        if not result.step:
            return None
        if self._topology is None or self._topology.source is not source:
            self._topology = Topology(source)
        parts = self._names(vanished) if vanished else ""
        return self._topology.tell(taken.sequence, result.step, index=index, parts=parts)

    def _shaded(self, taken: _Taken, wanted: LevelTarget) -> Shaded:
        mesh = taken.result.mesh
        if self._faceted and mesh.normals is not None:
            mesh = replace(mesh, normals=normals_by_angle(mesh, 0.0))
        has_lost = self._has_lost_hard_edges(taken)
        return self._shader(wanted).shade(mesh, hard_above=self._settings.hard_angle if has_lost else None)

    def _has_lost_hard_edges(self, taken: _Taken) -> bool:
        given_up = taken.sequence.phase_steps
        return not self._faceted and bool(given_up) and taken.result.step > given_up[0]

    def _shader(self, wanted: LevelTarget) -> LevelShader:
        choice = "keep" if self._faceted else wanted.normals or self._settings.normals
        if choice not in self._shaders:
            self._shaders[choice] = LevelShader(
                self._prop,
                choice,
                lambda: self._report.step(0.8, MEASURING),
                moves=self._settings.placement == "optimal",
            )
        return self._shaders[choice]


def _why_not(result: Reduced, above: Level, diameter: float, *, is_dropping: bool, settings: LevelsSettings) -> str:
    """Why a level is not worth having; empty where it is."""
    n_faces = result.mesh.n_faces
    if not n_faces:
        return "nothing is left of it"
    if n_faces > MIN_FALL * above.mesh.n_faces:
        reason = (
            "its tolerance allows no fewer"
            if result.stopped_by_deviation
            else what_holds(above.mesh, keep_shells=settings.keep_shells, keep_holes=settings.keep_holes)
        )
        return f"{grouped(n_faces)} triangles, hardly fewer than LOD{above.index}: {reason}"
    # What is left out on purpose may stick out far.
    if result.deviation.largest > BROKEN * diameter and not is_dropping:
        return f"its maximum deviation would be {result.deviation.largest / diameter:.0%} of the prop's size"
    return ""


def _tell(
    taken: _Taken, wanted: LevelTarget, index: int, diameter: float, settings: LevelsSettings, freed: Finding | None
) -> list[Finding]:
    """What the maker of a level has to know about it; ``freed`` unless more than that went."""
    result, sequence = taken.result, taken.sequence
    findings = []
    if result.deviation.largest > FAR_OFF * diameter:
        findings.append(_far_off(index, result.deviation.largest, diameter))
    if not result.reached:
        why = what_holds(sequence.source, keep_shells=settings.keep_shells, keep_holes=settings.keep_holes)
        if result.stopped_by_deviation:
            why = f"fewer would be further off than {BROKEN:.0%} of the prop's size"
        text = f"LOD{index} stops at {grouped(result.mesh.n_faces)} triangles instead of {wanted.in_words()}: {why}"
        findings.append(Finding("target-not-reached", Severity.WARNING, text, level=index))
    if len(sequence.phase_steps) > 1 and result.step > sequence.phase_steps[1] and sequence.crosses_seams:
        text = (
            f"LOD{index}: some UV seams and material borders were crossed, since they would have kept it too heavy; "
            "its texture shifts there"
        )
        findings.append(Finding("seams-released", Severity.INFO, text, level=index))
    elif freed is not None:
        findings.append(freed)
    return findings


def _far_off(index: int, deviation: float, diameter: float) -> Finding:
    return Finding(
        "level-deviates",
        Severity.WARNING,
        f"LOD{index}: maximum deviation {length(deviation)}, {deviation / diameter:.0%} of the prop's size; "
        "look at its silhouette or keep more triangles",
        level=index,
    )


def _uncertain(index: int, deviation: Deviation) -> Finding:
    text = (
        f"LOD{index}: its maximum deviation lies between {length(deviation.reached)} and {length(deviation.largest)}; "
        "the search for it was ended, and the larger one is stated"
    )
    return Finding("deviation-between", Severity.INFO, text, level=index)


def _freed(level: int, angle: float | None) -> Finding:
    """``angle``: what folds by more degrees is hard now; None where the normals were kept."""
    text = f"LOD{level}: some hard edges were released, since they would have kept it too heavy"
    return Finding(
        "hard-edges-released",
        Severity.INFO,
        text if angle is None else f"{text}; hard above {angle:g}° now",
        level=level,
    )
