"""The whole way from a mesh down to its last triangles: any level is a prefix of it.

What vertices are called in the sequence are *nodes*: the wedges of the source, and where vertices move the wedges that
came of each merge. Nodes are numbered by the step at which they go, the last first, and so are triangles; the parent of
a node goes later and has a smaller number. At a given step the first triangles are there, but for those that have not
begun yet, and a corner belongs to the nearest ancestor of its node that is still there.

A cut that closes a through-hole ends the triangles on one side of it, and begins them anew with nodes of their own.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from plindro.core.mesh.mesh import F32, F64, I32, I64, Mask, Mesh, drop_unused_vertices
from plindro.core.numeric.kernels import kernel, prefetch
from plindro.core.reduction.living import count_living, steps_of_going
from plindro.core.reduction.run import Run
from plindro.core.reduction.working import Start


@dataclass(frozen=True, slots=True)
class Sequence:
    """S steps over N nodes and T triangles; step 0 is the source, step k what is there after k collapses.

    Attributes
    ----------
    source : the mesh it began with
    triangle_node : (T, 3) int32, the nodes of each triangle when it began
    triangle_source : (T,) int32, the source's face; that which it continues, or lies beside, where it began with a cut
    parent : (N,) int32, the node each goes into, smaller than its own number; -1 where it stays to the end
    triangles_at, nodes_at, vertices_at : (S + 1,) int32, how many triangles are there, how many nodes have not yet
        gone, how many engine vertices there are
    largest_at : (S + 1,) float32, largest deviation from the source in metres; it may fall
    distance_at : (S,) float32, metres between the surface around the vertex of each step and the source's planes, in
        the mean: where a level errs, rather than how much
    died_at : (T,) int32, the step at which each triangle goes; S where it stays
    starts_at : (T,) int32, the step from which each is there: 0, but for those that began with a cut
    cut_steps, border_steps : the steps at which a through-hole or a handle, and at which a border was closed
    node_vertex : (N,) int32, nodes of one number are at one place
    node_place : (N, 3) float64, metres
    normals, uvs, colors : (N, ...) float32, what the nodes carry
    held_until : up to which step every feature inside the surface held
    phase_steps : from where on some hard edges, and some seams, were given up; shorter where it never came to that
    """

    source: Mesh
    triangle_node: I32
    triangle_source: I32
    parent: I32
    triangles_at: I32
    nodes_at: I32
    vertices_at: I32
    largest_at: F32
    distance_at: F32
    died_at: I32
    starts_at: I32
    cut_steps: tuple[int, ...]
    border_steps: tuple[int, ...]
    node_vertex: I32
    node_place: F64
    normals: F32 | None
    uvs: tuple[F32, ...]
    colors: F32 | None
    held_until: int
    phase_steps: tuple[int, ...]

    @property
    def goes_at(self) -> I64:
        """(N,) the step from which each node is gone; past the last where it stays."""
        return steps_of_going(self.nodes_at, len(self.parent))

    @property
    def n_steps(self) -> int:
        return len(self.triangles_at) - 1

    def step_of_triangles(self, count: int) -> int:
        """The first step with no more than ``count`` triangles; the last where there is none."""
        fallen = np.minimum.accumulate(self.triangles_at)
        return min(int(np.searchsorted(-fallen, -count)), self.n_steps)

    def step_of_vertices(self, count: int) -> int:
        """The first step from which on there are no more engine vertices than ``count``; else the last."""
        above = np.flatnonzero(self.vertices_at > count)
        return int(min(above[-1] + 1, self.n_steps)) if len(above) else 0

    def step_of_deviation(self, metres: float) -> int:
        """The last step up to which the stated largest deviation is no more than ``metres``."""
        return max(
            int(np.searchsorted(np.maximum.accumulate(self.largest_at), np.float32(metres), side="right")) - 1, 0
        )

    @property
    def crosses_seams(self) -> bool:
        """Whether it came to crossing seams and material borders."""
        return len(self.phase_steps) > 1

    def closed_holes(self, step: int) -> int:
        """How many through-holes and handles were closed by ``step``."""
        return int(np.searchsorted(self.cut_steps, step))

    def closed_borders(self, step: int) -> int:
        """How many open boundaries were closed by ``step``."""
        return int(np.searchsorted(self.border_steps, step))

    def count_living(self, which: Mask | None = None) -> I32:
        """(S + 1,) how many of these nodes (N,), or of all, have triangles after each step, once for each material."""
        return count_living(
            self.parent,
            self.nodes_at,
            self.triangle_node,
            self.starts_at,
            self.died_at,
            self.source.face_material[self.triangle_source],
            which,
        )

    def without(self, faces: Mask) -> "Sequence":
        """The same way down with some of the source's faces, (F,), left out from the start."""
        if not faces.any():
            return self
        stays = np.flatnonzero(~faces[self.triangle_source])
        number = np.cumsum(~faces, dtype=np.int32) - 1
        left = replace(
            self,
            source=self.source.with_faces(np.flatnonzero(~faces)),
            triangle_node=self.triangle_node[stays],
            triangle_source=number[self.triangle_source[stays]],
            triangles_at=_count_triangles(self.starts_at[stays], self.died_at[stays], self.n_steps),
            died_at=self.died_at[stays],
            starts_at=self.starts_at[stays],
        )
        return replace(left, vertices_at=left.count_living())

    def triangles_of(self, step: int) -> I64 | slice:
        """Which triangles are there after ``step`` collapses."""
        first = int(np.searchsorted(-self.died_at, -step, side="right"))
        if not self.cut_steps and not self.border_steps:
            return slice(first)
        return np.flatnonzero(self.starts_at[:first] <= step)

    def _nodes(self, step: int, triangles: I64) -> I32:
        """(N, 3) the nodes of some triangles after ``step`` collapses."""
        goes = np.empty(len(self.parent), np.int32)
        _resolve(self.parent, int(self.nodes_at[step]), goes)
        return goes[self.triangle_node[triangles]]

    def _by_face(self, step: int) -> I64:
        """(T',) the triangles of ``level(step)``: in the order of the source's faces, whatever died when."""
        own = self.triangles_of(step)
        by_face = np.argsort(self.triangle_source[own], kind="stable")
        return by_face if isinstance(own, slice) else own[by_face]

    def unchanged(self, above: int, step: int) -> Mask:
        """(T',) the triangles of ``level(step)`` that ``level(above)`` has too, just so."""
        own = self._by_face(step)
        same: Mask = (self._nodes(above, own) == self._nodes(step, own)).all(axis=1)
        return same & (self.starts_at[own] <= above)

    def source_faces(self, step: int) -> I64:
        """(T',) the faces of the source that the triangles of ``level(step)`` came from."""
        return self.triangle_source[self._by_face(step)].astype(np.int64)

    def level(self, step: int) -> Mesh:
        """The mesh after ``step`` collapses; the source itself at 0."""
        if step <= 0:
            return self.source
        own = self._by_face(step)
        nodes = self._nodes(step, own).reshape(-1)
        bare = self.source.with_faces(self.triangle_source[own].astype(np.int64))
        used, corner_vertex = _renumber(self.node_vertex[nodes], int(self.node_vertex.max()) + 1)
        place = np.empty((len(used), 3))
        place[corner_vertex] = self.node_place[nodes]
        return drop_unused_vertices(
            replace(
                bare,
                positions=place,
                corner_vertex=corner_vertex,
                normals=None if self.normals is None else self.normals[nodes],
                uvs=tuple(uv[nodes] for uv in self.uvs),
                colors=None if self.colors is None else self.colors[nodes],
                tangents=None,
                hard_edges=np.zeros((0, 2), np.int32),
                loose_edges=np.zeros((0, 2), np.int32),
            )
        )


_AHEAD = 16
"""How many entries ahead memory is asked for."""


@kernel
def _place_by_step(steps, slot, order):  # type: ignore[no-untyped-def]
    """Sort by falling steps, stable; ``slot`` starts as zeros, one more than there are steps."""
    n = len(slot)
    for i in range(len(steps)):
        slot[steps[i]] += 1
    total = 0
    for k in range(n - 1, -1, -1):
        count = slot[k]
        slot[k] = total
        total += count
    for i in range(len(steps)):
        order[slot[steps[i]]] = i
        slot[steps[i]] += 1


def _latest_first(steps: I32, n_steps: int) -> I32:
    """(n,) the order of falling steps 0..n_steps; equal ones in the order of memory."""
    order = np.empty(len(steps), np.int32)
    _place_by_step(steps, np.zeros(n_steps + 1, np.int32), order)
    return order


@kernel
def _read_merges(merge_from, merge_to, merge_step, n_wedges, goes_at, goes_to, born):  # type: ignore[no-untyped-def]
    """When each node went and into which; of those that came of a merge, the step from which they are there."""
    # Backwards, so that the first merge into a node, which made it, is the last word.
    for i in range(len(merge_from) - 1, -1, -1):
        goes_at[merge_from[i]] = merge_step[i]
        goes_to[merge_from[i]] = merge_to[i]
        if merge_to[i] >= n_wedges:
            born[merge_to[i]] = merge_step[i] + 1


@kernel
def _number_nodes(order, goes_at, goes_to, born, n_steps, number, parent, born_at, nodes_at):  # type: ignore[no-untyped-def]
    """Number the nodes in ``order``, and count those that have not gone after each step."""
    n = len(order)
    for i in range(n):
        number[order[i]] = i
    for i in range(n):
        if i + _AHEAD < n:
            prefetch(goes_to, order[i + _AHEAD])
            prefetch(goes_at, order[i + _AHEAD])
            prefetch(born, order[i + _AHEAD])
        old = order[i]
        parent[i] = number[goes_to[old]] if goes_to[old] >= 0 else -1
        born_at[i] = born[old]
        if goes_at[old] < n_steps:
            nodes_at[goes_at[old] + 1] += 1
    left = n
    for k in range(n_steps + 1):
        left -= nodes_at[k]
        nodes_at[k] = left


@kernel
def _number_triangles(by_death, first_wedges, number, died, triangle_node, died_at):  # type: ignore[no-untyped-def]
    """Name the triangles' nodes in the order of their deaths."""
    n = len(by_death)
    for t in range(n):
        if t + _AHEAD < n:
            prefetch(first_wedges, by_death[t + _AHEAD])
        old = by_death[t]
        died_at[t] = died[old]
        for k in range(3):
            triangle_node[t, k] = number[first_wedges[old, k]]


@kernel
def _put_nodes(  # type: ignore[no-untyped-def]
    order, wedge, n_vertices, wedge_vertex, vertex_source, positions, made_place, middle, scale, born_at, vertex,
    place,
):  # fmt: skip
    """Where the nodes are: at the source's place, or for those that came of one merge at one, new in that step."""
    n = len(order)
    for i in range(n):
        if i + _AHEAD < n:
            ahead = wedge[i + _AHEAD]
            if ahead >= 0:
                prefetch(wedge_vertex, ahead)
            else:
                prefetch(made_place, order[i + _AHEAD])
        old = order[i]
        if wedge[i] >= 0:
            vertex[i] = wedge_vertex[wedge[i]]
            for k in range(3):
                place[i, k] = positions[vertex_source[vertex[i]], k]
        else:
            vertex[i] = n_vertices - 1 + born_at[i]
            for k in range(3):
                place[i, k] = made_place[old, k] * scale + middle[k]


def _count_triangles(starts_at: I32, died_at: I32, n_steps: int) -> I32:
    """(S + 1,) how many triangles are there after each step."""
    begun = np.bincount(starts_at, minlength=n_steps + 2)
    gone = np.bincount(died_at.astype(np.int64) + 1, minlength=n_steps + 2)
    return np.cumsum(begun - gone)[: n_steps + 1].astype(np.int32)


@kernel
def _resolve(parent, n_there, goes):  # type: ignore[no-untyped-def]
    """The nearest ancestor of every node among the first ``n_there``."""
    for i in range(min(n_there, len(parent))):
        goes[i] = i
    for i in range(n_there, len(parent)):
        goes[i] = goes[parent[i]] if parent[i] >= 0 else i


def _renumber(ids: I32, size: int) -> tuple[I32, I32]:
    """The ids that occur, rising, and each id's place among them."""
    is_used = np.zeros(size, bool)
    is_used[ids] = True
    return np.flatnonzero(is_used).astype(np.int32), (np.cumsum(is_used, dtype=np.int32) - 1)[ids]


def write_sequence(mesh: Mesh, start: Start, run: Run) -> Sequence:
    """Sort what a run wrote down."""
    log, cuts, n_steps = run.log, run.log.cuts, run.n_steps
    n_nodes, n_triangles, n_born = run.n_nodes, len(log.died_at), len(cuts.like)
    died = np.where(log.died_at < 0, n_steps, log.died_at).astype(np.int32)
    by_death = _latest_first(died, n_steps)
    starts_at, corner = np.zeros(n_triangles, np.int32), start.ordered.corner[:, 0]
    first_wedges = start.first_wedges
    if n_born:
        starts_at[-n_born:] = cuts.born_at
        corner = np.concatenate([corner, corner[cuts.like]])
        first_wedges = np.concatenate([first_wedges, cuts.nodes])
    triangles_at = _count_triangles(starts_at, died, n_steps)

    merged = (log.merge_from[: run.n_merges], log.merge_to[: run.n_merges], log.merge_step[: run.n_merges])
    goes_at, goes_to = np.full(n_nodes, n_steps, np.int32), np.full(n_nodes, -1, np.int32)
    born = np.zeros(n_nodes, np.int32)
    _read_merges(*merged, len(start.wedge_corner), goes_at, goes_to, born)
    born[cuts.copies[:, 0]] = cuts.copies[:, 2] + 1
    order = _latest_first(goes_at, n_steps)
    number, parent, born_at = np.empty((3, n_nodes), np.int32)
    nodes_at = np.zeros(n_steps + 1, np.int32)
    _number_nodes(order, goes_at, goes_to, born, n_steps, number, parent, born_at, nodes_at)
    triangle_node, died_at = np.empty((n_triangles, 3), np.int32), np.empty(n_triangles, np.int32)
    _number_triangles(by_death, first_wedges, number, died, triangle_node, died_at)
    triangle_source, starts_at = (corner[by_death] // 3).astype(np.int32), starts_at[by_death]
    material = mesh.face_material[triangle_source]

    return Sequence(
        source=mesh,
        triangle_node=triangle_node,
        triangle_source=triangle_source,
        parent=parent,
        triangles_at=triangles_at,
        nodes_at=nodes_at,
        vertices_at=count_living(parent, nodes_at, triangle_node, starts_at, died_at, material),
        largest_at=_deviation(run, triangles_at, start.ordered.scale),
        distance_at=(log.step_distance[:n_steps] * start.ordered.scale).astype(np.float32),
        died_at=died_at,
        starts_at=starts_at,
        cut_steps=tuple(cuts.steps),
        border_steps=tuple(cuts.border_steps),
        **_nodes(mesh, start, run, order, born_at),
        held_until=min(log.given_up.held_until, n_steps),
        phase_steps=tuple(log.given_up.steps),
    )


def _deviation(run: Run, triangles_at: I32, scale: float) -> F32:
    """(S + 1,) metres after every step: between measurements a power of the number of triangles.

    Before the first it grows as the root of the steps.
    """
    known, n_steps = np.array(run.drift.steps[1:]), len(triangles_at) - 1
    if not len(known):
        return np.zeros(n_steps + 1, np.float32)
    values = np.array(run.drift.largest[1:])
    # From nothing, or nearly, it does not grow as a power.
    values[:-1] = np.maximum(values[:-1], 0.05 * values[1:])
    logs = np.log(np.maximum(values, 1e-12))
    counts = np.log(np.maximum(triangles_at, 1).astype(np.float32))
    result = np.empty(n_steps + 1, np.float32)
    for k in range(len(known) - 1):
        between = slice(int(known[k]), int(known[k + 1]) + 1)
        own = counts[between]
        fallen = float(own[0] - own[-1])
        share = (own[0] - own) / np.float32(fallen) if fallen > 0 else np.ones(len(own), np.float32)
        result[between] = np.exp(np.float32(logs[k]) + share * np.float32(logs[k + 1] - logs[k]))
    result[int(known[-1]) :] = values[-1]
    result[result < 2e-12] = 0.0
    first = int(known[0])
    result[: first + 1] = values[0] * np.sqrt(np.arange(first + 1) / max(first, 1))
    return np.maximum.accumulate(result * np.float32(scale))


def _wedges_of_copies(copies: I32, n_wedges: int, n_nodes: int) -> I32:
    """(N,) the source's wedge that each node is, also where it is a copy of one; -1 for those that came of a merge."""
    wedge = np.full(n_nodes, -1, np.int32)
    wedge[:n_wedges] = np.arange(n_wedges)
    for node, like, _, _ in copies.tolist():
        wedge[node] = wedge[like]
    return wedge


def _number_copies(copies: I32, order: I32, first: int, vertex: I32) -> None:
    """Copies have vertices of their own, wherever they are."""
    if len(copies):
        number = np.empty(len(order), np.int32)
        number[order] = np.arange(len(order), dtype=np.int32)
        vertex[number[copies[:, 0]]] = first + copies[:, 3]


def _nodes(mesh: Mesh, start: Start, run: Run, order: I32, born_at: I32) -> dict[str, Any]:
    """What the nodes carry, in their new order."""
    n_wedges, n_nodes = len(start.wedge_corner), run.n_nodes
    ordered, values = start.ordered, start.values
    vertex, place = np.empty(n_nodes, np.int32), np.empty((n_nodes, 3))
    wedge = _wedges_of_copies(run.log.cuts.copies, n_wedges, n_nodes)[order]
    _put_nodes(
        order, wedge, len(ordered.vertex_source), start.wedge_vertex, ordered.vertex_source, mesh.positions,
        run.log.node_place, ordered.middle, ordered.scale, born_at, vertex, place,
    )  # fmt: skip
    _number_copies(run.log.cuts.copies, order, len(ordered.vertex_source) + run.n_steps, vertex)
    own_wedge = np.maximum(wedge, 0)
    is_made = np.flatnonzero(wedge < 0)
    made = run.log.node_values[n_wedges:n_nodes]
    normals, uvs, colors = values.split(made, mesh)

    def carried(own: F32 | None, new: F32 | None) -> F32 | None:
        if own is None:
            return None
        # What did not weigh in was not followed either; it is made anew where it is needed.
        whole = np.take(own, np.take(start.wedge_corner, own_wedge), axis=0)
        whole[is_made] = 0.0 if new is None else new[order[is_made] - n_wedges]
        return whole

    return {
        "node_vertex": vertex,
        "node_place": place,
        "normals": carried(mesh.normals, normals),
        "uvs": tuple(carried(own, new) for own, new in zip(mesh.uvs, uvs, strict=True)),
        "colors": carried(mesh.colors, colors),
    }
