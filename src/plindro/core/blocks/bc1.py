"""BC1: two colours of 5, 6 and 5 bits a block, and for each pixel which of four mixes of them it has.

The line through the colours is the covariance's longest axis (power iteration). Its ends are quantised; pixels take the
nearest mix; for those choices the two colours of least squared error are the solution of two equations a channel, and
the best quantised ones lie around it. That repeats until it no longer gains. At ``best`` the choices themselves are
sought first: all ways to cut the pixels, sorted along the axis, into runs (cluster fit, Simon Brown 2006).

Pixels that are cut out need the other kind of block, of two colours, their mean and nothing.
"""

import numpy as np

from plindro.core.blocks.effort import BEST, FAST
from plindro.core.blocks.pixels import power_axis, product, row_product, spread
from plindro.core.numeric.kernels import helper, index, inner
from plindro.core.numeric.lanes import HUGE, f32, grid, largest, least, stack, total

_HALF = np.float32(127.5)
_TOP = np.array([31.0, 63.0, 31.0], np.float32)
_CODES_OF_4 = np.array([0, 2, 3, 1], np.uint32)
_CODES_OF_3 = np.array([0, 2, 1, 3], np.uint32)
"""How the format numbers the mixes in their order from the first colour to the second."""


def expanded(bits: int) -> "np.ndarray[tuple[int], np.dtype[np.float32]]":
    """(2**bits,) the 8-bit value of each value of so many bits, its first bits repeated at the end."""
    value = np.arange(1 << bits)
    return ((value << (8 - bits)) | (value >> (2 * bits - 8))).astype(np.float32)


_WIDE = np.zeros((3, 64), np.float32)
_WIDE[0, :32] = _WIDE[2, :32] = expanded(5)
_WIDE[1] = expanded(6)


def _flat_ends(bits: int, steps: int) -> "np.ndarray[tuple[int, int], np.dtype[np.float32]]":
    """(256, 2) the two ends whose first mix is nearest to each 8-bit value, closest together where several are."""
    wide = expanded(bits)
    value = np.arange(256)[:, None, None]
    first = np.arange(len(wide))[None, :, None]
    # With each first end, the second ones around that which would meet the value.
    met = np.searchsorted(wide, wide[first] + steps * (value - wide[first]))
    second = np.clip(met + np.arange(-2, 2), 0, len(wide) - 1)
    mixed = wide[first] + (wide[second] - wide[first]) / steps
    cost = np.abs(mixed - value) + 0.01 * np.abs(wide[second] - wide[first])
    best = cost.reshape(256, -1).argmin(axis=1)
    return np.stack([best // 4, second.reshape(256, -1)[np.arange(256), best]], axis=1).astype(np.float32)


_FLAT = np.stack([np.stack([_flat_ends(b, s) for b in (5, 6, 5)]) for s in (2, 3)])
"""(2, 3, 256, 2): for three and for four mixes, by channel."""


@inner
def assign(block, mask, weight, ends, steps, choice):  # type: ignore[no-untyped-def]
    """Give each pixel the nearest of ``steps + 1`` mixes of the quantised ``ends`` (6,); returns the squared error."""
    best, nearest = stack(16, np.float32), stack(16, np.float32)
    for i in range(16):
        best[i] = HUGE
        nearest[i] = f32(0.0)
    r0, r1 = _WIDE[0, int(ends[0])], _WIDE[0, int(ends[3])]
    g0, g1 = _WIDE[1, int(ends[1])], _WIDE[1, int(ends[4])]
    b0, b1 = _WIDE[2, int(ends[2])], _WIDE[2, int(ends[5])]
    one = f32(1.0) / f32(steps)
    for k in range(steps + 1):
        t = f32(k) * one
        number = f32(k)
        r = np.floor(r0 + (r1 - r0) * t + f32(0.01))
        g = np.floor(g0 + (g1 - g0) * t + f32(0.01))
        b = np.floor(b0 + (b1 - b0) * t + f32(0.01))
        for i in range(16):
            x, y, z = block[0, i] - r, block[1, i] - g, block[2, i] - b
            error = weight[0] * x * x + weight[1] * y * y + weight[2] * z * z
            nearer = error < best[i]
            best[i] = error if nearer else best[i]
            nearest[i] = number if nearer else nearest[i]
    for i in range(16):
        best[i] *= mask[i]
        choice[i] = nearest[i]
    return total(best)


@inner
def solve(block, mask, choice, steps, ends):  # type: ignore[no-untyped-def]
    """Put the quantised ends of least squared error for given choices into ``ends``; False where any would do."""
    near, far = stack(16, np.float32), stack(16, np.float32)
    one = f32(1.0) / f32(steps)
    for i in range(16):
        far[i] = choice[i] * one * mask[i]
        near[i] = mask[i] - far[i]
    nn, nf, ff = product(near, near), product(near, far), product(far, far)
    det = nn * ff - nf * nf
    if det < f32(1e-3):
        return False
    for c in range(3):
        quantised_pair(c, nn, nf, ff, row_product(block, c, near), row_product(block, c, far), det, ends)
    return True


@helper
def quantised_pair(c, nn, nf, ff, nx, fx, det, ends):  # type: ignore[no-untyped-def]
    """The best of the four quantised pairs around the solution of one channel."""
    top = _TOP[c]
    scale = top / f32(255.0)
    low_0 = np.floor(min(max((ff * nx - nf * fx) / det * scale, f32(0.0)), top))
    low_1 = np.floor(min(max((nn * fx - nf * nx) / det * scale, f32(0.0)), top))
    least_cost = HUGE
    for a in range(2):
        q0 = min(low_0 + f32(a), top)
        e0 = _WIDE[c, int(q0)]
        for b in range(2):
            q1 = min(low_1 + f32(b), top)
            e1 = _WIDE[c, int(q1)]
            cost = nn * e0 * e0 + f32(2.0) * (nf * e0 * e1 - nx * e0 - fx * e1) + ff * e1 * e1
            if cost < least_cost:
                least_cost = cost
                ends[c], ends[3 + c] = q0, q1


@helper
def keep(ends, choice, best_ends, best_choice):  # type: ignore[no-untyped-def]
    for c in range(6):
        best_ends[c] = ends[c]
    for i in range(16):
        best_choice[i] = choice[i]


@inner
def refine(block, mask, weight, steps, rounds, error, best_ends, best_choice):  # type: ignore[no-untyped-def]
    """Solve for the choices and choose anew, as long as that gains; returns the error."""
    ends, choice = stack(8, np.float32), stack(16, np.float32)
    for _ in range(rounds):
        if error <= f32(0.0) or not solve(block, mask, best_choice, steps, ends):
            break
        found = assign(block, mask, weight, ends, steps, choice)
        if found >= error:
            break
        error = found
        keep(ends, choice, best_ends, best_choice)
    return error


@inner
def walk(block, mask, weight, steps, rounds, moves, error, best_ends, best_choice):  # type: ignore[no-untyped-def]
    """Move an end of one channel by one, or with 8 ``moves`` both ends, as long as that gains; returns the error."""
    ends, choice = stack(8, np.float32), stack(16, np.float32)
    for _ in range(rounds):
        before = error
        for c in range(3):
            for move in range(moves):
                for k in range(6):
                    ends[k] = best_ends[k]
                by = f32(1.0) if move & 1 else f32(-1.0)
                if move < 2:
                    ends[c] += by
                elif move < 4:
                    ends[3 + c] += by
                elif move < 6:
                    ends[c] += by
                    ends[3 + c] += by
                else:
                    ends[c] += by
                    ends[3 + c] -= by
                if min(ends[c], ends[3 + c]) < 0 or max(ends[c], ends[3 + c]) > _TOP[c]:
                    continue
                found = assign(block, mask, weight, ends, steps, choice)
                if found < error:
                    error = found
                    keep(ends, choice, best_ends, best_choice)
        if error >= before:
            break
    return error


@inner
def ends_of_line(block, mask, mean, axis, weight, ends):  # type: ignore[no-untyped-def]
    """The quantised ends of the pixels' reach along the axis through their mean."""
    along, part = stack(16, np.float32), stack(16, np.float32)
    x, y, z = axis[0] * np.sqrt(weight[0]), axis[1] * np.sqrt(weight[1]), axis[2] * np.sqrt(weight[2])
    for i in range(16):
        along[i] = (block[0, i] - mean[0]) * x + (block[1, i] - mean[1]) * y + (block[2, i] - mean[2]) * z
        along[i] *= mask[i]
        part[i] = along[i]
    low = least(part)
    high = largest(along)
    for c in range(3):
        slope = axis[c] / np.sqrt(weight[c])
        scale = _TOP[c] / f32(255.0)
        ends[c] = np.floor(min(max((mean[c] + slope * high) * scale, f32(0.0)), _TOP[c]) + f32(0.5))
        ends[3 + c] = np.floor(min(max((mean[c] + slope * low) * scale, f32(0.0)), _TOP[c]) + f32(0.5))


@inner
def order_along(block, mask, axis, weight, order):  # type: ignore[no-untyped-def]
    """Sort the pixels that count along the axis; returns how many there are."""
    along = stack(16, np.float32)
    x, y, z = axis[0] * np.sqrt(weight[0]), axis[1] * np.sqrt(weight[1]), axis[2] * np.sqrt(weight[2])
    for i in range(16):
        along[i] = block[0, i] * x + block[1, i] * y + block[2, i] * z
    count = 0
    for i in range(16):
        if mask[i] <= f32(0.0):
            continue
        place = count
        while place > 0 and along[order[place - 1]] > along[i]:
            order[place] = order[place - 1]
            place -= 1
        order[place] = i
        count += 1
    return count


@inner
def cluster(block, mask, weight, steps, axis, error, best_ends, best_choice):  # type: ignore[no-untyped-def]
    """The best cut of the pixels, sorted along the axis, into runs; returns the error.

    ``a``, ``b`` and ``c`` are where the second, third and last run begin. Each ``c`` keeps its own best cut.
    """
    order = stack(16, np.int64)
    sums = grid(3, 32, np.float32)
    gain, of_a, of_b = stack(16, np.float32), stack(16, np.float32), stack(16, np.float32)
    ends, choice = stack(8, np.float32), stack(16, np.float32)
    count = order_along(block, mask, axis, weight, order)
    for c in range(3):
        so_far = f32(0.0)
        for i in range(16):
            sums[c, i] = so_far
            if i < count:
                so_far += block[c, order[i]]
        for i in range(16, 32):
            sums[c, i] = so_far
    for i in range(16):
        gain[i] = -HUGE
        of_a[i] = f32(0.0)
        of_b[i] = f32(0.0)
    third = f32(1.0) / f32(3.0)
    for a in range(count):
        last_b = count if steps == 3 else a
        for b in range(a, last_b + 1):
            for i in range(16):
                # In a block of three mixes the middle run, from a to c, is halfway.
                c = f32(i + 1)
                if steps == 3:
                    nn = f32(a) + (f32(4.0) * f32(b - a) + (c - f32(b))) / f32(9.0)
                    ff = (f32(count) - c) + (f32(4.0) * (c - f32(b)) + f32(b - a)) / f32(9.0)
                    nf = f32(2.0) * (c - f32(a)) / f32(9.0)
                else:
                    nn = f32(a) + (c - f32(a)) * f32(0.25)
                    ff = (f32(count) - c) + (c - f32(a)) * f32(0.25)
                    nf = (c - f32(a)) * f32(0.25)
                det = nn * ff - nf * nf
                good = f32(0.0)
                for ch in range(3):
                    if steps == 3:
                        nx = (sums[ch, a] + sums[ch, b] + sums[ch, i + 1]) * third
                    else:
                        nx = (sums[ch, a] + sums[ch, i + 1]) * f32(0.5)
                    fx = sums[ch, 31] - nx
                    good += weight[ch] * (ff * nx * nx - f32(2.0) * nf * nx * fx + nn * fx * fx)
                good /= max(det, f32(1e-3))
                valid = (c >= f32(b)) & (c <= f32(count)) & (det > f32(1e-2)) & (good > gain[i])
                gain[i] = good if valid else gain[i]
                of_a[i] = f32(a) if valid else of_a[i]
                of_b[i] = f32(b) if valid else of_b[i]
    for _ in range(3):
        at = 0
        for i in range(16):
            if gain[i] > gain[at]:
                at = i
        if gain[at] <= -HUGE:
            break
        gain[at] = -HUGE
        for i in range(16):
            choice[i] = f32(0.0)
        for i in range(count):
            run = f32(i >= of_a[at]) + f32(i >= at + 1)
            if steps == 3:
                run += f32(i >= of_b[at])
            choice[order[i]] = run
        if not solve(block, mask, choice, steps, ends):
            continue
        found = assign(block, mask, weight, ends, steps, choice)
        if found < error:
            error = found
            keep(ends, choice, best_ends, best_choice)
    return error


@inner
def fit(block, mask, weight, steps, effort, best_ends, best_choice):  # type: ignore[no-untyped-def]
    """The two ends and the pixels' choices of one kind of block; returns the squared error."""
    mean, axis, cov = stack(4, np.float32), stack(4, np.float32), grid(4, 4, np.float32)
    count = spread(block, mask, weight, index(3), mean, cov)
    if count <= f32(0.0):
        for c in range(6):
            best_ends[c] = f32(0.0)
        return f32(0.0)
    if cov[0, 0] + cov[1, 1] + cov[2, 2] < f32(0.5):
        # One colour: the pair whose first mix is nearest to it.
        for c in range(3):
            value = int(min(max(mean[c] + f32(0.5), f32(0.0)), f32(255.0)))
            best_ends[c] = _FLAT[steps - 2, c, value, 0]
            best_ends[3 + c] = _FLAT[steps - 2, c, value, 1]
        return assign(block, mask, weight, best_ends, steps, best_choice)
    power_axis(cov, index(3), axis)
    ends_of_line(block, mask, mean, axis, weight, best_ends)
    error = assign(block, mask, weight, best_ends, steps, best_choice)
    if effort == FAST:
        return refine(block, mask, weight, steps, index(1), error, best_ends, best_choice)
    error = refine(block, mask, weight, steps, index(4), error, best_ends, best_choice)
    if effort == BEST:
        for _ in range(2):
            error = cluster(block, mask, weight, steps, axis, error, best_ends, best_choice)
            for c in range(3):
                axis[c] = (best_ends[c] - best_ends[3 + c]) / _TOP[c] * np.sqrt(weight[c])
        error = refine(block, mask, weight, steps, index(4), error, best_ends, best_choice)
        return walk(block, mask, weight, steps, index(8), index(8), error, best_ends, best_choice)
    return walk(block, mask, weight, steps, index(1), index(4), error, best_ends, best_choice)


@helper
def pack_color(ends, choice, mask, steps, out, at):  # type: ignore[no-untyped-def]
    """Write eight bytes; the order of the two colours says which kind of block it is."""
    first = (int(ends[0]) << 11) | (int(ends[1]) << 5) | int(ends[2])
    second = (int(ends[3]) << 11) | (int(ends[4]) << 5) | int(ends[5])
    swap = (first < second) if steps == 3 else (first > second)
    bits = index(0)
    for i in range(16):
        k = int(choice[i])
        if first == second:
            k = 0
        elif swap:
            k = steps - k
        code = _CODES_OF_4[k] if steps == 3 else _CODES_OF_3[k]
        if mask[i] <= f32(0.0):
            code = np.uint32(3)
        bits |= index(code) << (2 * i)
    if swap:
        first, second = second, first
    out[at], out[at + 1] = first & 255, first >> 8
    out[at + 2], out[at + 3] = second & 255, second >> 8
    for k in range(4):
        out[at + 4 + k] = (bits >> (8 * k)) & 255


@inner
def encode_color(block, weight, effort, has_holes, only_four, out, at):  # type: ignore[no-untyped-def]
    """Write the eight bytes of a block's colours.

    Where ``has_holes``, pixels of less than half alpha become nothing; where ``only_four``, as in BC3, the order of the
    two colours says nothing and there are always four mixes.
    """
    mask, ends, choice = stack(16, np.float32), stack(8, np.float32), stack(16, np.float32)
    holes = False
    for i in range(16):
        mask[i] = f32(1.0)
        choice[i] = f32(0.0)
        if has_holes and block[3, i] < _HALF:
            mask[i] = f32(0.0)
            holes = True
    three, four = index(2), index(3)
    if holes:
        fit(block, mask, weight, three, effort, ends, choice)
        pack_color(ends, choice, mask, three, out, at)
        return
    error = fit(block, mask, weight, four, effort, ends, choice)
    if effort == BEST and not only_four and error > f32(0.0):
        other_ends, other_choice = stack(8, np.float32), stack(16, np.float32)
        if fit(block, mask, weight, three, effort, other_ends, other_choice) < error:
            pack_color(other_ends, other_choice, mask, three, out, at)
            return
    pack_color(ends, choice, mask, four, out, at)
