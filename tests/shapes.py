"""A zoo of small shapes for tests, and measures that share nothing with the code under test."""

import itertools
import json
import struct
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.mesh.mesh import Mesh, make_mesh, make_triangles


def star_polygon(sides: int, seed: int) -> NDArray[np.float64]:
    """(n, 2) a simple polygon around the origin, deeply notched, counter-clockwise."""
    rng = np.random.default_rng(seed)
    angles = (np.arange(sides) + rng.uniform(-0.35, 0.35, sides)) * 2 * np.pi / sides
    radii = rng.uniform(0.15, 1.0, sides)
    return np.stack([radii * np.cos(angles), radii * np.sin(angles)], axis=1)


def comb_polygon(teeth: int) -> NDArray[np.float64]:
    """(n, 2) a comb with needle-thin teeth and a straight back with repeated collinear points."""
    top = [(i + d, 1.0 if d == 0.25 else 0.1) for i in range(teeth) for d in (0.0, 0.25, 0.5)]
    back = [(x, 0.0) for x in np.linspace(0, teeth, 2 * teeth + 1)]
    return np.array([*back, *top[::-1]])


def random_rotation(seed: int) -> NDArray[np.float64]:
    q, r = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))
    q = q * np.sign(np.diag(r))
    if np.linalg.det(q) < 0:
        q[:, 0] = -q[:, 0]
    return q


def bumpy_sphere(n: int, seed: int = 0, height: float = 0.15) -> Mesh:
    """A closed surface of 2 n (n - 1) * 2 triangles with hills."""
    theta = np.linspace(0, np.pi, n + 1)[1:-1]
    phi = np.arange(2 * n) * np.pi / n
    ring = np.stack(
        [
            np.outer(np.sin(theta), np.cos(phi)),
            np.outer(np.cos(theta), np.ones(2 * n)),
            np.outer(np.sin(theta), np.sin(phi)),
        ],
        axis=-1,
    ).reshape(-1, 3)
    points = np.concatenate([ring, [[0, 1, 0], [0, -1, 0]]])
    rng = np.random.default_rng(seed)
    for _ in range(4):
        direction, frequency = rng.normal(size=3), rng.uniform(2, 6)
        points = points * (1 + height / 4 * np.sin(frequency * points @ direction)[:, None])
    index = np.arange((n - 1) * 2 * n).reshape(n - 1, 2 * n)
    right = np.roll(index, -1, axis=1)
    faces = [np.stack([index[:-1], right[:-1], index[1:]], -1), np.stack([right[:-1], right[1:], index[1:]], -1)]
    north = np.stack([np.full(2 * n, len(ring)), right[0], index[0]], -1)
    south = np.stack([np.full(2 * n, len(ring) + 1), index[-1], right[-1]], -1)
    triangles = np.concatenate([*(f.reshape(-1, 3) for f in faces), north, south])
    return make_triangles(points, triangles)


def wavy_sheet(n: int, *, islands: int = 1, materials: int = 1, seed: int = 0) -> Mesh:
    """An open sheet of 2 n² triangles with UVs cut into ``islands`` strips, and material bands across them."""
    axis = np.linspace(0, 1, n + 1)
    x, z = np.meshgrid(axis, axis, indexing="ij")
    rng = np.random.default_rng(seed)
    y = 0.08 * np.sin(rng.uniform(3, 9) * x + 2 * z) * np.cos(rng.uniform(3, 9) * z)
    points = np.stack([x, y, z], axis=-1).reshape(-1, 3)
    index = np.arange((n + 1) ** 2).reshape(n + 1, n + 1)
    quads = np.stack([index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]], axis=-1)
    row = np.repeat(np.arange(n), n)
    column = np.tile(np.arange(n), n)
    strip = row * islands // n
    uv = points[quads.reshape(-1, 4)][:, :, [0, 2]] + strip[:, None, None] * np.array([0.0, 2.0])
    return make_mesh(
        points,
        np.arange(0, 4 * n * n + 1, 4),
        quads.reshape(-1),
        face_material=column * materials // n,
        uvs=(uv.reshape(-1, 2),),
    )


def cube() -> Mesh:
    """A unit cube of six quads, closed, at the origin."""
    points = [[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)]
    quads = [[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]
    return make_mesh(np.array(points, float), np.arange(0, 25, 4), np.array(quads).reshape(-1))


def drilled_block(across: int, along: int, sides: int = 8, *, radius: float = 0.28, height: float = 0.3) -> Mesh:
    """A closed block of squares, each with a hole through it of so many sides (a multiple of four): triangles."""
    angles = (np.arange(sides) + 0.5) * 2 * np.pi / sides
    rim = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    frame = 0.5 * rim / np.abs(rim).max(axis=1, keepdims=True)
    # The frame has its corners too, so that neighbours meet.
    turns = np.arange(4) * np.pi / 2 + np.pi / 4
    corners = np.sqrt(0.5) * np.stack([np.cos(turns), np.sin(turns)], axis=1)
    places: dict[tuple[float, ...], int] = {}
    triangles: list[tuple[int, int, int]] = []

    def at(x: float, y: float, z: float) -> int:
        return places.setdefault((round(x, 9), round(z, 9), round(y, 9)), len(places))

    def quad(a: int, b: int, c: int, d: int) -> None:
        triangles.extend([(a, b, c), (a, c, d)])

    for i in range(across):
        for j in range(along):
            middle = np.array([i + 0.5, j + 0.5])
            hole, outer = middle + radius * rim, middle + frame
            for k in range(sides):
                m = (k + 1) % sides
                corner = next((middle + c for c in corners if _is_between(angles[k], angles[m], c)), None)
                for z, up in ((height, True), (0.0, False)):
                    ring = [at(*hole[k], z), at(*outer[k], z), at(*outer[m], z), at(*hole[m], z)]
                    if corner is not None:
                        tip = at(*corner, z)
                        triangles.append((ring[1], tip, ring[2]) if up else (ring[2], tip, ring[1]))
                    quad(*(ring if up else ring[::-1]))
                quad(at(*hole[k], height), at(*hole[m], height), at(*hole[m], 0.0), at(*hole[k], 0.0))
                way = [outer[k], *([] if corner is None else [corner]), outer[m]]
                for p, q in itertools.pairwise(way):
                    on_side = [
                        abs(p[axis] - q[axis]) < 1e-9 and min(abs(p[axis]), abs(p[axis] - most)) < 1e-9
                        for axis, most in ((0, across), (1, along))
                    ]
                    if any(on_side):
                        quad(at(*p, 0.0), at(*q, 0.0), at(*q, height), at(*p, height))
    # Seen from above with z up the rings run counter-clockwise; y is up here.
    return make_triangles(np.array(list(places)), np.array(triangles, np.int32)[:, ::-1].copy())


def _is_between(first: float, last: float, place: NDArray[np.float64]) -> bool:
    angle = np.arctan2(place[1], place[0]) % (2 * np.pi)
    return bool(first < angle < last)


def flat_grid(n: int) -> Mesh:
    """The unit square of the plane z = 0 as n x n quads that face +Z."""
    x, y = np.meshgrid(np.linspace(0, 1, n + 1), np.linspace(0, 1, n + 1), indexing="ij")
    index = np.arange((n + 1) ** 2).reshape(n + 1, n + 1)
    quads = np.stack([index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]], axis=-1).reshape(-1)
    points = np.stack([x.reshape(-1), y.reshape(-1), np.zeros((n + 1) ** 2)], axis=1)
    return make_mesh(points, np.arange(0, len(quads) + 1, 4), quads)


def moved(mesh: Mesh, by: tuple[float, float, float], *, scale: float = 1.0) -> Mesh:
    """The mesh scaled about the origin, then moved."""
    return replace(mesh, positions=mesh.positions * scale + np.array(by))


def join(*meshes: Mesh) -> Mesh:
    """Several meshes without attributes beside one another in one, their vertices kept apart."""
    vertices = np.cumsum([0, *(m.n_vertices for m in meshes)])
    corners = np.cumsum([0, *(m.n_corners for m in meshes)])
    return make_mesh(
        np.concatenate([m.positions for m in meshes]),
        np.concatenate([[0], *(m.face_start[1:] + c for m, c in zip(meshes, corners, strict=False))]),
        np.concatenate([m.corner_vertex + v for m, v in zip(meshes, vertices, strict=False)]),
    )


def unwelded(mesh: Mesh, faces: NDArray[np.bool_]) -> Mesh:
    """The mesh with these faces on vertices of their own; the vertices that others still use stay."""
    own = faces[mesh.corner_face()]
    kept = np.zeros(mesh.n_vertices, bool)
    kept[mesh.corner_vertex[~own]] = True
    first = np.zeros(mesh.n_corners, bool)
    first[np.unique(mesh.corner_vertex, return_index=True)[1]] = True
    stays = ~own | (first & ~kept[mesh.corner_vertex])
    fresh = np.cumsum(~stays) - 1 + mesh.n_vertices
    return replace(
        mesh,
        positions=np.concatenate([mesh.positions, mesh.positions[mesh.corner_vertex[~stays]]]),
        corner_vertex=np.where(stays, mesh.corner_vertex, fresh).astype(np.int32),
    )


def areas(mesh: Mesh) -> NDArray[np.float64]:
    """(T, 3) area vectors of a triangle mesh."""
    a, b, c = (mesh.positions[mesh.triangles()[:, k]] for k in range(3))
    return np.cross(b - a, c - a) / 2


def volume(mesh: Mesh) -> float:
    """Volume enclosed by a closed triangle mesh, negative where it is inside out."""
    first = mesh.positions[mesh.triangles()[:, 0]]
    return float(np.einsum("ij,ij->", first, areas(mesh)) / 3)


def edge_counts(triangles: NDArray[np.int32]) -> dict[tuple[int, int], int]:
    """How often each undirected edge is used, the slow and obvious way."""
    counts: dict[tuple[int, int], int] = {}
    for triangle in triangles.tolist():
        for k in range(3):
            a, b = triangle[k], triangle[(k + 1) % 3]
            counts[min(a, b), max(a, b)] = counts.get((min(a, b), max(a, b)), 0) + 1
    return counts


def make_glb(document: dict[str, Any], binary: bytes = b"") -> bytes:
    """GLB bytes from a glTF document, by hand."""
    text = json.dumps({"asset": {"version": "2.0"}, **document}).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text
    if binary:
        chunks += struct.pack("<I4s", len(binary), b"BIN\0") + binary
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def grid_polygon(sides: int, extent: int, seed: int) -> list[tuple[int, int]] | None:
    """A simple polygon on whole numbers, counter-clockwise, with many corners on straight lines; None where the tangle
    of random points could not be undone."""
    rng = np.random.default_rng(seed)
    places = rng.permutation(extent * extent)[:sides]
    points = [(int(p % extent), int(p // extent)) for p in places]
    for _ in range(60):
        moved = False
        for i in range(sides):
            for j in range(i + 2, sides - (i == 0)):
                if _touch(points[i], points[i + 1], points[j], points[(j + 1) % sides]):
                    points[i + 1 : j + 1] = points[i + 1 : j + 1][::-1]
                    moved = True
        if not moved:
            break
    if moved or any(_doubles_back(points, i) for i in range(sides)):
        return None
    area = sum(turn((0, 0), points[i - 1], points[i]) for i in range(sides))
    return None if area == 0 else points if area > 0 else points[::-1]


def turn(a: tuple[int, int], b: tuple[int, int], c: tuple[int, int]) -> int:
    """Twice the signed area of three whole-numbered points."""
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _touch(p: tuple[int, int], q: tuple[int, int], r: tuple[int, int], s: tuple[int, int]) -> bool:
    a, b, c, d = turn(p, q, r), turn(p, q, s), turn(r, s, p), turn(r, s, q)
    if a == b == c == d == 0:
        axis = 0 if p[0] != q[0] else 1
        ends = sorted((p[axis], q[axis])), sorted((r[axis], s[axis]))
        return ends[0][0] <= ends[1][1] and ends[1][0] <= ends[0][1]
    return a * b <= 0 and c * d <= 0


def _doubles_back(points: list[tuple[int, int]], i: int) -> bool:
    a, b, c = points[i - 2], points[i - 1], points[i]
    return turn(a, b, c) == 0 and (a[0] - b[0]) * (c[0] - b[0]) + (a[1] - b[1]) * (c[1] - b[1]) >= 0


def keyhole_polygon(columns: int, rows: int) -> list[tuple[int, int]]:
    """A sheet with diamond-shaped holes, each joined to the left edge or to the hole before it by a keyhole."""

    def holes(column: int, y: int) -> list[tuple[int, int]]:
        if column == columns:
            return []
        x = 10 * column + 5
        left, top, right, low = (x - 2, y), (x, y + 2), (x + 2, y), (x, y - 2)
        inner = holes(column + 1, y)
        return [left, top, right, *inner, *([right] if inner else []), low, left]

    outline = [(0, 0), (10 * columns, 0), (10 * columns, 10 * rows), (0, 10 * rows)]
    for row in reversed(range(rows)):
        y = 10 * row + 5
        outline += [(0, y), *holes(0, y), (0, y)]
    return outline
