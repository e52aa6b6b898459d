"""Levels with more vertices than one mesh of an engine holds, split into meshes where that costs least."""

from dataclasses import replace

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


def split_levels(prop: Prop, destination: Destination) -> tuple[Prop, list[Finding]]:
    """The prop with each level in meshes of at most the destination's engine vertices, where it asks for that; what is
    split is said, with the cuts.

    A mesh of parts kept apart is split for itself.
    """
    if destination.past_limit != "split":
        return prop, []
    levels, findings = [], []
    for level in prop.levels:
        pieces = _pieces_of(prop, level, destination.max_engine_vertices)
        levels.append(level if pieces is None else replace(level, pieces=pieces))
        if pieces is not None:
            findings.append(_said(level, pieces))
    return replace(prop, levels=tuple(levels)), findings


def _pieces_of(prop: Prop, level: Level, limit: int) -> I32 | None:
    """(F,) the piece of each face, numbered within its part; None where nothing has to be split."""
    mesh = level.mesh
    keeps_parts = prop.keeps_parts and len(prop.parts) > 1
    apart = mesh.faces_by_part(len(prop.parts)) if keeps_parts else [np.arange(mesh.n_faces)]
    pieces = np.zeros(mesh.n_faces, np.int32)
    for faces in apart:
        if len(faces):
            pieces[faces] = split_faces(mesh.with_faces(faces), limit)
    return pieces if pieces.any() else None


def split_faces(mesh: Mesh, limit: int) -> I32:
    """(F,) the piece of each triangle, from 0 on, each of at most ``limit`` engine vertices.

    A piece that is too large is cut across the direction, at the place, where fewest engine vertices come to lie on
    both sides, among the places that leave as few pieces as there can be; ties go to the even cut. ``limit`` is at
    least 3. The same mesh gives the same pieces.
    """
    stream = vertex_stream(mesh).corner_index.reshape(-1, 3).astype(np.int64)
    centres = mesh.positions[mesh.triangles()].mean(axis=1)
    pieces = np.zeros(mesh.n_faces, np.int32)
    waiting, done = [np.arange(mesh.n_faces)], []
    while waiting:
        faces = waiting.pop()
        side = _best_cut(stream[faces], centres[faces], limit)
        if side is None:
            done.append(faces)
        else:
            waiting += [faces[~side], faces[side]]
    done.sort(key=lambda faces: int(faces[0]))
    for number, faces in enumerate(done):
        pieces[faces] = number
    return pieces


def _best_cut(triangles: I64, centres: F64, limit: int) -> Mask | None:
    """Which triangles lie on the first side of the cheapest cut; None where all of them fit."""
    _, dense = np.unique(triangles, return_inverse=True)
    vertices = dense.reshape(-1, 3)
    n = int(vertices.max()) + 1
    if n <= limit:
        return None
    best: tuple[tuple[int, int, int], Mask] | None = None
    for direction in _SLANTED:
        order = np.argsort(centres @ np.array(direction, np.float64), kind="stable")
        cost, at = _cheapest(vertices[order], n, limit)
        if best is None or cost < best[0]:
            side = np.zeros(len(triangles), bool)
            side[order[:at]] = True
            best = cost, side
    assert best is not None
    return best[1]


def _cheapest(vertices: I64, n: int, limit: int) -> tuple[tuple[int, int, int], int]:
    """Where a row of triangles is cut: (pieces that will be, vertices on both sides, unevenness), and the place."""
    count = len(vertices)
    ranks = np.repeat(np.arange(count), 3)
    first, last = np.full(n, count), np.full(n, -1)
    np.minimum.at(first, vertices.reshape(-1), ranks)
    np.maximum.at(last, vertices.reshape(-1), ranks)
    # Before the cut at k lie triangles 0 .. k - 1.
    left = np.cumsum(np.bincount(first, minlength=count))[:-1]
    right = n - np.cumsum(np.bincount(last, minlength=count))[:-1]
    pieces = -(-left // limit) + -(-right // limit)
    both = left + right - n
    uneven = np.abs(left - right)
    at = int(np.lexsort((uneven, both, pieces))[0])
    return (int(pieces[at]), int(both[at]), int(uneven[at])), at + 1


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
