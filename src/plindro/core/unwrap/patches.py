"""What of a large chart a small one that joins it can reach: the rest stays as it lies."""

from plindro.core.numeric.kernels import index, kernel


@kernel
def gather_near(sides, twin, glued, most, mark, stamp, near):  # type: ignore[no-untyped-def]
    """Into ``near`` the triangles at some sides of a chart, and around them up to ``most`` in all; returns how many.

    ``mark`` (T,) becomes ``stamp`` for those.
    """
    count = index(0)
    for side in sides:
        t = side // 3
        if mark[t] != stamp:
            mark[t] = stamp
            near[count] = t
            count += 1
    at = 0
    while at < count < most:
        for k in range(3):
            side = 3 * near[at] + k
            if not glued[side]:
                continue
            t = twin[side] // 3
            if mark[t] != stamp:
                mark[t] = stamp
                near[count] = t
                count += 1
        at += 1
    return count


@kernel
def gather_others(chart, uv, low, high, mark, stamp, others):  # type: ignore[no-untyped-def]
    """Into ``others`` the triangles of a chart not marked ``stamp`` that reach into a box; returns how many."""
    count = index(0)
    for t in chart:
        if mark[t] == stamp:
            continue
        x0, x1 = min(uv[t, 0, 0], uv[t, 1, 0], uv[t, 2, 0]), max(uv[t, 0, 0], uv[t, 1, 0], uv[t, 2, 0])
        y0, y1 = min(uv[t, 0, 1], uv[t, 1, 1], uv[t, 2, 1]), max(uv[t, 0, 1], uv[t, 1, 1], uv[t, 2, 1])
        if x0 < high[0] and x1 > low[0] and y0 < high[1] and y1 > low[1]:
            others[count] = t
            count += 1
    return count
