"""A line of mixes between two quantised ends, fitted to some pixels of a block: what every mode is made of.

Pixels are laid along the longest axis and take the mix that is nearest there. For such choices the error is a quadratic
form of the two ends, channel by channel; its least place is solved for, and all quantised pairs around it are tried at
once, for every value of the lowest bits that channels share: sixteen lanes, a pair each. Then pixels choose anew among
the mixes as the format rounds them.
"""

import numpy as np

from plindro.core.blocks.bc7.tables import NO_P, SHARED_P
from plindro.core.blocks.pixels import power_axis, product, row_product, spread
from plindro.core.numeric.kernels import helper, inner
from plindro.core.numeric.lanes import HUGE, f32, grid, largest, least, stack, total

_LANES = np.arange(16)
_P_FIRST, _P_LAST = ((_LANES & 1).astype(np.float32), (_LANES >> 1 & 1).astype(np.float32))
_UP_FIRST, _UP_LAST = ((_LANES >> 2 & 1).astype(np.float32), (_LANES >> 3 & 1).astype(np.float32))
"""Each lane's lowest bits, and whether its ends lie above or below the solved place. Folding the lanes in halves leaves
the four values of the two lowest bits."""
_BARRED = np.zeros((3, 16), np.float32)
_BARRED[NO_P] = np.where((_LANES & 3) == 0, 0.0, HUGE)
_BARRED[SHARED_P] = np.where(((_LANES & 1) == (_LANES >> 1 & 1)), 0.0, HUGE)


@helper
def widened(value, bits):  # type: ignore[no-untyped-def]
    """The 8-bit value of one of so many bits: its first bits repeated at the end."""
    return value * f32(1 << (8 - bits)) + np.floor(value * (f32(1.0) / f32(1 << (2 * bits - 8))))


@helper
def lane_end(wish, up, p, bits, step):  # type: ignore[no-untyped-def]
    """The quantised value beside a wished one: below it, or above; without its lowest bit where there is one."""
    top = f32((1 << bits) - 1)
    return min(max(np.floor((wish - p) / step) + up, f32(0.0)), top)


@inner
def quantise(sums, n, weight, bits, p_kind, ends, p_bits):  # type: ignore[no-untyped-def]
    """Put the quantised ends of least error into ``ends`` (8,): four channels of the first, four of the last.

    ``sums`` (12,): the near and far shares' products (nn, nf, ff), nothing, then near and far sums of each channel.
    """
    nn, nf, ff = sums[0], sums[1], sums[2]
    all_bits = bits + (1 if p_kind != NO_P else 0)
    step = f32(2.0) if p_kind != NO_P else f32(1.0)
    full = f32((1 << all_bits) - 1) / f32(255.0)
    det = nn * ff - nf * nf
    cost, one = stack(16, np.float32), stack(16, np.float32)
    firsts, lasts = grid(4, 16, np.float32), grid(4, 16, np.float32)
    costs = grid(4, 16, np.float32)
    for i in range(16):
        cost[i] = _BARRED[p_kind, i]
    for c in range(n):
        nx, fx = sums[4 + c], sums[8 + c]
        if det > f32(1e-3) * (nn + ff):
            first, last = (ff * nx - nf * fx) / det, (nn * fx - nf * nx) / det
        else:
            # All choose alike: both ends are what they choose.
            first = (nx + fx) / max(nn + f32(2.0) * nf + ff, f32(1e-3))
            last = first
        first = min(max(first, f32(0.0)), f32(255.0)) * full
        last = min(max(last, f32(0.0)), f32(255.0)) * full
        for i in range(16):
            a = lane_end(first, _UP_FIRST[i], _P_FIRST[i], bits, step)
            b = lane_end(last, _UP_LAST[i], _P_LAST[i], bits, step)
            firsts[c, i], lasts[c, i] = a, b
            e0 = widened(a * step + (_P_FIRST[i] if step > f32(1.0) else f32(0.0)), all_bits)
            e1 = widened(b * step + (_P_LAST[i] if step > f32(1.0) else f32(0.0)), all_bits)
            value = nn * e0 * e0 + f32(2.0) * (nf * e0 * e1 - nx * e0 - fx * e1) + ff * e1 * e1
            one[i] = value * weight[c]
            costs[c, i] = one[i]
        for i in range(8):
            one[i] = min(one[i], one[i + 8])
        for i in range(4):
            cost[i] += min(one[i], one[i + 4])
    best = 0
    for i in range(1, 4):
        if cost[i] < cost[best]:
            best = i
    p_bits[0], p_bits[1] = _P_FIRST[best], _P_LAST[best]
    for c in range(n):
        at = best
        for k in range(1, 4):
            lane = best + 4 * k
            if costs[c, lane] < costs[c, at]:
                at = lane
        ends[c], ends[4 + c] = firsts[c, at], lasts[c, at]


@inner
def choose(block, mask, weight, n, bits, p_kind, index_bits, ends, p_bits, choice, share):  # type: ignore[no-untyped-def]
    """Give each pixel the mix that is nearest along the line; returns the squared error of the mixes as they are
    rounded, and each pixel's share of the last end."""
    error, along, far = stack(16, np.float32), stack(16, np.float32), stack(16, np.float32)
    wide = stack(8, np.float32)
    has_p = p_kind != NO_P
    length = f32(0.0)
    for i in range(16):
        along[i] = f32(0.0)
        error[i] = f32(0.0)
    for c in range(n):
        if has_p:
            wide[c] = widened(ends[c] * f32(2.0) + p_bits[0], bits + 1)
            wide[4 + c] = widened(ends[4 + c] * f32(2.0) + p_bits[1], bits + 1)
        else:
            wide[c], wide[4 + c] = widened(ends[c], bits), widened(ends[4 + c], bits)
        slope = (wide[4 + c] - wide[c]) * weight[c]
        length += (wide[4 + c] - wide[c]) * slope
        first = wide[c]
        for i in range(16):
            along[i] += (block[c, i] - first) * slope
    top = f32((1 << index_bits) - 1)
    scale = top / length if length > f32(0.0) else f32(0.0)
    step = f32(64.0) / top
    for i in range(16):
        along[i] = np.floor(min(max(along[i] * scale, f32(0.0)), top) + f32(0.5))
        # The format's shares are the nearest 64ths.
        far[i] = np.floor(along[i] * step + f32(0.5))
    for c in range(n):
        first, apart = wide[c], wide[4 + c] - wide[c]
        for i in range(16):
            mix = np.floor(first + (apart * far[i] + f32(32.0)) * f32(1.0 / 64.0))
            away = block[c, i] - mix
            error[i] += weight[c] * away * away
    for i in range(16):
        error[i] *= mask[i]
        choice[i] = along[i]
        share[i] = far[i] * f32(1.0 / 64.0)
    return total(error)


@inner
def first_shares(block, mask, weight, n, index_bits, share):  # type: ignore[no-untyped-def]
    """Each pixel's share of the last end by where it lies along the longest axis."""
    mean, axis, cov = stack(4, np.float32), stack(4, np.float32), grid(4, 4, np.float32)
    along, part = stack(16, np.float32), stack(16, np.float32)
    if n == 1:
        for i in range(16):
            along[i] = block[0, i]
    else:
        spread(block, mask, weight, n, mean, cov)
        power_axis(cov, n, axis)
        for i in range(16):
            along[i] = f32(0.0)
        for c in range(n):
            slope = axis[c] * np.sqrt(weight[c])
            for i in range(16):
                along[i] += (block[c, i] - mean[c]) * slope
    for i in range(16):
        part[i] = along[i] if mask[i] > f32(0.0) else HUGE
    low = least(part)
    for i in range(16):
        part[i] = along[i] if mask[i] > f32(0.0) else -HUGE
    reach = largest(part) - low
    top = f32((1 << index_bits) - 1)
    scale = top / reach if reach > f32(1e-6) else f32(0.0)
    for i in range(16):
        share[i] = min(max(np.floor((along[i] - low) * scale + f32(0.5)), f32(0.0)), top) / top


@inner
def gather(block, mask, n, share, sums):  # type: ignore[no-untyped-def]
    """The sums from which the ends are solved, for given shares."""
    near, far = stack(16, np.float32), stack(16, np.float32)
    for i in range(16):
        far[i] = share[i] * mask[i]
        near[i] = mask[i] - far[i]
    sums[0], sums[1], sums[2] = product(near, near), product(near, far), product(far, far)
    for c in range(n):
        sums[4 + c], sums[8 + c] = row_product(block, c, near), row_product(block, c, far)


@inner
def fit_line(block, mask, weight, n, bits, p_kind, index_bits, rounds, ends, p_bits, choice):  # type: ignore[no-untyped-def]
    """Fit ends and choices to the pixels with a mask of 1, in the first ``n`` channels (1, 3, 4); returns the error."""
    tried_ends, tried_p = stack(8, np.float32), stack(2, np.float32)
    share, tried, sums = stack(16, np.float32), stack(16, np.float32), stack(12, np.float32)
    first_shares(block, mask, weight, n, index_bits, share)
    error = HUGE
    for _ in range(rounds):
        gather(block, mask, n, share, sums)
        quantise(sums, n, weight, bits, p_kind, tried_ends, tried_p)
        found = choose(block, mask, weight, n, bits, p_kind, index_bits, tried_ends, tried_p, tried, share)
        if found >= error:
            break
        error = found
        for k in range(8):
            ends[k] = tried_ends[k]
        p_bits[0], p_bits[1] = tried_p[0], tried_p[1]
        for i in range(16):
            choice[i] = tried[i]
        if error <= f32(0.0):
            break
    return error


@inner
def walk_line(block, mask, weight, n, bits, p_kind, index_bits, rounds, error, ends, p_bits, choice):  # type: ignore[no-untyped-def]
    """Move the ends of a channel by one, and turn lowest bits over, as long as that gains; returns the error."""
    tried_ends, tried_p = stack(8, np.float32), stack(2, np.float32)
    share, tried = stack(16, np.float32), stack(16, np.float32)
    top = f32((1 << bits) - 1)
    for _ in range(rounds):
        before = error
        for move in range(8 * n + 4):
            for k in range(8):
                tried_ends[k] = ends[k]
            tried_p[0], tried_p[1] = p_bits[0], p_bits[1]
            if move < 8 * n:
                c, way = move // 8, move % 8
                by = f32(1.0) if way & 1 else f32(-1.0)
                if way < 2 or way >= 4:
                    tried_ends[c] += by
                if way >= 2 and way < 6:
                    tried_ends[4 + c] += by
                if way >= 6:
                    tried_ends[4 + c] -= by
                if min(tried_ends[c], tried_ends[4 + c]) < f32(0.0) or max(tried_ends[c], tried_ends[4 + c]) > top:
                    continue
            elif p_kind == NO_P:
                break
            else:
                which = move - 8 * n
                if p_kind == SHARED_P:
                    if which > 0:
                        break
                    tried_p[0] = f32(1.0) - tried_p[0]
                    tried_p[1] = tried_p[0]
                elif which == 3:
                    break
                else:
                    if which != 1:
                        tried_p[0] = f32(1.0) - tried_p[0]
                    if which != 0:
                        tried_p[1] = f32(1.0) - tried_p[1]
            found = choose(block, mask, weight, n, bits, p_kind, index_bits, tried_ends, tried_p, tried, share)
            if found < error:
                error = found
                for k in range(8):
                    ends[k] = tried_ends[k]
                p_bits[0], p_bits[1] = tried_p[0], tried_p[1]
                for i in range(16):
                    choice[i] = tried[i]
        if error >= before:
            break
    return error
