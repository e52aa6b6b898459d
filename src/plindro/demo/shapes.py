"""A small modelling kit: shapes of quads and n-gons with UVs in metres, as a modeller would hand them over."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Shape:
    """Polygons: (V, 3) points; faces as vertex lists; UVs in metres of surface, one (n, 2) a face; smoothing groups."""

    points: Points
    faces: list[list[int]]
    uvs: list[Points]
    groups: list[int]

    def moved(self, x: float = 0.0, y: float = 0.0, z: float = 0.0) -> "Shape":
        return replace(self, points=self.points + (x, y, z))

    def scaled(self, x: float, y: float | None = None, z: float | None = None) -> "Shape":
        return replace(self, points=self.points * (x, x if y is None else y, x if z is None else z))

    def turned(self, axis: str, degrees: float) -> "Shape":
        """Turned about x, y or z through the origin, counter-clockwise seen against the axis."""
        c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
        i, j = {"x": (1, 2), "y": (2, 0), "z": (0, 1)}[axis]
        matrix = np.eye(3)
        matrix[i, i], matrix[i, j], matrix[j, i], matrix[j, j] = c, -s, s, c
        return replace(self, points=self.points @ matrix.T)

    def bent(self, warp: Callable[[Points], Points]) -> "Shape":
        return replace(self, points=warp(self.points))

    def flipped(self) -> "Shape":
        """Inside out."""
        return replace(self, faces=[f[::-1] for f in self.faces], uvs=[uv[::-1] for uv in self.uvs])

    def __add__(self, other: "Shape") -> "Shape":
        shift = len(self.points)
        return Shape(
            np.concatenate([self.points, other.points]),
            self.faces + [[v + shift for v in face] for face in other.faces],
            self.uvs + other.uvs,
            self.groups + other.groups,
        )


def joined(shapes: Sequence[Shape]) -> Shape:
    """All shapes as one."""
    result = shapes[0]
    for shape in shapes[1:]:
        result = result + shape
    return result


def around(shape: Shape, count: int, axis: str = "y") -> Shape:
    """Copies of a shape turned evenly about an axis."""
    return joined([shape.turned(axis, 360.0 * i / count) for i in range(count)])


def grid(rows: NDArray[np.float64], *, close: bool, lengths: tuple[Points, Points], group: int = 1) -> Shape:
    """Quads over (R, C, 3) points; ``close`` joins the last column to the first; ``lengths``: v a row, u a column."""
    n_rows, n_columns = rows.shape[:2]
    v, u = lengths
    faces, uvs = [], []
    for i in range(n_rows - 1):
        for j in range(n_columns if close else n_columns - 1):
            k = (j + 1) % n_columns
            faces.append([i * n_columns + j, i * n_columns + k, (i + 1) * n_columns + k, (i + 1) * n_columns + j])
            uvs.append(np.array([[u[j], v[i]], [u[j + 1], v[i]], [u[j + 1], v[i + 1]], [u[j], v[i + 1]]]))
    return Shape(rows.reshape(-1, 3), faces, uvs, [group] * len(faces))


def _arc_lengths(points: Points) -> Points:
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    return np.concatenate([[0.0], np.cumsum(steps)])


def lathe(profile: Sequence[tuple[float, float]], sides: int, *, group: int = 1, creases: float = 50.0) -> Shape:
    """Turn a profile of (radius, height), bottom to top on its outside, about y.

    Ends on the axis are closed by fans, other open ends stay open. Where the profile bends by more than ``creases``
    degrees the smoothing group changes.
    """
    outline = np.array(profile, float)
    outline[np.abs(outline[:, 0]) < 1e-9, 0] = 0.0
    angles = np.arange(sides) * 2 * np.pi / sides
    ring = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    lengths = _arc_lengths(outline)
    widest = outline[:, 0].max()
    columns = np.linspace(0, 2 * np.pi * widest, sides + 1)
    points: list[Points] = []
    starts: list[int] = []
    count = 0
    for radius, height in outline:
        starts.append(count)
        flat = ring[:1] * 0 if radius == 0 else ring * radius
        points.append(np.stack([flat[:, 0], np.full(len(flat), height), -flat[:, 1]], axis=1))
        count += len(flat)
    faces, uvs, groups = [], [], []
    current = group
    for i in range(len(outline) - 1):
        if i:
            before, after = outline[i] - outline[i - 1], outline[i + 1] - outline[i]
            bend = np.degrees(
                np.arccos(np.clip(before @ after / np.linalg.norm(before) / np.linalg.norm(after), -1, 1))
            )
            current += bend > creases
        low_tip, high_tip = outline[i, 0] == 0, outline[i + 1, 0] == 0
        for j in range(sides):
            k = (j + 1) % sides
            a, b = starts[i] + (0 if low_tip else j), starts[i] + (0 if low_tip else k)
            c, d = starts[i + 1] + (0 if high_tip else k), starts[i + 1] + (0 if high_tip else j)
            u0, u1, v0, v1 = columns[j], columns[j + 1], lengths[i], lengths[i + 1]
            corners = [(a, u0, v0), (b, u1, v0), (c, u1, v1), (d, u0, v1)]
            if low_tip:
                corners = [(a, (u0 + u1) / 2, v0), corners[2], corners[3]]
            elif high_tip:
                corners = [corners[0], corners[1], (c, (u0 + u1) / 2, v1)]
            faces.append([corner[0] for corner in corners])
            uvs.append(np.array([corner[1:] for corner in corners]))
            groups.append(current)
    return Shape(np.concatenate(points), faces, uvs, groups)


def disc(radius: float, sides: int, *, up: bool = True, group: int = 9) -> Shape:
    """One n-gon in the plane y = 0."""
    angles = np.arange(sides) * 2 * np.pi / sides
    points = np.stack([radius * np.cos(angles), np.zeros(sides), -radius * np.sin(angles)], axis=1)
    shape = Shape(points, [list(range(sides))], [points[:, [0, 2]] + radius], [group])
    return shape if up else shape.flipped()


def frames(path: Points, *, closed: bool = False) -> tuple[Points, Points]:
    """Two unit vectors across a path at each point, turning as little as possible along it."""
    if closed:
        tangent = np.roll(path, -1, axis=0) - np.roll(path, 1, axis=0)
    else:
        tangent = np.gradient(path, axis=0)
    tangent /= np.linalg.norm(tangent, axis=1, keepdims=True)
    start = np.eye(3)[np.abs(tangent[0]).argmin()]
    side = start - tangent[0] * (start @ tangent[0])
    sides = []
    for t in tangent:
        side = side - t * (side @ t)
        side = side / np.linalg.norm(side)
        sides.append(side)
    first = np.array(sides)
    return first, np.cross(tangent, first)


def tube(
    path: Points, radius: float | Points, sides: int, *, closed: bool = False, caps: bool = True, twist: float = 0.0,
    lobes: int = 0, depth: float = 0.0, group: int = 1,
) -> Shape:  # fmt: skip
    """A tube along a path. ``lobes`` strands of ``depth`` (share of the radius) twisted ``twist`` turns make a rope."""
    path = np.asarray(path, float)
    across, other = frames(path, closed=closed)
    lengths = _arc_lengths(np.concatenate([path, path[:1]]) if closed else path)
    radii = np.broadcast_to(np.asarray(radius, float), len(path))
    angles = -np.arange(sides) * 2 * np.pi / sides
    rings = []
    for i in range(len(path)):
        turn = twist * 2 * np.pi * lengths[i] / max(lengths[-1], 1e-9)
        bump = 1.0 - depth * (0.5 + 0.5 * np.cos(lobes * (angles - turn))) if lobes else np.ones(sides)
        circle = np.cos(angles)[:, None] * across[i] + np.sin(angles)[:, None] * other[i]
        rings.append(path[i] + radii[i] * bump[:, None] * circle)
    if closed:
        rings.append(rings[0])
    u = np.linspace(0, 2 * np.pi * radii.max(), sides + 1)
    # Rings run clockwise along the path, so that quads face outwards.
    shape = grid(np.array(rings)[:, ::-1], close=True, lengths=(lengths, u), group=group)
    if closed:
        last = (len(rings) - 1) * sides
        faces = [[v - last if v >= last else v for v in face] for face in shape.faces]
        return replace(shape, points=shape.points[:last], faces=faces)
    if caps:
        flat = np.stack([np.cos(angles), np.sin(angles)], axis=1)[::-1] * radii.max()
        n = len(shape.points)
        shape = replace(
            shape,
            faces=[*shape.faces, list(range(sides))[::-1], list(range(n - sides, n))],
            uvs=[*shape.uvs, flat[::-1], flat],
            groups=[*shape.groups, group + 1, group + 2],
        )
    return shape


def prism(outline: Sequence[tuple[float, float]] | Points, depth: float, *, group: int = 1) -> Shape:
    """An outline in x and y, counter-clockwise, drawn along z about the middle; its two faces are n-gons."""
    flat = np.array(outline, float)
    n = len(flat)
    front = np.concatenate([flat, np.full((n, 1), depth / 2)], axis=1)
    back = np.concatenate([flat, np.full((n, 1), -depth / 2)], axis=1)
    lengths = _arc_lengths(np.concatenate([flat, flat[:1]]))
    faces = [list(range(n)), list(range(n, 2 * n))[::-1]]
    uvs = [flat, flat[::-1]]
    groups = [group, group + 1]
    for i in range(n):
        j = (i + 1) % n
        faces.append([n + i, n + j, j, i])
        u0, u1 = lengths[i], lengths[i + 1]
        uvs.append(np.array([[u0, 0], [u1, 0], [u1, depth], [u0, depth]]))
        groups.append(0)
    return Shape(np.concatenate([front, back]), faces, uvs, groups)


def box(x: float, y: float, z: float, bevel: float = 0.0) -> Shape:
    """A box about the origin, its edges cut off by ``bevel``."""
    if bevel <= 0:
        return prism([(-x / 2, -y / 2), (x / 2, -y / 2), (x / 2, y / 2), (-x / 2, y / 2)], z)
    half = np.array([x, y, z]) / 2
    points: list[Points] = []
    index: dict[tuple[int, int, int, int], int] = {}
    for sx in (-1, 1):
        for sy in (-1, 1):
            for sz in (-1, 1):
                for axis in range(3):
                    point = (half - bevel) * (sx, sy, sz)
                    point[axis] = half[axis] * (sx, sy, sz)[axis]
                    index[sx, sy, sz, axis] = len(points)
                    points.append(point)
    faces: list[list[int]] = []
    signs = (-1, 1)
    for axis in range(3):
        i, j = (axis + 1) % 3, (axis + 2) % 3
        for s in signs:
            loop = []
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                corner = [0, 0, 0]
                corner[axis], corner[i], corner[j] = s, a, b
                loop.append(index[corner[0], corner[1], corner[2], axis])
            faces.append(loop if s > 0 else loop[::-1])
        for a in signs:
            for b in signs:
                ends = []
                for s in signs:
                    corner = [0, 0, 0]
                    corner[axis], corner[i], corner[j] = s, a, b
                    ends.append((index[corner[0], corner[1], corner[2], i], index[corner[0], corner[1], corner[2], j]))
                faces.append([ends[0][0], ends[1][0], ends[1][1], ends[0][1]])
    faces += [[index[sx, sy, sz, axis] for axis in range(3)] for sx in signs for sy in signs for sz in signs]
    cloud = np.array(points)
    oriented, uvs, groups = [], [], []
    for k, face in enumerate(faces):
        corners = cloud[face]
        normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        if normal @ corners.mean(axis=0) < 0:
            face, corners = face[::-1], corners[::-1]  # noqa: PLW2901
        main = int(np.abs(normal).argmax())
        oriented.append(face)
        uvs.append(corners[:, [(main + 1) % 3, (main + 2) % 3]] + half.max())
        groups.append(1 + k)
    return Shape(cloud, oriented, uvs, groups)


def bolt(radius: float, height: float) -> Shape:
    """A hexagonal head standing on y = 0."""
    r, h = radius, height
    washer = lathe([(r * 1.3, 0.0), (r * 1.3, h * 0.2)], 16)
    head = lathe([(r, h * 0.2), (r, h * 0.85), (r * 0.85, h)], 6, creases=10)
    return washer + head + disc(r * 0.85, 6).moved(y=h)


def arc(radius: float, start: float, end: float, steps: int, plane: str = "xy") -> Points:
    """Points on a circle from ``start`` to ``end`` degrees."""
    angles = np.radians(np.linspace(start, end, steps))
    a, b, zero = radius * np.cos(angles), radius * np.sin(angles), np.zeros(steps)
    return np.stack({"xy": [a, b, zero], "xz": [a, zero, b], "yz": [zero, a, b]}[plane], axis=1)


def smooth_path(points: Sequence[tuple[float, float, float]], steps: int) -> Points:
    """A curve through points (Catmull-Rom), ``steps`` samples a span."""
    p = np.array(points, float)
    p = np.concatenate([2 * p[:1] - p[1:2], p, 2 * p[-1:] - p[-2:-1]])
    t = np.linspace(0, 1, steps, endpoint=False)[:, None]
    spans = []
    for i in range(1, len(p) - 2):
        a, b, c, d = p[i - 1 : i + 3]
        spans.append(0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3))
    return np.concatenate([*spans, p[-2:-1]])


def shelved(shapes: Sequence[Shape], width: float, gap: float) -> list[Shape]:
    """Shapes whose UVs lie side by side, in rows of at most ``width`` metres, ``gap`` metres apart."""
    placed, x, y, row = [], gap, gap, 0.0
    for shape in shapes:
        every = np.concatenate(shape.uvs)
        low, size = every.min(axis=0), np.ptp(every, axis=0)
        if x + size[0] > width and x > gap:
            x, y, row = gap, y + row + gap, 0.0
        placed.append(replace(shape, uvs=[uv - low + (x, y) for uv in shape.uvs]))
        x, row = x + size[0] + gap, max(row, float(size[1]))
    return placed


@dataclass(slots=True)
class Model:
    """A source to be: named objects, each a shape in one material."""

    name: str
    objects: list[tuple[str, str, Shape]] = field(default_factory=list)

    def add(self, name: str, material: str, shape: Shape) -> None:
        self.objects.append((name, material, shape))
