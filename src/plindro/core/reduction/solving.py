"""Where the vertex goes that the two ends of an edge become, what its wedges carry there, and what that costs.

Each pair of wedges that become one takes, value by value, what is best for it. Where two pairs carry one value at every
end that they share, as the UVs on both sides of a hard edge within an island, they take one value together: each by
itself they would part a little more with every merge, and a texture would break along every hard edge, as shading would
along every UV seam.
"""

from plindro.core.numeric.kernels import helper, index
from plindro.core.reduction.costs import LENGTH_WEIGHT
from plindro.core.reduction.quadrics import AREA, KEPT

MIDDLE_PULL = 1e-5
"""Share of the quadric's trace with which the middle of the edge pulls: it decides along what is flat (Tikhonov)."""
REACH = 1.5
"""A merged vertex lies no further than this many lengths of the edge from its middle."""
_SAME = 2e-5
"""Values closer than this share of the diagonal are one to the eye: an exporter's rounding, a fraction of a texel."""
OFFSET, CHANGE, LEAD, STEP, SHARE = 3, 4, 5, 6, 7
ROW = 8
"""Columns of what is solved for each value of each pair: the gradient x y z and the offset of what is best for it; how
the value changes; the first pair that takes one value with it, and how far its own lies above that one's; its area."""


@helper
def _base(p, m, pairs, values):  # type: ignore[no-untyped-def]
    """The value that a pair's changes count from."""
    return values[pairs[1, p] if pairs[1, p] >= 0 else pairs[0, p], m]


@helper
def _has_met(p, pairs):  # type: ignore[no-untyped-def]
    """Whether an earlier pair goes into the same wedge."""
    found = False
    for r in range(p):
        found |= pairs[1, p] >= 0 and pairs[1, r] == pairs[1, p]
    return found


@helper
def _agree(p, r, m, pairs, values):  # type: ignore[no-untyped-def]
    """1 where two pairs carry one value at the ends that both have, -1 where not, 0 where there is no such end."""
    if pairs[1, p] >= 0 and pairs[1, p] == pairs[1, r]:
        return 1
    found = 0
    for side in range(2):
        i, j = pairs[side, p], pairs[side, r]
        if i >= 0 and j >= 0:
            if abs(values[i, m] - values[j, m]) > _SAME:
                return -1
            found = 1
    return found


@helper
def _lead_of(p, m, pairs, values, rows):  # type: ignore[no-untyped-def]
    """The first pair with which this one takes one value: itself, unless it agrees with all of an earlier one's."""
    n_values = values.shape[1]
    for lead in range(p):
        if rows[lead * n_values + m, LEAD] != lead:
            continue
        is_one = False
        for r in range(lead, p):
            if rows[r * n_values + m, LEAD] == lead:
                how = _agree(p, r, m, pairs, values)
                if how < 0:
                    is_one = False
                    break
                is_one |= how > 0
        if is_one:
            return lead
    return p


@helper
def fit_values(place, is_fixed, n_pairs, pairs, n_values, rows):  # type: ignore[no-untyped-def]
    """Let every value of every pair take what is best for it at a place; returns how much error that saves."""
    saved = 0.0
    for p in range(n_pairs):
        for m in range(n_values):
            if rows[p * n_values + m, LEAD] != p:
                continue
            area, best, above, is_held = 0.0, 0.0, 0.0, False
            for r in range(p, n_pairs):
                row = r * n_values + m
                if rows[row, LEAD] == p:
                    area += rows[row, SHARE]
                    best += rows[row, 0] * place[0] + rows[row, 1] * place[1] + rows[row, 2] * place[2]
                    best += rows[row, OFFSET]
                    if is_fixed and pairs[1, r] >= 0:
                        is_held, above = True, rows[row, STEP]
            if not is_held:
                above = best / area if area > 0.0 else 0.0
            saved += above * (2.0 * best - area * above)
            for r in range(p, n_pairs):
                if rows[r * n_values + m, LEAD] == p:
                    rows[r * n_values + m, CHANGE] = above - rows[r * n_values + m, STEP]
    return saved


@helper
def shared_value(p, m, is_fixed, n_pairs, pairs, values, rows):  # type: ignore[no-untyped-def]
    """What pair p takes together with another, to the last bit; its own where it leads, or is the only one.

    Pairs that come before it carry what they became.
    """
    n_values = values.shape[1]
    lead = index(rows[p * n_values + m, LEAD])
    held = lead
    for r in range(n_pairs):
        if is_fixed and pairs[1, r] >= 0 and rows[r * n_values + m, LEAD] == lead:
            held = r
    return _base(held, m, pairs, values)


@helper
def _eliminate(p, m, n_pairs, n_values, rows):  # type: ignore[no-untyped-def]
    """Gradient, offset and area of what pair p takes together with those that it leads; no area where another leads."""
    gx, gy, gz, d, area = 0.0, 0.0, 0.0, 0.0, 0.0
    if rows[p * n_values + m, LEAD] == p:
        for r in range(p, n_pairs):
            row = r * n_values + m
            if rows[row, LEAD] == p:
                gx += rows[row, 0]
                gy += rows[row, 1]
                gz += rows[row, 2]
                d += rows[row, OFFSET]
                area += rows[row, SHARE]
    return gx, gy, gz, d, area


@helper
def _sum_both(dies, keeps, positions, q):  # type: ignore[no-untyped-def]
    """How far the vertex that goes lies from the one that stays, negated; and the errors of both as seen from that
    one: the upper half of a matrix, a vector, and a constant."""
    dx = positions[keeps, 0] - positions[dies, 0]
    dy = positions[keeps, 1] - positions[dies, 1]
    dz = positions[keeps, 2] - positions[dies, 2]
    mx = q[dies, 0] * dx + q[dies, 1] * dy + q[dies, 2] * dz
    my = q[dies, 1] * dx + q[dies, 3] * dy + q[dies, 4] * dz
    mz = q[dies, 2] * dx + q[dies, 4] * dy + q[dies, 5] * dz
    c = (
        q[keeps, 9]
        + q[dies, 9]
        + 2.0 * (q[dies, 6] * dx + q[dies, 7] * dy + q[dies, 8] * dz)
        + mx * dx
        + my * dy
        + mz * dz
    )
    linear = (q[keeps, 6] + q[dies, 6] + mx, q[keeps, 7] + q[dies, 7] + my, q[keeps, 8] + q[dies, 8] + mz)
    xx, xy, xz = q[keeps, 0] + q[dies, 0], q[keeps, 1] + q[dies, 1], q[keeps, 2] + q[dies, 2]
    yy, yz, zz = q[keeps, 3] + q[dies, 3], q[keeps, 4] + q[dies, 4], q[keeps, 5] + q[dies, 5]
    return (dx, dy, dz), (xx, xy, xz, yy, yz, zz), linear, c


@helper
def _add_values(d, linear, c, n_pairs, pairs, wedge_quadrics, values, rows):  # type: ignore[no-untyped-def]
    """Fill ``rows``, and add to the error's vector and constant what the values of all pairs do to it."""
    dx, dy, dz = d
    bx, by, bz = linear
    n_values = values.shape[1]
    for p in range(n_pairs):
        a, b = pairs[0, p], pairs[1, p]
        adds = b >= 0 and not _has_met(p, pairs)
        area = (wedge_quadrics[a, 0] if a >= 0 else 0.0) + (wedge_quadrics[b, 0] if adds else 0.0)
        for m in range(n_values):
            at = 1 + 4 * m
            gx, gy, gz, off = 0.0, 0.0, 0.0, 0.0
            if a >= 0:
                gx, gy, gz = wedge_quadrics[a, at], wedge_quadrics[a, at + 1], wedge_quadrics[a, at + 2]
                off = gx * dx + gy * dy + gz * dz + wedge_quadrics[a, at + 3]
                if b >= 0:
                    change = values[b, m] - values[a, m]
                    c += change * (wedge_quadrics[a, 0] * change - 2.0 * off)
                    bx -= gx * change
                    by -= gy * change
                    bz -= gz * change
                    off -= wedge_quadrics[a, 0] * change
            if adds:
                gx += wedge_quadrics[b, at]
                gy += wedge_quadrics[b, at + 1]
                gz += wedge_quadrics[b, at + 2]
                off += wedge_quadrics[b, at + 3]
            lead, step = p, 0.0
            if p > 0:
                lead = _lead_of(p, m, pairs, values, rows)
                step = _base(p, m, pairs, values) - _base(lead, m, pairs, values)
                # From here it counts from the other's value.
                c += step * (area * step + 2.0 * off)
                bx += gx * step
                by += gy * step
                bz += gz * step
                off += area * step
            row = p * n_values + m
            rows[row, 0], rows[row, 1], rows[row, 2], rows[row, OFFSET] = gx, gy, gz, off
            rows[row, LEAD], rows[row, STEP], rows[row, SHARE] = lead, step, area
    return (bx, by, bz), c


@helper
def _without_values(square, linear, n_pairs, n_values, rows):  # type: ignore[no-untyped-def]
    """The system of the place alone, once every value takes what is best for it there."""
    xx, xy, xz, yy, yz, zz = square
    x, y, z = linear
    for p in range(n_pairs):
        for m in range(n_values):
            gx, gy, gz, d, area = _eliminate(p, m, n_pairs, n_values, rows)
            if area > 0.0:
                gx, gy, gz, ex, ey, ez, d = gx / area, gy / area, gz / area, gx, gy, gz, d / area
                xx -= gx * ex
                xy -= gx * ey
                xz -= gx * ez
                yy -= gy * ey
                yz -= gy * ez
                zz -= gz * ez
                x -= d * ex
                y -= d * ey
                z -= d * ez
    return (xx, xy, xz, yy, yz, zz), (x, y, z)


@helper
def _least(square, linear, d):  # type: ignore[no-untyped-def]
    """Where such a system has its least error, as far as that lies near the edge; else its middle."""
    xx, xy, xz, yy, yz, zz = square
    rx, ry, rz = linear
    dx, dy, dz = d
    pull = MIDDLE_PULL * (xx + yy + zz) + 1e-30
    xx += pull
    yy += pull
    zz += pull
    rx += 0.5 * pull * dx
    ry += 0.5 * pull * dy
    rz += 0.5 * pull * dz
    ixx, ixy, ixz = yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy
    iyy, iyz, izz = xx * zz - xz * xz, xy * xz - xx * yz, xx * yy - xy * xy
    determinant = xx * ixx + xy * ixy + xz * ixz
    x, y, z = -0.5 * dx, -0.5 * dy, -0.5 * dz
    if determinant > 0.0:
        over = -1.0 / determinant
        sx = (ixx * rx + ixy * ry + ixz * rz) * over
        sy = (ixy * rx + iyy * ry + iyz * rz) * over
        sz = (ixz * rx + iyz * ry + izz * rz) * over
        if (sx - x) ** 2 + (sy - y) ** 2 + (sz - z) ** 2 <= REACH * REACH * (dx * dx + dy * dy + dz * dz):
            x, y, z = sx, sy, sz
    return x, y, z


@helper
def solve(dies, keeps, is_fixed, n_pairs, pairs, positions, quadrics, wedge_quadrics, values, rows, place):  # type: ignore[no-untyped-def]
    """The least error of making two vertices one, at ``place``, an offset from the one that keeps its name.

    ``rows`` (pairs x K, ``ROW``) receives what is found for each value of each pair.
    """
    q, n_values = quadrics, values.shape[1]
    d, square, linear, c = _sum_both(dies, keeps, positions, q)
    linear, c = _add_values(d, linear, c, n_pairs, pairs, wedge_quadrics, values, rows)
    x, y, z = 0.0, 0.0, 0.0
    if not is_fixed:
        own_square, own_linear = _without_values(square, linear, n_pairs, n_values, rows)
        x, y, z = _least(own_square, own_linear, d)
    xx, xy, xz, yy, yz, zz = square
    bx, by, bz = linear
    error = (
        c
        + xx * x * x
        + yy * y * y
        + zz * z * z
        + 2.0 * (xy * x * y + xz * x * z + yz * y * z + bx * x + by * y + bz * z)
    )
    place[0], place[1], place[2] = x, y, z
    error -= fit_values(place, is_fixed, n_pairs, pairs, n_values, rows)
    # What was spent on keeping the volume makes no later merge cheaper.
    before = q[keeps, 9] - q[keeps, KEPT] + q[dies, 9] - q[dies, KEPT]
    length = d[0] * d[0] + d[1] * d[1] + d[2] * d[2]
    return max(error - before, 0.0) + LENGTH_WEIGHT * (q[dies, AREA] + q[keeps, AREA]) * length
