"""Faces in the same place as another of the same material: twice the same way, or back to back.

Places count, not vertices: an object that was exported twice lies on itself with vertices of its own.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from plindro.core.mesh.mesh import I32, I64, Mask, Mesh
from plindro.core.mesh.numbering import number_pairs
from plindro.core.mesh.surgery import next_corners
from plindro.core.numeric.groups import connected


@njit(cache=True, nogil=True)
def _at(corner_vertex, begin, sides, lowest, step, k):  # type: ignore[no-untyped-def]
    """Vertex k of a face read from its lowest vertex on, in the sense in which the second is the smaller."""
    return corner_vertex[begin + (lowest + step * k) % sides]


@njit(cache=True, nogil=True)
def _number_outlines(face_start, corner_vertex, material, ids, sense):  # type: ignore[no-untyped-def]
    """Number equal outlines of one material; ``sense`` tells which way round a face reads its outline."""
    n = len(face_start) - 1
    size = 16
    while size < 2 * n:
        size *= 2
    table = np.full(size, -1, np.int32)
    lowest = np.empty(n, np.int32)
    mask = np.uint64(size - 1)
    for f in range(n):
        begin = face_start[f]
        sides = face_start[f + 1] - begin
        low = 0
        for k in range(1, sides):
            if corner_vertex[begin + k] < corner_vertex[begin + low]:
                low = k
        before, after = corner_vertex[begin + (low - 1) % sides], corner_vertex[begin + (low + 1) % sides]
        step = 1 if after <= before else -1
        lowest[f], sense[f] = low, step
        h = np.uint64(0x9E3779B97F4A7C15) + np.uint64(sides) + (np.uint64(material[f]) << np.uint64(32))
        for k in range(sides):
            h = (h ^ np.uint64(_at(corner_vertex, begin, sides, low, step, k))) * np.uint64(0xBF58476D1CE4E5B9)
            h ^= h >> np.uint64(29)
        slot = h & mask
        while True:
            g = table[slot]
            if g < 0:
                table[slot] = f
                ids[f] = f
                break
            other = face_start[g]
            same = face_start[g + 1] - other == sides and material[g] == material[f]
            k = 0
            while same and k < sides:
                same = _at(corner_vertex, begin, sides, low, step, k) == _at(
                    corner_vertex, other, sides, lowest[g], sense[g], k
                )
                k += 1
            if same:
                ids[f] = g
                break
            slot = (slot + np.uint64(1)) & mask


@dataclass(frozen=True, slots=True)
class Duplicates:
    """``repeats`` (F,): the same outline the same way as an earlier face. ``pairs`` (P, 2): faces back to back.

    ``is_sheet`` (P,): the pair belongs to a surface that is backed all over, which is how two-sided leaves and cloth
    are made on purpose.
    """

    repeats: Mask
    pairs: I64
    is_sheet: Mask


def find_duplicates(mesh: Mesh, place: I32) -> Duplicates:
    """Faces over one and the same outline; ``place`` (V,) numbers where vertices lie."""
    ids = np.empty(mesh.n_faces, np.int32)
    sense = np.empty(mesh.n_faces, np.int8)
    _number_outlines(mesh.face_start, place[mesh.corner_vertex], mesh.face_material, ids, sense)
    several = np.flatnonzero(ids != np.arange(mesh.n_faces))
    repeats = np.zeros(mesh.n_faces, bool)
    if not len(several):
        return Duplicates(repeats, np.zeros((0, 2), np.int64), np.zeros(0, bool))
    agrees = sense[several] == sense[ids[several]]
    repeats[several[agrees]] = True
    backs = several[~agrees]
    firsts, where = np.unique(ids[backs], return_index=True)
    second = backs[where]
    repeats[np.setdiff1d(backs, second)] = True
    pairs = np.stack([firsts.astype(np.int64), second.astype(np.int64)], axis=1)
    return Duplicates(repeats, pairs, _sheets(mesh, place, repeats, pairs))


def _sheets(mesh: Mesh, place: I32, repeats: Mask, pairs: I64) -> Mask:
    """(P,) whether all faces that hang together with a pair by their vertices are backed too."""
    if not len(pairs):
        return np.zeros(0, bool)
    corner_face = mesh.corner_face()
    label, count = connected(mesh.n_faces + mesh.n_vertices, corner_face, mesh.n_faces + place[mesh.corner_vertex])
    backed = repeats.copy()
    backed[pairs.reshape(-1)] = True
    all_backed = np.ones(count, bool)
    all_backed[label[: mesh.n_faces][~backed]] = False
    result: Mask = all_backed[label[pairs[:, 0]]]
    return result


def choose_backs(mesh: Mesh, place: I32, pairs: I64) -> I64:
    """Of pairs (P, 2) the face to leave out: the one whose neighbours contradict its winding, else the later.

    Where two bodies touch, both faces stay: without either of them one body would be open.
    """
    face = mesh.corner_face()
    start = place[mesh.corner_vertex]
    following = start[next_corners(mesh)]
    paired = np.zeros(mesh.n_faces, bool)
    paired[pairs.reshape(-1)] = True
    ids, firsts = number_pairs(np.concatenate([start, following]), np.concatenate([following, start]))
    along, against = ids[: mesh.n_corners], ids[mesh.n_corners :]
    uses = np.bincount(along[~paired[face]], minlength=len(firsts))
    agree, contradict = uses[against] > 0, uses[along] > 0
    score = np.bincount(face, agree.astype(np.int64) - contradict, minlength=mesh.n_faces)
    worse = np.where(score[pairs[:, 0]] < score[pairs[:, 1]], pairs[:, 0], pairs[:, 1])
    return worse[~_touching(mesh, place, paired, agree, contradict)[pairs[:, 0]]]


def _touching(mesh: Mesh, place: I32, paired: Mask, agree: Mask, contradict: Mask) -> Mask:
    """(F,) whether a paired face belongs to a place where two bodies touch.

    ``agree``, ``contradict`` (C,): whether a face beside the pairs runs against a half-edge, or along it. All around
    such a place, walls of both bodies come to its rim: one agrees with each face, and one contradicts it.
    """
    face, inner = mesh.corner_face(), paired[mesh.corner_face()]
    size = mesh.n_faces + mesh.n_vertices
    patch = connected(size, face[inner], mesh.n_faces + place[mesh.corner_vertex[inner]])[0][: mesh.n_faces]
    by_two = np.bincount(patch[face[inner & agree & contradict]], minlength=size)
    by_one = np.bincount(patch[face[inner & (agree != contradict)]], minlength=size)
    result: Mask = paired & (by_two[patch] > 0) & (by_one[patch] == 0)
    return result


def face_ids_by_position(mesh: Mesh, position_ids: I32) -> I32:
    """(F,) equal numbers for faces over the same places, whichever vertices lie there."""
    ids = np.empty(mesh.n_faces, np.int32)
    sense = np.empty(mesh.n_faces, np.int8)
    _number_outlines(mesh.face_start, position_ids[mesh.corner_vertex], np.zeros(mesh.n_faces, np.int32), ids, sense)
    return ids
