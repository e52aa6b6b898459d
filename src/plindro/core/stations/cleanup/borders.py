"""Open borders as loops, their length, and faces that close the small flat ones."""

from dataclasses import dataclass, replace

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.mesh.surgery import append_faces
from plindro.core.mesh.topology import Topology

FLAT = 0.02
"""A loop is flat where no vertex lies further off its plane than this share of its reach."""


@dataclass(frozen=True, slots=True)
class Borders:
    """``halves`` (N,) open half-edges in order along their loops, ``start`` (L + 1,), ``length`` (L,) metres,
    ``is_ring`` (L,) loops that come back to where they began, ``is_flat`` (L,)."""

    halves: I64
    start: I64
    length: F64
    is_ring: Mask
    is_flat: Mask

    def __len__(self) -> int:
        return len(self.length)


@njit(cache=True, nogil=True)
def _walk(open_halves, is_open, twin, turned, next_corner, halves, start, is_ring, seen):  # type: ignore[no-untyped-def]
    """Follow each open half-edge to the next one around its end's fan."""
    n, loops = 0, 0
    for h in open_halves:
        if seen[h]:
            continue
        start[loops] = n
        c = h
        ring = False
        while True:
            seen[c] = True
            halves[n] = c
            n += 1
            c = next_corner[c]
            steps = 0
            while not is_open[c] and twin[c] >= 0 and not turned[c] and steps < len(twin):
                c = next_corner[twin[c]]
                steps += 1
            if not is_open[c] or seen[c]:
                ring = c == h
                break
        is_ring[loops] = ring
        loops += 1
    start[loops] = n
    return loops


def find_borders(mesh: Mesh, topology: Topology) -> Borders:
    """Loops of half-edges that have no other face."""
    is_open = topology.edge_uses[topology.edge] == 1
    open_halves = np.flatnonzero(is_open)
    halves, start = np.empty(len(open_halves), np.int64), np.empty(len(open_halves) + 1, np.int64)
    is_ring = np.zeros(len(open_halves), bool)
    loops = 0
    if len(open_halves):
        loops = _walk(
            open_halves, is_open, topology.twin, topology.turned[topology.edge], topology.next_corner, halves, start,
            is_ring, np.zeros(mesh.n_corners, bool),
        )  # fmt: skip
    start = start[: loops + 1] if loops else np.zeros(1, np.int64)
    from_ = mesh.positions[mesh.corner_vertex[halves]]
    to = mesh.positions[mesh.corner_vertex[topology.next_corner[halves]]]
    loop = np.repeat(np.arange(loops), np.diff(start))
    length = np.bincount(loop, np.linalg.norm(to - from_, axis=1), minlength=loops).astype(np.float64)
    return Borders(halves, start, length, is_ring[:loops], _flat(from_, loop, loops, start))


def _flat(points: F64, loop: I64, loops: int, start: I64) -> Mask:
    """(L,) whether the points of each loop lie in a plane."""
    if not loops:
        return np.zeros(0, bool)
    number = np.diff(start)
    middle = np.add.reduceat(points, start[:-1], axis=0) / number[:, None]
    offset = points - middle[loop]
    following = np.arange(1, len(points) + 1)
    following[start[1:] - 1] = start[:-1]
    normal = unit(np.add.reduceat(np.cross(offset, offset[following]), start[:-1], axis=0))
    off = np.abs(np.einsum("ij,ij->i", offset, normal[loop]))
    reach = np.linalg.norm(offset, axis=1)
    result: Mask = np.maximum.reduceat(off, start[:-1]) <= FLAT * np.maximum.reduceat(reach, start[:-1])
    return result


def fillable(borders: Borders, longest: float) -> Mask:
    """(L,) loops that one flat face can close: flat rings of three to 64 edges, no longer than ``longest`` metres."""
    number = np.diff(borders.start)
    return borders.is_ring & borders.is_flat & (number >= 3) & (number <= 64) & (borders.length <= longest)


def fill_borders(mesh: Mesh, borders: Borders, chosen: Mask) -> Mesh:
    """A face over each chosen loop, its corners and material like those of the faces beside it."""
    loops = np.flatnonzero(chosen)
    sides = np.diff(borders.start)[loops]
    runs = [borders.halves[borders.start[i] : borders.start[i + 1]][::-1] for i in loops.tolist()]
    # The new face runs against the border: it takes the vertices of the loop backwards.
    corners = np.concatenate(runs).astype(np.int64)
    face = mesh.corner_face()
    like = np.array([face[run[0]] for run in runs], np.int64)
    grown = append_faces(mesh, corners, sides, like, None)
    if grown.normals is None:
        return grown
    normals = grown.normals.copy()
    flat = unit(face_vectors(grown)[mesh.n_faces :]).astype(np.float32)
    normals[mesh.n_corners :] = np.repeat(flat, sides, axis=0)
    return replace(grown, normals=normals)


def loop_edges(mesh: Mesh, topology: Topology, borders: Borders) -> I32:
    """(N, 2) vertices of all border edges."""
    ends = mesh.corner_vertex[topology.next_corner[borders.halves]]
    return np.stack([mesh.corner_vertex[borders.halves], ends], axis=1)
