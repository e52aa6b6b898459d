"""Shells that vanish whole, each at its own cost, in one order with the collapses.

No collapse takes the last triangles of a shell: a bolt ends as a tetrahedron, and a building of thousands of shells
cannot become lighter than four triangles each. A shell that goes leaves its places to whatever else is there: its cost
is its area times the largest squared distance of its places to the nearest triangle of another shell. That is spread
over the triangles that it still has, two at a time, as a collapse takes two. (By the mean of the squared distances
shells go earlier, and the maximum deviation of the first levels doubles.) One that is further from the others than the
surface has moved anywhere would bring the maximum forward: it waits until it is down to its last triangles, and costs
the fourth power of how many times further as much.

What an open shell leaves behind must face the same way: the back of a sheet is not replaced by its front. A share of
its size counts as a distance at least: a label that lies close on a body leaves no gap behind, but what is drawn on it
is gone.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.numeric.bounds import corner_bounds, group_bounds
from plindro.core.numeric.groups import number_roots, unite
from plindro.core.numeric.kernels import helper, kernel
from plindro.core.spatial.boxes import NONE, label_nodes
from plindro.core.spatial.nearest import Surface, searched_surface, squared_distance
from plindro.core.spatial.search import begin, new_stack, next_leaf

_FEWEST, _MOST = 8, 128
"""Places by which a shell is judged, at least and at most."""
_SAME_WAY, _ANY_WAY = 0.0, -2.0
"""Cosines of what faces the same way, and of anything."""
_LOOK, _LOOK_OPEN = 0.05, 0.1
"""Share of its size that a shell reaches at least, for what it shows, and that of an open one, as a label is."""
_LAST = 4
"""Triangles down to which collapses take a closed shell."""
_GOLDEN = 0.6180339887498949
_WAITS, _SMALL, _OVERDUE = 0.1, 80, 4.0
"""A shell with more than this share of all triangles, and more than a few, waits until it is lighter: a level would
jump past its count. But when all else costs so many times more it goes: a coil, say, whose turns hold each other."""


class Places(NamedTuple):
    """Places on shells, those of one shell after another.

    ``at`` (N, 3), ``facing`` (N, 3) unit, ``shell`` (N,); ``first`` (S + 1,) where each shell's begin; ``weight`` (N,)
    area that each stands for; ``squared`` (N,) squared distance to the nearest triangle of another shell, ``leans``
    (N,) which shell that is, NONE where that is not known, or there is no other.
    """

    at: F64
    facing: F64
    shell: I64
    first: I64
    weight: F64
    squared: F64
    leans: I64


class Others(NamedTuple):
    """All triangles with their shells: ``shell`` (T,) in the tree's order; ``only`` (nodes,) the one shell that a node
    of the tree holds, MIXED where there are several; ``lives``, ``is_open`` (S,)."""

    surface: Surface
    shell: I64
    only: I64
    lives: Mask
    is_open: Mask


@helper
def _to_box(query, tree, node):  # type: ignore[no-untyped-def]
    """Squared distance to a box; infinite where it holds the own shell, or a dead one, alone."""
    x, y, z, own, only, lives = query
    shell = only[node]
    if shell == own or shell == NONE or (shell >= 0 and not lives[shell]):  # noqa: SIM109 (integers of two types)
        return np.inf
    dx = max(tree.low[node, 0] - x, x - tree.high[node, 0], 0.0)
    dy = max(tree.low[node, 1] - y, y - tree.high[node, 1], 0.0)
    dz = max(tree.low[node, 2] - z, z - tree.high[node, 2], 0.0)
    return dx * dx + dy * dy + dz * dz


@helper
def _nearest_other(places, i, cone, others, stack):  # type: ignore[no-untyped-def]
    """The nearest living shell but its own that faces into the cone, NONE where there is none; squared distance."""
    x, y, z = places.at[i, 0], places.at[i, 1], places.at[i, 2]
    fx, fy, fz = places.facing[i, 0], places.facing[i, 1], places.facing[i, 2]
    surface = others.surface
    query = (x, y, z, places.shell[i], others.only, others.lives)
    best, found = np.inf, NONE
    depth = begin(_to_box, query, surface.tree, stack)
    while True:
        leaf, depth = next_leaf(_to_box, query, best, surface.tree, stack, depth)
        if leaf < 0:
            return found, best
        t = leaf - surface.tree.first_leaf
        if surface.normals[t, 0] * fx + surface.normals[t, 1] * fy + surface.normals[t, 2] * fz < cone:
            continue
        squared = squared_distance(x, y, z, surface.corners, t)
        if squared < best:
            best, found = squared, others.shell[t]


@helper
def _reach(places, first, last, until, others, stack):  # type: ignore[no-untyped-def]
    """The largest squared distance of the places from ``first`` to ``last``, what they lean on found anew where it is
    gone. It ends as soon as one is more than ``until``: so far it is at least."""
    furthest = 0.0
    for i in range(first, last):
        if places.leans[i] < 0 or not others.lives[places.leans[i]]:
            cone = _SAME_WAY if others.is_open[places.shell[i]] else _ANY_WAY
            shell, squared = _nearest_other(places, i, cone, others, stack)
            if shell < 0 and cone > _ANY_WAY:
                shell, squared = _nearest_other(places, i, _ANY_WAY, others, stack)
            places.leans[i], places.squared[i] = shell, squared
        furthest = max(furthest, places.squared[i])
        if furthest > until:
            break
    return furthest


@kernel
def _let_go(due, left, most, spare, reaches, places, others, stack, gone):  # type: ignore[no-untyped-def]
    """Let the shells of ``due`` go in its order that reach no further, squared, than ``most`` (S,); returns how many
    did."""
    n_gone = 0
    for shell in due:
        if spare <= 0:
            break
        # What it leaned on may have gone meanwhile; then it reaches further, and its turn may not have come yet.
        reach = _reach(places, places.first[shell], places.first[shell + 1], most[shell], others, stack)
        reaches[shell] = max(reaches[shell], reach)
        if reach > most[shell] or reach == np.inf:
            continue
        others.lives[shell] = False
        spare -= left[shell]
        gone[n_gone] = shell
        n_gone += 1
    return n_gone


@kernel
def _unite_corners(triangles, parent):  # type: ignore[no-untyped-def]
    for t in range(len(triangles)):
        unite(parent, triangles[t, 0], triangles[t, 1])
        unite(parent, triangles[t, 1], triangles[t, 2])


def shells_of(triangles: I32, n_vertices: int) -> tuple[I32, int]:
    """(V,) which shell each vertex of a triangle mesh belongs to, and how many there are."""
    parent, group = np.arange(n_vertices, dtype=np.int32), np.empty(n_vertices, np.int32)
    _unite_corners(triangles, parent)
    return group, int(number_roots(parent, group))


def find_shells(positions: F64, triangles: I32, weight: F64, stays: Mask, on_border: Mask) -> "Shells | None":
    """The shells of a triangle mesh; None where there is but one, or none that may go.

    ``weight`` (V,) or empty says how many times more an error counts; a shell with a vertex that ``stays`` stays;
    ``on_border`` (V,) vertices on open borders.
    """
    at_vertex, n_shells = shells_of(triangles, len(positions))
    of_triangle: I32 = at_vertex[triangles[:, 0]]
    lives, may_go = np.zeros(n_shells, bool), np.ones(n_shells, bool)
    lives[of_triangle] = True
    may_go[at_vertex[stays]] = False
    is_open = np.zeros(n_shells, bool)
    is_open[at_vertex[on_border]] = True
    if int(lives.sum()) < 2 or not (lives & may_go).any():
        return None
    return Shells(positions, triangles, weight, of_triangle, lives, may_go, is_open)


class Shells:
    """What the shells of a mesh would cost, while they become fewer.

    ``of_triangle`` (T,) names the shell of each triangle.
    """

    def __init__(
        self,
        positions: F64,
        triangles: I32,
        weight: F64,
        of_triangle: I32,
        lives: Mask,
        may_go: Mask,
        is_open: Mask,
    ) -> None:
        self.of_triangle, self.lives, self._may_go, self._is_open = of_triangle, lives, may_go, is_open
        self._is_priced = False
        # The run moves its positions.
        self._positions, self._triangles, self._weight = positions.copy(), triangles, weight

    def _prepare(self) -> None:
        corners = self._positions[self._triangles]
        vectors = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        surface = searched_surface(self._positions, self._triangles, vectors)
        named = self.of_triangle.astype(np.int64)
        shell, only = named[surface.tree.order], label_nodes(named, surface.tree)
        self._others = Others(surface, shell, only, self.lives, self._is_open)
        self._places = _spread(corners, vectors, self.of_triangle, len(self.lives), self._heaviness())
        self._areas = np.bincount(self._places.shell, self._places.weight, minlength=len(self.lives))
        # As far as is known, squared; each reaches that far at least.
        look = np.where(self._is_open, _LOOK_OPEN, _LOOK)
        self._reaches = (look * _sizes(corners, self.of_triangle, len(self.lives))) ** 2
        self._stack = new_stack()
        self._is_priced = True

    def _heaviness(self) -> F64:
        """(T,) how many times more an error counts on each triangle."""
        if not len(self._weight):
            return np.ones(len(self._triangles))
        return self._weight[self._triangles].mean(axis=1)

    def vanish(self, left: I64, limit: float, furthest: float, spare: int) -> list[tuple[int, float]]:
        """The shells that go now, the cheapest first, each with its largest squared distance; they live no more.

        Parameters
        ----------
        left : (S,) how many triangles each still has
        limit : what two triangles may cost
        furthest : how far, squared, the surface has moved; a shell further from what is left waits, and costs more
        spare : how many triangles may go: nothing goes once that many are gone
        """
        if not self._is_priced:
            self._prepare()
        may_go = self.lives & self._may_go & (left > 0)
        is_light = left <= max(_WAITS * int(left.sum()), _SMALL)
        limits = np.where(is_light, limit, limit / _OVERDUE)
        if np.isinf(limit) and (may_go & is_light).any():
            # At the very end the heavy ones go too, but only when they are all that could.
            may_go &= is_light
        most = self._allowed(left, limits, furthest)
        due = np.flatnonzero(may_go & (self._reaches <= most))
        price = self._areas[due] * self._reaches[due] / left[due]
        gone = np.empty(len(due), np.int64)
        n_gone = _let_go(
            due[np.argsort(price, kind="stable")], left, most, spare, self._reaches, self._places, self._others,
            self._stack, gone,
        )  # fmt: skip
        return [(shell, float(self._reaches[shell])) for shell in gone[:n_gone].tolist()]

    def _allowed(self, left: I64, limits: F64, furthest: float) -> F64:
        """(S,) how far, squared, shells may reach where two triangles may cost ``limits``.

        One further than ``furthest`` costs its square more: r³ / furthest² stands for r, squared distances all.
        """
        with np.errstate(divide="ignore", invalid="ignore"):
            paid = np.where(self._areas > 0.0, 0.5 * limits * left / self._areas, furthest)
        further = np.cbrt(paid * furthest**2) if np.isfinite(furthest) else paid
        return np.where(paid <= furthest, paid, np.where(left <= _LAST, further, furthest))


def _sizes(corners: F64, shell: I32, n_shells: int) -> F64:
    """(S,) diagonals of the shells' bounds."""
    low, high = group_bounds(*corner_bounds(corners), shell, n_shells)
    return np.linalg.norm(np.where(high >= low, high - low, 0.0), axis=1)


def _spread(corners: F64, vectors: F64, shell: I32, n_shells: int, heaviness: F64) -> Places:
    """Places at even steps of each shell's area."""
    order = np.argsort(shell, kind="stable")
    area = 0.5 * np.linalg.norm(vectors[order], axis=1)
    grown = np.concatenate([[0.0], np.cumsum(area)])
    counts = np.bincount(shell, minlength=n_shells)
    ends = np.cumsum(counts)
    begins, sizes = grown[ends - counts], grown[ends] - grown[ends - counts]
    number = np.where(counts > 0, np.clip(counts, _FEWEST, _MOST), 0)
    first = np.concatenate([[0], np.cumsum(number)]).astype(np.int64)
    of: NDArray[np.int64] = np.repeat(np.arange(n_shells), number)
    step = np.arange(len(of)) - np.repeat(first[:-1], number)
    wanted = begins[of] + (step + 0.5) / number[of] * sizes[of]
    # A shell without area has its places on its own triangles all the same.
    at = np.clip(np.searchsorted(grown[1:], wanted), (ends - counts)[of], ends[of] - 1)
    along = np.clip((wanted - grown[at]) / np.maximum(area[at], np.finfo(float).tiny), 0.0, 1.0)
    root, across = np.sqrt(along), np.arange(len(of)) * _GOLDEN % 1.0
    face = order[at]
    share = np.stack([1.0 - root, root * (1.0 - across), root * across], axis=1)
    length = np.linalg.norm(vectors[face], axis=1, keepdims=True)
    return Places(
        at=np.einsum("nk,nkj->nj", share, corners[face]),
        facing=vectors[face] / np.where(length > 0, length, 1.0),
        shell=of,
        first=first,
        weight=sizes[of] / number[of] * heaviness[face],
        squared=np.zeros(len(of)),
        leans=np.full(len(of), NONE, np.int64),
    )
