"""Which side of a surface is its outside.

First the faces of each shell are brought to one sense. Which of the two senses is right is then told

- for closed shells by their volume and by what they lie in: a shell in the open must enclose a positive volume; one
  that lies inside another may be a hollow or a body of its own, both of which are meant, so it is left, unless the
  shell around it was found inside out and they belong to one piece, when both turn;
- for open shells by what their sides see: the outside of a bell or a box without a lid sees more sky than its inside.
  Where both see about the same (a sheet, a shallow dish) the sense of most of its surface stays.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from plindro.core.mesh.geometry import face_vectors
from plindro.core.mesh.mesh import F64, I32, I64, Mask, Mesh
from plindro.core.mesh.topology import Topology
from plindro.core.spatial.rays import Targets, find_inside, ray_targets, sky_shares

SKY_RAYS = 24
SKY_SAMPLES = 48
"""Faces of an open shell that are asked, spread by area; fewer where there are many shells."""
MOST_SAMPLES = 8_000
MOST_ASKED = 20_000_000
"""Triangles that all rays together may ask, a few seconds of work; only heaps of faces need more."""
MOST_CONTAINERS = 400
INSIDE_SAMPLES = 4
"""Points of a shell that must all lie inside another for it to lie inside."""
FAR_LESS, FAR_LESS_WITH_NORMALS = 0.7, 0.35
"""A front that sees less than this share of the sky that its back sees is the inside; where the source's own normals
say that the front is meant, the difference must be greater."""
IN_SIGHT = 0.5
"""Share of the sky that the other side must see: a card that is sunk into a body tells nothing by what it sees."""
FLAT = 0.9
"""A shell whose faces look one way to this share has no inside: a sheet is left as it lies."""
_RAYS = np.array([[0.577, 0.611, 0.542], [-0.313, 0.871, 0.379], [0.127, -0.541, 0.831]])


@dataclass(frozen=True, slots=True)
class Winding:
    """``turn`` (F,) faces to be turned; of them ``single`` (F,) stand alone in shells that are otherwise right;
    ``shell`` (F,) numbers the shells; counts of closed and open
    shells that are inside out; ``one_sided`` shells that cannot have one sense (Möbius)."""

    turn: Mask
    single: Mask
    shell: I32
    closed_inside_out: int
    open_inside_out: int
    one_sided: int


@njit(cache=True, nogil=True)
def _spread_sense(twin, turned, face_start, corner_face, shell, parity, broken, queue):  # type: ignore[no-untyped-def]
    """Number shells and give each face its sense against the shell's first face; returns how many shells there are."""
    count = 0
    shell[:] = -1
    for seed in range(len(shell)):
        if shell[seed] >= 0:
            continue
        shell[seed] = count
        parity[seed] = 0
        broken[count] = False
        queue[0] = seed
        head, tail = 0, 1
        while head < tail:
            f = queue[head]
            head += 1
            for c in range(face_start[f], face_start[f + 1]):
                d = twin[c]
                if d < 0:
                    continue
                g = corner_face[d]
                sense = parity[f] ^ turned[c]
                if shell[g] < 0:
                    shell[g] = count
                    parity[g] = sense
                    queue[tail] = g
                    tail += 1
                elif parity[g] != sense:
                    broken[count] = True
        count += 1
    return count


def find_turned(mesh: Mesh, topology: Topology, double_sided: Mask) -> Winding:
    """Faces that face the wrong way. ``double_sided`` (materials,): where the side does not matter to the eye."""
    n = mesh.n_faces
    corner_face = mesh.corner_face().astype(np.int32)
    shell, parity = np.empty(n, np.int32), np.zeros(n, np.uint8)
    broken = np.zeros(n + 1, bool)
    turned = topology.turned[topology.edge].astype(np.uint8)
    queue = np.empty(n, np.int32)
    count = int(_spread_sense(topology.twin, turned, mesh.face_start, corner_face, shell, parity, broken, queue))
    broken = broken[:count]
    is_closed = np.ones(count, bool)
    is_closed[shell[corner_face[topology.twin < 0]]] = False
    is_closed &= ~broken
    sense = 1.0 - 2.0 * parity.astype(np.float64)
    vectors = face_vectors(mesh)
    sizes = np.linalg.norm(vectors, axis=1)
    # The sense that most of the surface has now; on a draw that of the first face.
    lean = np.bincount(shell, sense * sizes, minlength=count) + 1e-9 * np.bincount(shell, sizes, minlength=count)
    majority = np.where(lean >= 0, 1.0, -1.0)
    wish = majority.copy()
    surface = _Surface(mesh, shell, np.asarray(sense, np.float64), vectors, sizes)
    wish[is_closed] = _closed_senses(surface, is_closed, majority)[is_closed]
    asked = ~is_closed & ~broken
    if asked.any():
        only_double = np.ones(count, bool)
        only_double[shell[~double_sided[mesh.face_material]]] = False
        asked &= ~only_double
        wish = np.where(asked, wish * _open_senses(surface, asked, majority), wish)
    wish[broken] = 1.0
    turn = (sense * wish[shell] < 0) & ~broken[shell]
    n_turned = np.bincount(shell[turn], minlength=count)
    whole = (n_turned == np.bincount(shell, minlength=count)) & (n_turned > 0)
    return Winding(
        turn=turn,
        single=turn & ~whole[shell],
        shell=shell,
        closed_inside_out=int((whole & is_closed).sum()),
        open_inside_out=int((whole & ~is_closed).sum()),
        one_sided=int(broken.sum()),
    )


class _Surface:
    """The mesh as shells with one sense each, and the tree for rays, built when it is first needed."""

    def __init__(self, mesh: Mesh, shell: I32, sense: F64, vectors: F64, sizes: F64) -> None:
        self.mesh, self.shell, self.vectors, self.sizes = mesh, shell, vectors, sizes
        self.sense = sense
        self.count = int(shell.max(initial=-1)) + 1
        self._targets: Targets | None = None

    @property
    def targets(self) -> Targets:
        """The fan triangles of the faces, for rays."""
        if self._targets is None:
            mesh = self.mesh
            fans = np.maximum(mesh.face_sides - 2, 0)
            face = np.repeat(np.arange(mesh.n_faces), fans)
            within = np.arange(len(face)) - np.repeat(np.cumsum(fans) - fans, fans)
            first = mesh.face_start[:-1][face]
            corners = np.stack([first, first + within + 1, first + within + 2], axis=1)
            self._targets = ray_targets(mesh.positions, mesh.corner_vertex[corners], face.astype(np.int32))
        return self._targets

    def bounds(self) -> tuple[F64, F64]:
        """(S, 3) lower and upper corners of each shell."""
        points = self.mesh.positions[self.mesh.corner_vertex]
        shell = np.repeat(self.shell, self.mesh.face_sides)
        order = np.argsort(shell, kind="stable")
        starts = np.searchsorted(shell[order], np.arange(self.count))
        return np.minimum.reduceat(points[order], starts), np.maximum.reduceat(points[order], starts)


def _closed_senses(surface: _Surface, is_closed: Mask, majority: F64) -> F64:
    """(S,) the sense against its first face that each closed shell should have."""
    mesh, shell = surface.mesh, surface.shell
    first = mesh.positions[mesh.corner_vertex[mesh.face_start[:-1]]]
    origin = np.zeros((surface.count, 3))
    origin[shell[::-1]] = first[::-1]
    parts = np.einsum("ij,ij->i", first - origin[shell], surface.vectors) * surface.sense
    volume = np.bincount(shell, parts, minlength=surface.count) / 3.0
    extent = np.bincount(shell, surface.sizes, minlength=surface.count)
    # Two sides of one sheet enclose nothing, and either sense is right.
    outward = np.where(np.abs(volume) <= 1e-9 * extent**1.5, majority, np.where(volume >= 0, 1.0, -1.0))
    suspects = is_closed & (outward != majority)
    if not suspects.any():
        return majority
    result = np.where(is_closed, outward, majority)
    inside = _containers(surface, is_closed)
    material = np.zeros(surface.count, np.int64)
    material[shell[::-1]] = mesh.face_material[::-1]
    part = np.zeros(surface.count, np.int64)
    part[shell[::-1]] = mesh.face_part[::-1]
    for s in sorted(inside, key=lambda s: len(inside[s])):
        around = max(inside[s], key=lambda t: len(inside.get(t, ())))
        own = outward[s] * majority[s]  # 1 where the shell stands as a body now, -1 as a hollow
        outer = outward[around] * majority[around]
        kin = material[s] == material[around] and part[s] == part[around]
        if outer < 0 and kin and result[around] != majority[around]:
            result[s] = -majority[s] if own > 0 else majority[s]
        else:
            result[s] = majority[s]
        within = sum(result[t] * outward[t] for t in inside[s])
        if within <= 0:
            result[s] = outward[s]
    return result


def _containers(surface: _Surface, is_closed: Mask) -> dict[int, list[int]]:
    """For each closed shell that lies wholly inside others: which, of the ``MOST_CONTAINERS`` largest."""
    low, high = surface.bounds()
    size = np.where(is_closed, np.linalg.norm(high - low, axis=1), -1.0)
    largest = np.argsort(-size, kind="stable")[: min(MOST_CONTAINERS, int(is_closed.sum()))]
    enclosed = np.zeros(surface.count, bool)
    for t in largest.tolist():
        fits = (low >= low[t]).all(axis=1) & (high <= high[t]).all(axis=1)
        fits[t] = False
        enclosed |= fits
    candidates = np.flatnonzero(enclosed & is_closed)
    if not len(candidates):
        return {}
    mesh = surface.mesh
    by_shell = np.argsort(surface.shell, kind="stable")
    starts = np.searchsorted(surface.shell[by_shell], np.arange(surface.count + 1))
    spread = np.linspace(0.0, 0.999, INSIDE_SAMPLES)
    first, number = starts[candidates][:, None], np.diff(starts)[candidates][:, None]
    samples = by_shell[(first + spread * number).astype(np.int64)].reshape(-1)
    rank = np.full(surface.count, -1, np.int32)
    rank[largest] = np.arange(len(largest))
    reach = float(np.linalg.norm(np.diff(mesh.bounds(), axis=0)))
    owner = rank[surface.shell[surface.targets.face]]
    inside = find_inside(_middles(mesh, samples), _RAYS, 1e-9 * reach, surface.targets, owner, len(largest))
    wholly = inside.reshape(len(candidates), INSIDE_SAMPLES, -1).all(axis=1)
    wholly &= largest[None, :] != candidates[:, None]
    return {s: largest[row].tolist() for s, row in zip(candidates.tolist(), wholly, strict=True) if row.any()}


def _middles(mesh: Mesh, faces: I64) -> F64:
    """(N, 3) middles of faces."""
    sums = np.add.reduceat(mesh.positions[mesh.corner_vertex], mesh.face_start[:-1], axis=0)
    result: F64 = sums[faces] / mesh.face_sides[faces][:, None]
    return result


def _open_senses(surface: _Surface, asked: Mask, majority: F64) -> F64:
    """(S,) -1 for open shells whose present front is their inside, else 1."""
    mesh, shell = surface.mesh, surface.shell
    faces = np.flatnonzero(asked[shell] & (surface.sizes > 0))
    result = np.ones(surface.count)
    if not len(faces):
        return result
    faces = faces[np.argsort(shell[faces], kind="stable")]
    each = int(np.clip(MOST_SAMPLES // int(asked.sum()), 1, SKY_SAMPLES))
    grown = np.cumsum(surface.sizes[faces])
    owners, begins = np.unique(shell[faces], return_index=True)
    if len(owners) > MOST_SAMPLES:
        owners, begins = owners[:MOST_SAMPLES], begins[:MOST_SAMPLES]
    before = np.where(begins > 0, grown[begins - 1], 0.0)
    ends = np.append(begins[1:], len(faces))[: len(owners)]
    after = grown[ends - 1]
    spots = before[:, None] + (np.arange(each) + 0.5) / each * (after - before)[:, None]
    picked = np.clip(np.searchsorted(grown, spots.reshape(-1)), 0, len(faces) - 1)
    samples = faces[np.minimum(np.maximum(picked, np.repeat(begins, each)), np.repeat(ends - 1, each))]
    sense = surface.sense[samples] * majority[shell[samples]]
    normals = surface.vectors[samples] / surface.sizes[samples][:, None] * sense[:, None]
    reach = float(np.linalg.norm(np.diff(mesh.bounds(), axis=0)))
    own_face, rays = samples.astype(np.int32), _half_sphere(SKY_RAYS)
    sky = sky_shares(_middles(mesh, samples), normals, own_face, rays, 1e-7 * reach, surface.targets, MOST_ASKED)
    front = sky[:, 0].reshape(-1, each).mean(axis=1)
    back = sky[:, 1].reshape(-1, each).mean(axis=1)
    share = np.where(_meant(surface, majority)[owners], FAR_LESS_WITH_NORMALS, FAR_LESS)
    sums = np.stack(
        [np.bincount(shell, surface.vectors[:, k] * surface.sense, surface.count) for k in range(3)], axis=1
    )
    is_flat = np.linalg.norm(sums, axis=1) >= FLAT * np.bincount(shell, surface.sizes, surface.count)
    is_inside = (front < share * back) & (back >= IN_SIGHT) & ~is_flat[owners]
    result[owners[is_inside]] = -1.0
    return result


def _meant(surface: _Surface, majority: F64) -> Mask:
    """(S,) whether the source has normals that agree with the present fronts of a shell."""
    mesh = surface.mesh
    if mesh.normals is None:
        return np.zeros(surface.count, bool)
    face = mesh.corner_face()
    front = surface.sense[face] * majority[surface.shell[face]]
    agrees = np.einsum("ij,ij->i", mesh.normals, surface.vectors[face]) * front > 0
    owner = surface.shell[face]
    share = np.bincount(owner, agrees, surface.count) / np.maximum(np.bincount(owner, minlength=surface.count), 1)
    result: Mask = share > FLAT
    return result


def _half_sphere(count: int) -> F64:
    """(count, 3) unit vectors about +Z, as dense as their cosine, along a golden spiral."""
    i = np.arange(count) + 0.5
    radius = np.sqrt(i / count)
    angle = i * np.pi * (3.0 - np.sqrt(5.0))
    return np.stack([radius * np.cos(angle), radius * np.sin(angle), np.sqrt(1.0 - radius**2)], axis=1)
