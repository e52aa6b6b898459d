"""Symmetric positive systems of edges that pull, solved by elimination within an envelope.

Vertices are ordered by the reverse of Cuthill and McKee's order (George 1971), so that each has neighbours shortly
before and after it only. What elimination fills then lies between a vertex and the last one that it, or one before it,
is tied to: a front as wide as the graph is across. For a piece of surface that is about the root of its vertices, so
that a system of hundreds costs little more than looking at it a few dozen times, and solving it again next to nothing.
"""

from typing import NamedTuple

import numpy as np

from plindro.core.mesh.mesh import F64, I64
from plindro.core.numeric.kernels import helper, index

WIDE = 4
"""Places that are eliminated together, as a panel whose columns reach equally far."""
_HELD, _NOT_YET = -1, -2
"""Places of vertices that are not part of the system, and of those that have none yet."""
_LEAST_PIVOT = 1e-10
"""Share of a vertex's own stiffness that is left when it is eliminated, below which it hangs on nothing."""


class Envelope(NamedTuple):
    """What a system is eliminated in, for up to N vertices, E edges and M numbers; made once.

    ``begin`` (N + 1,) and ``near`` (2 E,) the neighbours of each vertex; ``order`` (N,) the vertices as they are
    eliminated, ``place`` (N,) of each in it, below 0 where it is held; ``panel`` (N / 4 + 2,) where in ``values`` (M,)
    four columns of the factors begin, one after the other, from the first of their places on; ``right`` (2, N + 4)
    right sides, by place.
    """

    begin: I64
    near: I64
    order: I64
    place: I64
    panel: I64
    values: F64
    right: F64


def new_envelope(n_vertices: int, n_edges: int, n_values: int) -> Envelope:
    order, place = np.empty((2, n_vertices), np.int64)
    return Envelope(
        np.empty(n_vertices + 1, np.int64), np.empty(2 * n_edges, np.int64), order, place,
        np.empty(n_vertices // WIDE + 2, np.int64), np.empty(n_values), np.empty((2, n_vertices + WIDE)),
    )  # fmt: skip


@helper
def _gather_neighbours(ends, n_edges, count, envelope):  # type: ignore[no-untyped-def]
    begin, near = envelope.begin, envelope.near
    for v in range(count + 1):
        begin[v] = 0
    for e in range(n_edges):
        begin[ends[e, 0]] += 1
        begin[ends[e, 1]] += 1
    total = index(0)
    for v in range(count):
        total += begin[v]
        begin[v] = total
    begin[count] = total
    for e in range(n_edges):
        for k in range(2):
            v = ends[e, k]
            begin[v] -= 1
            near[begin[v]] = ends[e, 1 - k]


@helper
def _spread(root, first, envelope):  # type: ignore[no-untyped-def]
    """From place ``first`` on the vertices around a root, ring by ring, those with fewer neighbours first; returns the
    place behind them. Only those that have no place yet are taken."""
    begin, near, order, place = envelope.begin, envelope.near, envelope.order, envelope.place
    order[first], place[root] = root, first
    done, last = first, first + 1
    while done < last:
        v = order[done]
        done += 1
        born = last
        for i in range(begin[v], begin[v + 1]):
            u = near[i]
            if place[u] != _NOT_YET:
                continue
            place[u] = 0
            degree = begin[u + 1] - begin[u]
            j = last
            while j > born and begin[order[j - 1] + 1] - begin[order[j - 1]] > degree:
                order[j] = order[j - 1]
                j -= 1
            order[j] = u
            last += 1
    return last


@helper
def _order(held, count, envelope):  # type: ignore[no-untyped-def]
    """Fill ``order`` and ``place``; returns how many vertices are not held."""
    order, place = envelope.order, envelope.place
    for v in range(count):
        place[v] = _HELD if held[v] else _NOT_YET
    n = index(0)
    for v in range(count):
        if place[v] != _NOT_YET:
            continue
        # The last one from anywhere lies at an end.
        last = _spread(v, n, envelope)
        far = order[last - 1]
        for i in range(n, last):
            place[order[i]] = _NOT_YET
        n = _spread(far, n, envelope)
    for i in range(n // 2):
        order[i], order[n - 1 - i] = order[n - 1 - i], order[i]
    for i in range(n):
        place[order[i]] = i
    return n


@helper
def _lay_out(n, envelope):  # type: ignore[no-untyped-def]
    """Fill ``panel``; returns how many numbers that takes."""
    begin, near, order, place, panel = envelope.begin, envelope.near, envelope.order, envelope.place, envelope.panel
    total, reach, n_panels = index(0), index(0), (n + WIDE - 1) // WIDE
    for q in range(n_panels):
        reach = max(reach, WIDE * (q + 1) - 1)
        for i in range(WIDE * q, min(WIDE * (q + 1), n)):
            v = order[i]
            for k in range(begin[v], begin[v + 1]):
                reach = max(reach, place[near[k]])
        panel[q] = total
        total += WIDE * (reach - WIDE * q + 1)
    panel[n_panels] = total
    return total


@helper
def order_within(ends, n_edges, held, count, envelope):  # type: ignore[no-untyped-def]
    """Order the vertices that are not ``held`` (V,) of edges (E, 2); returns how many they are, and how many numbers
    their envelope takes."""
    _gather_neighbours(ends, n_edges, count, envelope)
    n = _order(held, count, envelope)
    return n, _lay_out(n, envelope)


@helper
def _at(row, place, panel):  # type: ignore[no-untyped-def]
    """Where the number of a row and of an earlier place, or the same, lies."""
    q = place // WIDE
    return panel[q] + (place - WIDE * q) * ((panel[q + 1] - panel[q]) // WIDE) + row - WIDE * q


@helper
def _fill(ends, stiffness, n_edges, n, envelope):  # type: ignore[no-untyped-def]
    place, panel, values, own = envelope.place, envelope.panel, envelope.values, envelope.right[0]
    n_panels = (n + WIDE - 1) // WIDE
    for i in range(panel[n_panels]):
        values[i] = 0.0
    for i in range(WIDE * n_panels):
        own[i] = 0.0
    for e in range(n_edges):
        if ends[e, 0] == ends[e, 1]:
            continue
        a, b, w = place[ends[e, 0]], place[ends[e, 1]], stiffness[e]
        if a >= 0:
            own[a] += w
        if b >= 0:
            own[b] += w
        if a >= 0 and b >= 0:
            values[_at(max(a, b), min(a, b), panel)] -= w
    for i in range(WIDE * n_panels):
        values[_at(i, i, panel)] = own[i]


@helper
def _take_one_off(into, factor, column):  # type: ignore[no-untyped-def]
    for k in range(len(into)):
        into[k] -= factor * column[k]


@helper
def _take_off(into, f0, f1, f2, f3, columns, high, begin):  # type: ignore[no-untyped-def]
    """Take the four columns of a panel from row ``begin`` on, so many times each, off another."""
    c0, c1 = columns[begin:high], columns[high + begin : 2 * high]
    c2, c3 = columns[2 * high + begin : 3 * high], columns[3 * high + begin :]
    for k in range(len(into)):
        into[k] -= f0 * c0[k] + f1 * c1[k] + f2 * c2[k] + f3 * c3[k]


@helper
def _eliminate_own(columns, high, own):  # type: ignore[no-untyped-def]
    """Eliminate the places of a panel one after the other from its own columns; one over each pivot takes its place."""
    for a in range(WIDE):
        pivot = columns[a * high + a]
        if not pivot > _LEAST_PIVOT * own[a]:
            pivot = max(own[a], 1.0)
        columns[a * high + a] = 1.0 / pivot
        for b in range(a + 1, WIDE):
            factor = columns[a * high + b] / pivot
            _take_one_off(columns[b * high + b : (b + 1) * high], factor, columns[a * high + b : (a + 1) * high])


@helper
def eliminate(ends, stiffness, n_edges, n, envelope):  # type: ignore[no-untyped-def]
    """Let ``values`` be the factors of the system of edges (E, 2) that pull with ``stiffness`` (E,): L D Lᵀ.

    What hangs on nothing is free to be anywhere: its last vertex stays where it is.
    """
    _fill(ends, stiffness, n_edges, n, envelope)
    panel, values, own = envelope.panel, envelope.values, envelope.right[0]
    for q in range((n + WIDE - 1) // WIDE):
        columns, at = values[panel[q] : panel[q + 1]], WIDE * q
        high = len(columns) // WIDE
        _eliminate_own(columns, high, own[at : at + WIDE])
        d0, d1, d2, d3 = columns[0], columns[high + 1], columns[2 * high + 2], columns[3 * high + 3]
        for j in range(WIDE, high):
            into = _at(at + j, at + j, panel)
            _take_off(
                values[into : into + high - j], d0 * columns[j], d1 * columns[high + j], d2 * columns[2 * high + j],
                d3 * columns[3 * high + j], columns, high, j,
            )  # fmt: skip
        for a in range(WIDE):
            over, column = columns[a * high + a], columns[a * high + a + 1 : (a + 1) * high]
            for k in range(len(column)):
                column[k] *= over


@helper
def _take_forward(columns, high, right):  # type: ignore[no-untyped-def]
    """Take what a panel's places are off what lies below them."""
    for a in range(WIDE):
        for b in range(a + 1, WIDE):
            right[b] -= columns[a * high + b] * right[a]
    _take_off(right[WIDE:high], right[0], right[1], right[2], right[3], columns, high, WIDE)


@helper
def _take_back(columns, high, right):  # type: ignore[no-untyped-def]
    """Find a panel's places by what lies below them."""
    c0, c1 = columns[WIDE:high], columns[high + WIDE : 2 * high]
    c2, c3 = columns[2 * high + WIDE : 3 * high], columns[3 * high + WIDE :]
    below = right[WIDE:high]
    w, x, y, z = 0.0, 0.0, 0.0, 0.0
    for k in range(len(below)):
        w += c0[k] * below[k]
        x += c1[k] * below[k]
        y += c2[k] * below[k]
        z += c3[k] * below[k]
    for a in range(WIDE - 1, -1, -1):
        rest = (w, x, y, z)[a]
        for b in range(a + 1, WIDE):
            rest += columns[a * high + b] * right[b]
        right[a] = right[a] * columns[a * high + a] - rest


@helper
def solve_within(n, envelope):  # type: ignore[no-untyped-def]
    """Solve the system that was eliminated for both of ``right`` (2, n), in place."""
    panel, values = envelope.panel, envelope.values
    n_panels = (n + WIDE - 1) // WIDE
    for c in range(2):
        right = envelope.right[c]
        for i in range(n, WIDE * n_panels):
            right[i] = 0.0
        for q in range(n_panels):
            columns = values[panel[q] : panel[q + 1]]
            _take_forward(columns, len(columns) // WIDE, right[WIDE * q :])
        for q in range(n_panels - 1, -1, -1):
            columns = values[panel[q] : panel[q + 1]]
            _take_back(columns, len(columns) // WIDE, right[WIDE * q :])
