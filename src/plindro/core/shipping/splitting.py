"""Levels with more vertices than one mesh of an engine holds, split into meshes where that costs least."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Places, Severity, counted, grouped
from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.mesh.streams import vertex_stream
from plindro.core.prop import Level, Prop

_SLANTED = (
    (1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (1, -1, 0), (1, 0, 1), (1, 0, -1), (0, 1, 1), (0, 1, -1),
    (1, 1, 1), (1, 1, -1), (1, -1, 1), (-1, 1, 1),
)  # fmt: skip
"""Directions along which cuts are sought: the axes and the diagonals between them."""


def split_levels(
    prop: Prop, destination: Destination, on_step: Callable[[], None] = lambda: None
) -> tuple[Prop, list[Finding]]:
    """The prop with each level in meshes of at most the destination's engine vertices, where it asks for that; what is
    split is said, with the cuts.

    A mesh of parts kept apart is split for itself. ``on_step`` is called now and then and may raise to stop.
    """
    if destination.past_limit != "split":
        return prop, []
    levels, findings = [], []
    for level in prop.levels:
        pieces = _pieces_of(prop, level, destination.max_engine_vertices, on_step)
        levels.append(level if pieces is None else replace(level, pieces=pieces))
        if pieces is not None:
            findings.append(_said(level, pieces))
    return replace(prop, levels=tuple(levels)), findings


def _pieces_of(prop: Prop, level: Level, limit: int, on_step: Callable[[], None]) -> I32 | None:
    """(F,) the piece of each face, numbered within its part; None where nothing has to be split."""
    mesh = level.mesh
    keeps_parts = prop.keeps_parts and len(prop.parts) > 1
    apart = mesh.faces_by_part(len(prop.parts)) if keeps_parts else [np.arange(mesh.n_faces)]
    pieces = np.zeros(mesh.n_faces, np.int32)
    for faces in apart:
        if len(faces):
            pieces[faces] = split_faces(mesh.with_faces(faces), limit, on_step)
    return pieces if pieces.any() else None


def split_faces(mesh: Mesh, limit: int, on_step: Callable[[], None] = lambda: None) -> I32:
    """(F,) the piece of each triangle, from 0 on, each of at most ``limit`` engine vertices.

    What is too large is cut in two again and again, in the middle or nearly so, across the direction and at the place
    where fewest engine vertices come to lie on both sides, among those that leave as few pieces as can be. ``limit`` is
    at least 3. The same mesh gives the same pieces.
    """
    stream = vertex_stream(mesh).corner_index.reshape(-1, 3).astype(np.int64)
    centres = mesh.positions[mesh.triangles()].mean(axis=1)
    pieces = np.zeros(mesh.n_faces, np.int32)
    waiting, done = [np.arange(mesh.n_faces)], []
    while waiting:
        faces = waiting.pop()
        side = _best_cut(stream[faces], centres[faces], limit, on_step)
        if side is None:
            done.append(faces)
        else:
            waiting += [faces[~side], faces[side]]
    done.sort(key=lambda faces: int(faces[0]))
    for number, faces in enumerate(done):
        pieces[faces] = number
    return pieces


def _best_cut(triangles: I64, centres: F64, limit: int, on_step: Callable[[], None]) -> Mask | None:
    """Which triangles lie on the first side of the cheapest cut; None where all of them fit."""
    # The corners by vertex, so that what holds for all triangles of a vertex is told in one pass.
    by_vertex = np.argsort(triangles.reshape(-1), kind="stable")
    sorted_ids = triangles.reshape(-1)[by_vertex]
    starts = np.flatnonzero(np.concatenate([[True], sorted_ids[1:] != sorted_ids[:-1]]))
    n, users = len(starts), by_vertex // 3
    if n <= limit:
        return None
    rows = []
    for direction in _SLANTED:
        on_step()
        rows.append(_Row.of(centres @ np.array(direction, np.float64), users, starts))
    for wanted in range(-(-n // limit), n + 1):
        found = [(row.cheapest(wanted, limit), row) for row in rows]
        costs = [(cut, row) for cut, row in found if cut is not None]
        if costs:
            (_, _, at), row = min(costs, key=lambda pair: pair[0][:2])
            return row.before(at)
    return rows[0].before(len(triangles) // 2)


@dataclass(frozen=True, slots=True)
class _Row:
    """Triangles in a row along a direction: ``order``, and for a cut before each but the first, the engine vertices on
    its ``left`` and on its ``right``."""

    order: I64
    left: I64
    right: I64

    @classmethod
    def of(cls, along: F64, users: I64, starts: I64) -> "_Row":
        """``users`` are the triangles of each vertex, one vertex after the other, which begin at ``starts``."""
        order = np.argsort(along, kind="stable")
        rank = np.empty(len(order), np.int64)
        rank[order] = np.arange(len(order))
        ranks = rank[users]
        first, last = np.minimum.reduceat(ranks, starts), np.maximum.reduceat(ranks, starts)
        left = np.cumsum(np.bincount(first, minlength=len(order)))[:-1]
        right = len(starts) - np.cumsum(np.bincount(last, minlength=len(order)))[:-1]
        return cls(order, left, right)

    def cheapest(self, pieces: int, limit: int) -> tuple[int, float, int] | None:
        """The cheapest cut into sides that ``pieces`` hold: (vertices of both sides, distance from the middle, place).

        None where no cut near the middle leaves sides that so many pieces hold.
        """
        half = pieces // 2
        fits = (self.left <= _room(half, limit)) & (self.right <= _room(pieces - half, limit))
        off = np.abs(self.left / (self.left + self.right) - half / pieces)
        may = np.flatnonzero(fits & (off <= _OFF))
        if not len(may):
            return None
        both = self.left[may] + self.right[may]
        cheap = may[both == both.min()]
        at = int(cheap[np.argmin(off[cheap])])
        return int(both.min()), float(off[at]), at + 1

    def before(self, at: int) -> Mask:
        """The triangles before a place in the row."""
        side = np.zeros(len(self.order), bool)
        side[self.order[:at]] = True
        return side


def _room(pieces: int, limit: int) -> int:
    """The vertices that so many pieces hold together: those on further cuts count twice."""
    return limit if pieces == 1 else int(pieces * limit * (1.0 - _CUT_AGAIN))


_OFF = 0.2
"""How far from its share of the vertices a cut may lie."""
_CUT_AGAIN = 0.02
"""Share of the vertices that further cuts may add."""


def _said(level: Level, pieces: I32) -> Finding:
    mesh = level.mesh
    ids = vertex_stream(mesh).corner_index
    n_pieces = len(np.unique(np.stack([mesh.face_part, pieces], axis=1), axis=0))
    whole = len(np.unique(ids))
    shipped = len(np.unique(np.stack([ids, pieces[mesh.corner_face()]], axis=1), axis=0))
    text = (
        f"LOD{level.index}: {grouped(whole)} engine vertices ship in {counted(n_pieces, 'mesh', 'meshes')}, "
        f"with {grouped(shipped - whole)} more along the cuts"
    )
    return Finding("level-split", Severity.INFO, text, n_pieces, level.index, places=_cuts(mesh, pieces))


def _cuts(mesh: Mesh, pieces: I32) -> Places:
    """The edges between faces of different pieces."""
    triangles = mesh.triangles()
    edges = np.sort(triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    of = np.repeat(pieces, 3)
    order = np.lexsort((of, edges[:, 1], edges[:, 0]))
    edges, of = edges[order], of[order]
    differs = (edges[1:] == edges[:-1]).all(axis=1) & (of[1:] != of[:-1])
    return Places.of(mesh.positions[edges[1:][differs]])
