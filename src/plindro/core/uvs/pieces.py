"""Convex pieces of triangles: what lies on one side of a line, or within a square, and how large it is."""

from plindro.core.numeric.kernels import helper


@helper
def keep_side(at, count, ax, ay, bx, by, side, out):  # type: ignore[no-untyped-def]
    """The part of a convex piece on one side of the line from a to b (1: left, -1: right); returns its corners."""
    n = 0
    for i in range(count):
        px, py = at[i, 0], at[i, 1]
        j = i + 1 if i + 1 < count else 0
        qx, qy = at[j, 0], at[j, 1]
        s = side * ((bx - ax) * (py - ay) - (by - ay) * (px - ax))
        t = side * ((bx - ax) * (qy - ay) - (by - ay) * (qx - ax))
        if s >= 0.0 and n < len(out):
            out[n, 0], out[n, 1] = px, py
            n += 1
        if ((s > 0.0 and t < 0.0) or (s < 0.0 and t > 0.0)) and n < len(out):
            f = s / (s - t)
            out[n, 0], out[n, 1] = px + f * (qx - px), py + f * (qy - py)
            n += 1
    return n


@helper
def cut_to_square(at, count, u, v, spare):  # type: ignore[no-untyped-def]
    """Cut a piece to the square at u, v, in place; returns its corners. ``spare`` (2, corners, 2) is scratch."""
    count = keep_side(at, count, u, v, u + 1.0, v, 1.0, spare[0])
    count = keep_side(spare[0], count, u + 1.0, v, u + 1.0, v + 1.0, 1.0, spare[1])
    count = keep_side(spare[1], count, u + 1.0, v + 1.0, u, v + 1.0, 1.0, spare[0])
    return keep_side(spare[0], count, u, v + 1.0, u, v, 1.0, at)


@helper
def put_triangle(corners, t, at):  # type: ignore[no-untyped-def]
    """Let a piece be triangle t."""
    for k in range(3):
        at[k, 0], at[k, 1] = corners[t, k, 0], corners[t, k, 1]


@helper
def piece_area(at, count):  # type: ignore[no-untyped-def]
    area = 0.0
    for i in range(1, count - 1):
        area += (at[i, 0] - at[0, 0]) * (at[i + 1, 1] - at[0, 1]) - (at[i, 1] - at[0, 1]) * (at[i + 1, 0] - at[0, 0])
    return abs(0.5 * area)
