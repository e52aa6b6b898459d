"""Convex pieces of triangles: what lies on either side of a line, or within a square, and how large it is."""

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
def split(at, count, ax, ay, bx, by, left, right):  # type: ignore[no-untyped-def]
    """Part a convex piece along the line from a to b; returns the corners of what is left and right of it.

    As ``keep_side`` twice, in half the time: what lies on the line belongs to both.
    """
    n, m = 0, 0
    ex, ey = bx - ax, by - ay
    px, py = at[0, 0], at[0, 1]
    s = ex * (py - ay) - ey * (px - ax)
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        qx, qy = at[j, 0], at[j, 1]
        t = ex * (qy - ay) - ey * (qx - ax)
        if s >= 0.0 and n < len(left):
            left[n, 0], left[n, 1] = px, py
            n += 1
        if s <= 0.0 and m < len(right):
            right[m, 0], right[m, 1] = px, py
            m += 1
        if (s > 0.0 and t < 0.0) or (s < 0.0 and t > 0.0):
            f = s / (s - t)
            x, y = px + f * (qx - px), py + f * (qy - py)
            if n < len(left):
                left[n, 0], left[n, 1] = x, y
                n += 1
            if m < len(right):
                right[m, 0], right[m, 1] = x, y
                m += 1
        px, py, s = qx, qy, t
    return n, m


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
