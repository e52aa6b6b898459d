"""What a collapse works on: flat arrays, built once from a mesh and made smaller as it shrinks."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F32, F64, I32, Mask, Mesh
from plindro.core.reduction.apart import take_apart
from plindro.core.reduction.features import BORDER, FREE, GONE, INNER, LOCKED, SEAM, find_wedges
from plindro.core.reduction.handles import Openings, find_openings
from plindro.core.reduction.order import Ordered, order_mesh
from plindro.core.reduction.quadrics import build_quadrics
from plindro.core.reduction.rings import Rings
from plindro.core.reduction.shells import Shells, find_shells
from plindro.core.reduction.thin import hold_thin_edges
from plindro.core.reduction.values import Values, measure_values

U8 = NDArray[np.uint8]


@dataclass(slots=True)
class Other:
    """What is known of the offers whose turn it is not: see ``offers``. As the fields of a ``State``."""

    kind: U8
    line: I32
    cost: F32
    target: I32
    dirty: U8

    def grow(self, count: int, touched: U8) -> None:
        """So many new vertices came; what was ``touched`` (V,) is out of date."""
        self.dirty |= touched
        self.kind = np.concatenate([self.kind, np.full(count, GONE, np.uint8)])
        self.line = np.concatenate([self.line, np.full((count, 2), -1, np.int32)])
        self.cost = np.concatenate([self.cost, np.full(count, np.inf, np.float32)])
        self.target = np.concatenate([self.target, np.full(count, -1, np.int32)])
        self.dirty = np.concatenate([self.dirty, np.ones(count, np.uint8)])


@dataclass(slots=True)
class State:
    """A collapse in progress over V vertices, W wedges and T triangles, which fall as it goes on.

    positions (V, 3) in units of the diagonal; shading (W, 3) what a triangle must not turn against;
    quadrics (V, 12), wedge_quadrics (W, 1 + 4 K) or no rows, values (W, K): see ``quadrics``; kind (V,), line (V, 2):
    see ``features``; locked (V,) those that stay in every phase; rim (V,) or no rows, those on a mirror's plane; watch
    (V,): see ``handles``; shell (V,) the shell of each vertex, or no rows; cost,
    target (V,) the cheapest collapse known, dirty (V,) whether that is out of date; triangles (T, 3) vertices,
    triangle_wedge (T, 3), which is the same array where every vertex has one wedge; name (T,) the triangle's number at
    the start; node (W,) what each wedge is called in the sequence.
    """

    positions: F64
    shading: F32
    quadrics: F32
    wedge_quadrics: F32
    values: F64
    kind: U8
    line: I32
    locked: Mask
    rim: Mask
    watch: U8
    shell: I32
    cost: F32
    target: I32
    dirty: U8
    other: "Other"
    triangles: I32
    triangle_wedge: I32
    name: I32
    node: I32
    rings: Rings

    def take_turns(self, find_kinds: Callable[[], tuple[U8, I32]]) -> None:
        """The other offers have their turn: what is known of them holds where kinds and lines are as they were."""
        other, gone = self.other, self.kind == GONE
        kind, line = np.where(gone, GONE, other.kind), np.sort(other.line, axis=1)
        for field in ("kind", "line", "cost", "target", "dirty"):
            mine = getattr(self, field)
            setattr(self, field, getattr(other, field))
            setattr(other, field, mine)
        self.kind = np.where(gone, GONE, FREE).astype(np.uint8)
        self.kind, self.line = find_kinds()
        self.cost[gone], self.target[gone], self.dirty[gone] = np.inf, -1, 0
        changed = (self.kind != kind) | (np.sort(self.line, axis=1) != line).any(axis=1)
        self.dirty[self.triangles[changed[self.triangles].any(axis=1)]] = 1

    @property
    def has_wedges(self) -> bool:
        return self.triangle_wedge is not self.triangles

    def compact(self, owner: I32) -> None:
        """Close up over the vertices and wedges that are gone; ``owner`` names vertices and follows them."""
        stays = self.kind != GONE
        vertex = np.cumsum(stays, dtype=np.int32) - 1
        kept = np.flatnonzero(stays)
        has_wedges = self.has_wedges
        for field in (
            "positions",
            "quadrics",
            "kind",
            "line",
            "locked",
            "rim",
            "watch",
            "shell",
            "cost",
            "target",
            "dirty",
        ):
            values = getattr(self, field)
            if len(values):
                setattr(self, field, np.take(values, kept, axis=0))
        self.line = np.where(self.line >= 0, vertex[self.line], -1).astype(np.int32)
        self.target = np.where(self.target >= 0, vertex[self.target], -1).astype(np.int32)
        other = self.other
        for field in ("kind", "line", "cost", "target", "dirty"):
            setattr(other, field, np.take(getattr(other, field), kept, axis=0))
        other.line = np.where(other.line >= 0, vertex[other.line], -1).astype(np.int32)
        other.target = np.where(other.target >= 0, vertex[other.target], -1).astype(np.int32)
        self.triangles = vertex[self.triangles]
        owner[:] = vertex[owner]
        wedge = vertex
        if has_wedges:
            is_used = np.zeros(len(self.node), bool)
            is_used[self.triangle_wedge.reshape(-1)] = True
            wedge, kept = np.cumsum(is_used, dtype=np.int32) - 1, np.flatnonzero(is_used)
            self.triangle_wedge = wedge[self.triangle_wedge]
        else:
            self.triangle_wedge = self.triangles
        for field in ("shading", "wedge_quadrics", "values", "node"):
            values = getattr(self, field)
            setattr(self, field, np.take(values, kept, axis=0) if len(values) else values)


@dataclass(frozen=True, slots=True)
class Start:
    """A state with what leads back to the mesh: see ``Ordered`` and ``Values``; ``wedge_corner`` (W,) a corner each,
    ``wedge_vertex`` (W,) the vertex each is at, ``material`` (T,), ``first_wedges`` (T, 3) the wedges at the start;
    ``shells`` what could vanish, ``openings`` what could close, None where nothing may."""

    state: State
    ordered: Ordered
    values: Values
    wedge_corner: I32
    wedge_vertex: I32
    material: I32
    first_wedges: I32
    has_inner_features: bool
    shells: Shells | None
    openings: Openings | None


class _Breaks(NamedTuple):
    """Where a surface ends or breaks, as ``find_wedges`` says it; ``wedge_corner`` (W,) the first corner of each."""

    wedge: I32
    kind: U8
    line: I32
    feature: U8
    beside: I32
    wedge_vertex: I32
    wedge_corner: I32


def _find_breaks(mesh: Mesh, ordered: Ordered, rings: Rings, is_shaded: bool, lock_borders: bool) -> _Breaks:
    n_vertices, corner = len(ordered.positions), ordered.corner.reshape(-1)
    normals = mesh.normals if mesh.normals is not None and is_shaded else np.zeros((0, 3), np.float32)
    others = [*mesh.uvs] + ([mesh.colors] if mesh.colors is not None else [])
    wedge, feature = np.empty(len(corner), np.int32), np.zeros(len(corner), np.uint8)
    kind, line = np.empty(n_vertices, np.uint8), np.empty((n_vertices, 2), np.int32)
    wedge_vertex, beside = np.empty(len(corner), np.int32), np.full(len(corner), -1, np.int32)
    is_bare = not len(normals) and not others and _is_uniform(mesh.face_material)
    n_wedges = find_wedges(
        rings.start, rings.around, corner, mesh.face_material, normals,
        _side_by_side(others), is_bare, lock_borders, np.full(n_vertices, -1, np.int32), np.zeros(n_vertices, np.int32),
        *np.empty((2, rings.longest), np.int32), wedge, kind, line, wedge_vertex, feature, beside,
    )  # fmt: skip
    wedge_corner = np.empty(n_wedges, np.int32)
    wedge_corner[wedge[::-1]] = corner[::-1]
    return _Breaks(wedge, kind, line, feature, beside, wedge_vertex, wedge_corner)


def _no_offers(n_vertices: int) -> Other:
    """The loose offers before any is made."""
    return Other(
        kind=np.full(n_vertices, GONE, np.uint8),
        line=np.full((n_vertices, 2), -1, np.int32),
        cost=np.full(n_vertices, np.inf, np.float32),
        target=np.full(n_vertices, -1, np.int32),
        dirty=np.ones(n_vertices, np.uint8),
    )


def build_state(
    mesh: Mesh,
    *,
    hold_hard_edges: bool,
    lock_borders: bool,
    keep_shells: bool,
    keep_holes: bool,
    weight: F64,
    locked: Mask,
    floor: float | None,
) -> Start:
    """The state for a triangle mesh.

    ``hold_hard_edges`` makes breaks of the normal a feature; ``weight`` (mesh vertices,) or empty makes errors
    count more there; ``locked`` (mesh vertices,) or empty names those that stay; ``floor``: the first coordinate of a
    mirror's plane. With ``keep_shells`` none vanishes whole, with ``keep_holes`` no through-hole closes.
    """
    ordered, rings, facing = _sheets(order_mesh(mesh))
    triangles, n_vertices = ordered.triangle_vertex, len(ordered.positions)
    is_shaded = mesh.normals is not None and hold_hard_edges
    breaks = _find_breaks(mesh, ordered, rings, is_shaded, lock_borders)
    feature, kind, n_wedges = breaks.feature, breaks.kind, len(breaks.wedge_corner)
    stays = _locked_vertices(locked, mesh, ordered)
    kind[stays & (kind < LOCKED)] = LOCKED
    values = measure_values(mesh, ordered, breaks.wedge_corner, with_normals=hold_hard_edges)
    triangle_wedge = breaks.wedge.reshape(-1, 3)
    at_vertex = _heaviest(weight, mesh, ordered)
    quadrics, wedge_quadrics, shading = build_quadrics(
        ordered.positions,
        triangles,
        triangle_wedge,
        feature,
        breaks.beside,
        values.columns,
        at_vertex,
        with_normals=not is_shaded,
    )
    hold_thin_edges(ordered.positions, facing, rings, quadrics)
    if mesh.normals is not None and is_shaded:
        shading = np.take(mesh.normals, breaks.wedge_corner, axis=0, mode="clip")
    on_border = np.zeros(n_vertices, bool)
    on_border[triangles.reshape(-1)[feature == BORDER]] = True
    held = stays | on_border if lock_borders else stays
    is_single = n_wedges == n_vertices
    openings = None if keep_holes else find_openings(triangles, feature == BORDER, n_vertices)
    state = State(
        positions=ordered.positions,
        shading=shading,
        quadrics=quadrics,
        wedge_quadrics=wedge_quadrics,
        values=values.columns.copy(),
        kind=kind,
        line=breaks.line,
        locked=held,
        rim=np.zeros(0, bool) if floor is None else mesh.positions[ordered.vertex_source, 0] == floor,
        watch=np.zeros(n_vertices, np.uint8) if openings is None else openings.watch,
        shell=np.zeros(0, np.int32) if openings is None else openings.shell,
        cost=np.full(n_vertices, np.inf, np.float32),
        target=np.full(n_vertices, -1, np.int32),
        dirty=np.ones(n_vertices, np.uint8),
        other=_no_offers(n_vertices),
        triangles=triangles.copy(),
        triangle_wedge=triangle_wedge,
        name=np.arange(len(triangles), dtype=np.int32),
        node=np.arange(n_wedges, dtype=np.int32),
        rings=rings,
    )
    if is_single:
        # The wedges are numbered as their vertices are.
        state.triangle_wedge = state.triangles
    first_wedges = triangles if is_single else triangle_wedge.copy()
    shells = None if keep_shells else find_shells(ordered.positions, triangles, at_vertex, held, on_border)
    # The state goes on with the positions, and moves them.
    ordered = ordered._replace(positions=np.zeros((0, 3)), triangle_vertex=np.zeros((0, 3), np.int32))
    return Start(
        state,
        ordered,
        values,
        breaks.wedge_corner,
        breaks.wedge_vertex[:n_wedges].copy(),
        material=mesh.face_material[ordered.corner.reshape(-1)[::3] // 3],
        first_wedges=first_wedges,
        has_inner_features=bool(((feature == INNER) | (feature == SEAM)).any()),
        shells=shells,
        openings=openings,
    )


def _sheets(ordered: Ordered) -> tuple[Ordered, Rings, F64]:
    """The mesh with a vertex for each sheet, its rings, and the unit normals of its triangles, zero without area."""
    triangles = ordered.triangle_vertex
    corners = ordered.positions[triangles]
    vectors = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(vectors, axis=1, keepdims=True)
    normals = vectors / np.where(length > 0.0, length, 1.0)
    made, rings = take_apart(triangles, ordered.positions, normals)
    if len(made):
        ordered = ordered._replace(
            positions=np.concatenate([ordered.positions, ordered.positions[made]]),
            vertex_source=np.concatenate([ordered.vertex_source, ordered.vertex_source[made]]),
        )
    return ordered, rings, normals


def _side_by_side(blocks: list[F32]) -> F32:
    if not blocks:
        return np.zeros((0, 2), np.float32)
    return np.ascontiguousarray(np.concatenate(blocks, axis=1))


def _is_uniform(values: I32) -> bool:
    return bool((values == values[0]).all()) if len(values) else True


def _locked_vertices(locked: Mask, mesh: Mesh, ordered: Ordered) -> Mask:
    """(V,) the vertices that a locked vertex of the mesh went into."""
    at = np.zeros(len(ordered.positions), bool)
    if len(locked):
        is_locked = locked[mesh.corner_vertex[ordered.corner.reshape(-1)]]
        at[ordered.triangle_vertex.reshape(-1)[is_locked]] = True
    return at


def _heaviest(weight: F64, mesh: Mesh, ordered: Ordered) -> F64:
    """The largest weight of what went into each vertex; empty where none is given."""
    if not len(weight):
        return weight
    at = np.zeros(len(ordered.positions))
    np.maximum.at(at, ordered.triangle_vertex.reshape(-1), weight[mesh.corner_vertex[ordered.corner.reshape(-1)]])
    return at
