"""Two charts laid flat as one: hinged where the seam between them fits, else relaxed together."""

import numpy as np

from plindro.core.numeric.kernels import helper, kernel
from plindro.core.unwrap.distortion import find_distortion
from plindro.core.unwrap.relaxing import relax
from plindro.core.unwrap.room import number_corners
from plindro.core.unwrap.stiffness import NO_SYSTEM

_FITS = 1e-4
"""How far, against its length, a seam may gape where charts are hinged along it without being relaxed."""
_FIRST_TURNS, _HOPELESS = 2, 2.0
"""How often a union is relaxed at first, and how many times more than it may it may be bent then to go on."""
FITTED, RELAXED, BENT = 0, 1, 2


@helper
def _side_ends(uv, side):  # type: ignore[no-untyped-def]
    t, k = side // 3, side % 3
    j = (k + 1) % 3
    return uv[t, k, 0], uv[t, k, 1], uv[t, j, 0], uv[t, j, 1]


@helper
def _hinge(run, twin, lengths, uv, out):  # type: ignore[no-untyped-def]
    """The turn and shift that bring the far side of a run of sides onto the near one: cosine, sine, x, y; then how
    far it gapes at most, and its length."""
    total, ax, ay, bx, by = 0.0, 0.0, 0.0, 0.0, 0.0
    for side in run:
        w = lengths[side]
        x, y, u, v = _side_ends(uv, side)
        p, q, r, s = _side_ends(uv, twin[side])
        total += 2.0 * w
        ax += w * (x + u)
        ay += w * (y + v)
        bx += w * (p + r)
        by += w * (q + s)
    ax, ay, bx, by = ax / total, ay / total, bx / total, by / total
    cosine, sine = 0.0, 0.0
    for side in run:
        w = lengths[side]
        x, y, u, v = _side_ends(uv, side)
        # The far side runs the other way.
        r, s, p, q = _side_ends(uv, twin[side])
        cosine += w * ((p - bx) * (x - ax) + (q - by) * (y - ay) + (r - bx) * (u - ax) + (s - by) * (v - ay))
        sine += w * ((p - bx) * (y - ay) - (q - by) * (x - ax) + (r - bx) * (v - ay) - (s - by) * (u - ax))
    length = np.sqrt(cosine * cosine + sine * sine)
    cosine, sine = (cosine / length, sine / length) if length > 0.0 else (1.0, 0.0)
    out[0], out[1] = cosine, sine
    out[2], out[3] = ax - (cosine * bx - sine * by), ay - (sine * bx + cosine * by)
    out[4], out[5] = 0.0, 0.5 * total
    for side in run:
        x, y, u, v = _side_ends(uv, side)
        r, s, p, q = _side_ends(uv, twin[side])
        out[4] = max(out[4], _gap(x, y, p, q, out), _gap(u, v, r, s, out))


@helper
def _gap(x, y, p, q, out):  # type: ignore[no-untyped-def]
    dx = out[0] * p - out[1] * q + out[2] - x
    dy = out[1] * p + out[0] * q + out[3] - y
    return np.sqrt(dx * dx + dy * dy)


@kernel
def gape_along(run, twin, lengths, uv, out):  # type: ignore[no-untyped-def]
    """How far two charts gape, against its length, where they are hinged along a run of sides."""
    _hinge(run, twin, lengths, uv, out)
    return out[4] / out[5]


@helper
def _bend(out):  # type: ignore[no-untyped-def]
    """How far what ``find_distortion`` looked at is bent: what its L2, squared, has over one, times its area."""
    return out[1] / out[0] * out[2] - out[0]


@kernel
def try_join(  # type: ignore[no-untyped-def]
    union,
    n_first,
    run,
    shared,
    twin,
    glued,
    cotangents,
    flat,
    areas,
    lengths,
    turns,
    bent,
    most_bent,
    room,
    uv,
    joined,
    out,
):
    """Lay the union of two charts flat, into ``joined`` (N, 3, 2).

    ``union`` the triangles of the first, or those around the seam while the others stay, then of the second; ``run``
    sides of the first to glue, ``shared`` all it shares with the second: those that come to lie on each other are glued
    too. Those of the run stay glued, and it is for the caller to undo where the union is not taken. ``bent`` is how far
    both are bent as they lie, ``most_bent`` how far their union may be: one far beyond that at first is refused.
    ``out`` as ``find_distortion``, then as ``_hinge`` from 5 on.
    """
    _hinge(run, twin, lengths, uv, out[5:])
    cosine, sine, x0, y0, gape, length = out[5], out[6], out[7], out[8], out[9], out[10]
    fits = gape <= _FITS * length
    for side in run:
        glued[side] = True
        glued[twin[side]] = True
    for side in shared:
        x, y, u, v = _side_ends(uv, side)
        r, s, p, q = _side_ends(uv, twin[side])
        near = 2.0 * _FITS * lengths[side]
        if _gap(x, y, p, q, out[5:]) <= near and _gap(u, v, r, s, out[5:]) <= near:
            glued[side] = True
            glued[twin[side]] = True
    count = number_corners(union, twin, glued, room)
    for v in range(count):
        room.weight[v] = 0.0
        room.xy[v, 0], room.xy[v, 1] = 0.0, 0.0
    for i in range(len(union)):
        for k in range(3):
            x, y = uv[union[i], k, 0], uv[union[i], k, 1]
            if i >= n_first:
                x, y = cosine * x - sine * y + x0, sine * x + cosine * y + y0
            v = room.local[3 * i + k]
            if i >= n_first and room.held[v]:
                continue
            room.xy[v, 0] += x
            room.xy[v, 1] += y
            room.weight[v] += 1.0
    for v in range(count):
        room.xy[v, 0] /= room.weight[v]
        room.xy[v, 1] /= room.weight[v]
    if not fits:
        system = relax(union, twin, glued, cotangents, flat, count, _FIRST_TURNS, NO_SYSTEM, room)
        find_distortion(union, flat, areas, room, out)
        if out[4] > 0.0 and _bend(out) - bent > _HOPELESS * (most_bent - bent):
            return BENT
        relax(union, twin, glued, cotangents, flat, count, turns, system, room)
    find_distortion(union, flat, areas, room, out)
    for i in range(len(union)):
        for k in range(3):
            v = room.local[3 * i + k]
            joined[i, k, 0], joined[i, k, 1] = room.xy[v, 0], room.xy[v, 1]
    return FITTED if fits else RELAXED
