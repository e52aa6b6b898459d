"""The compiled part of the OBJ reader: numbers and faces straight from the bytes.

Two passes over the same bytes: ``count_lines`` counts so that every array is allocated once and exactly,
``fill_arrays`` fills them. Lines that carry names instead of numbers (groups, materials ...) are recorded as events
(where the line is, and how many faces came before it) and left to Python.
"""

import numpy as np
from numba import njit

NO_INDEX = -1
BAD_NUMBER, BAD_INDEX, FEW_NUMBERS = 1, 2, 3

_KIND_OTHER, _KIND_V, _KIND_VT, _KIND_VN, _KIND_F, _KIND_EMPTY = 0, 1, 2, 3, 4, 5
_POWERS = 10.0 ** np.arange(0, 23)


@njit(cache=True, nogil=True)
def _is_blank(byte):  # type: ignore[no-untyped-def]
    return byte == 32 or byte == 9 or byte == 13 or byte == 11 or byte == 12


@njit(cache=True, nogil=True)
def _skip_blank(data, i, end):  # type: ignore[no-untyped-def]
    while i < end and _is_blank(data[i]):
        i += 1
    return i


@njit(cache=True, nogil=True)
def _skip_token(data, i, end):  # type: ignore[no-untyped-def]
    while i < end and not _is_blank(data[i]):
        i += 1
    return i


@njit(cache=True, nogil=True)
def _find_end(data, i):  # type: ignore[no-untyped-def]
    """End of the line that holds ``i``: its line feed or the end of the data."""
    n = len(data)
    while i < n and data[i] != 10:
        i += 1
    return i


@njit(cache=True, nogil=True)
def _content_end(data, i, end):  # type: ignore[no-untyped-def]
    """Where the line's content ends: at a comment or at the line's end."""
    while i < end and data[i] != 35:
        i += 1
    return i


@njit(cache=True, nogil=True)
def _line_kind(data, i, end):  # type: ignore[no-untyped-def]
    """Kind of the line whose first token starts at ``i``."""
    if i >= end or data[i] == 35:
        return _KIND_EMPTY
    token = _skip_token(data, i, end) - i
    if token == 1:
        if data[i] == 118:
            return _KIND_V
        if data[i] == 102:
            return _KIND_F
    elif token == 2:
        if data[i] == 118 and data[i + 1] == 116:
            return _KIND_VT
        if data[i] == 118 and data[i + 1] == 110:
            return _KIND_VN
        if data[i] == 102 and data[i + 1] == 111:
            return _KIND_F
    return _KIND_OTHER


@njit(cache=True, nogil=True)
def _parse_number(data, i, end):  # type: ignore[no-untyped-def]
    """A decimal number at ``i``: value, index after it, whether it was one.

    Correctly rounded where the digits fit 2^53 and the exponent 22, else within a few units in the last place, which
    is far below the float32 that leaves the program.
    """
    start = i
    negative = False
    if i < end and (data[i] == 45 or data[i] == 43):
        negative = data[i] == 45
        i += 1
    if i + 2 < end and (data[i] | 32) == 110 and (data[i + 1] | 32) == 97 and (data[i + 2] | 32) == 110:
        return np.nan, _skip_token(data, i, end), True
    if i + 2 < end and (data[i] | 32) == 105 and (data[i + 1] | 32) == 110 and (data[i + 2] | 32) == 102:
        return (-np.inf if negative else np.inf), _skip_token(data, i, end), True
    mantissa = np.uint64(0)
    kept = 0
    exponent = 0
    digits = 0
    while i < end and 48 <= data[i] <= 57:
        if kept < 18:
            mantissa = mantissa * np.uint64(10) + np.uint64(data[i] - 48)
            if mantissa > 0:
                kept += 1
        else:
            exponent += 1
        digits += 1
        i += 1
    if i < end and (data[i] == 46 or data[i] == 44):
        i += 1
        while i < end and 48 <= data[i] <= 57:
            if kept < 18:
                mantissa = mantissa * np.uint64(10) + np.uint64(data[i] - 48)
                if mantissa > 0:
                    kept += 1
                exponent -= 1
            digits += 1
            i += 1
    if digits == 0:
        return 0.0, start, False
    if i < end and (data[i] == 101 or data[i] == 69):
        j = i + 1
        sign = 1
        if j < end and (data[j] == 45 or data[j] == 43):
            sign = -1 if data[j] == 45 else 1
            j += 1
        if j < end and 48 <= data[j] <= 57:
            power = 0
            while j < end and 48 <= data[j] <= 57:
                power = min(power * 10 + (data[j] - 48), 100_000)
                j += 1
            exponent += sign * power
            i = j
    value = float(mantissa)
    if mantissa > 0:
        if 0 <= exponent <= 22:
            value *= _POWERS[exponent]
        elif -22 <= exponent < 0:
            value /= _POWERS[-exponent]
        elif exponent > 330:
            value = np.inf
        elif exponent < -345:
            value = 0.0
        else:
            value *= 10.0**exponent
    if i < end and not _is_blank(data[i]):
        # Microsoft's C runtime wrote NaN and infinity as 1.#QNAN, -1.#IND, 1.#INF.
        return value, i, False
    return (-value if negative else value), i, True


@njit(cache=True, nogil=True)
def _parse_index(data, i, end):  # type: ignore[no-untyped-def]
    """A signed integer at ``i``: value, index after it, number of digits."""
    negative = False
    if i < end and (data[i] == 45 or data[i] == 43):
        negative = data[i] == 45
        i += 1
    value = 0
    digits = 0
    while i < end and 48 <= data[i] <= 57:
        value = min(value * 10 + (data[i] - 48), 2_147_483_647)
        digits += 1
        i += 1
    return (-value if negative else value), i, digits


@njit(cache=True, nogil=True)
def count_lines(data):  # type: ignore[no-untyped-def]
    """Counts of v, vt, vn, f, face corners and other lines, as six numbers."""
    n_v = n_vt = n_vn = n_f = n_corners = n_other = 0
    i, n = 0, len(data)
    while i < n:
        end = _find_end(data, i)
        i = _skip_blank(data, i, end)
        kind = _line_kind(data, i, end)
        if kind == _KIND_V:
            n_v += 1
        elif kind == _KIND_VT:
            n_vt += 1
        elif kind == _KIND_VN:
            n_vn += 1
        elif kind == _KIND_F:
            n_f += 1
            stop = _content_end(data, i, end)
            i = _skip_blank(data, _skip_token(data, i, stop), stop)
            while i < stop:
                n_corners += 1
                i = _skip_blank(data, _skip_token(data, i, stop), stop)
        elif kind == _KIND_OTHER:
            n_other += 1
        i = end + 1
    return n_v, n_vt, n_vn, n_f, n_corners, n_other


@njit(cache=True, nogil=True)
def _read_row(data, i, stop, row):  # type: ignore[no-untyped-def]
    """Fill ``row`` with the numbers of a line; returns how many there were, -1 where one is no number."""
    i = _skip_blank(data, _skip_token(data, i, stop), stop)
    count = 0
    while i < stop and count < len(row):
        value, after, good = _parse_number(data, i, stop)
        if not good:
            token_end = _skip_token(data, i, stop)
            is_special = False
            for j in range(i, token_end):
                is_special = is_special or data[j] == 35
            if not is_special:
                return -1
            value, after = np.nan, token_end
        row[count] = value
        count += 1
        i = _skip_blank(data, after, stop)
    return count


@njit(cache=True, nogil=True)
def _resolve(value, so_far):  # type: ignore[no-untyped-def]
    """A 1-based or negative OBJ index as a 0-based one; -2 where it cannot be."""
    if value > 0:
        return value - 1
    if value < 0:
        return so_far + value if so_far + value >= 0 else -2
    return -2


@njit(cache=True, nogil=True)
def fill_arrays(  # type: ignore[no-untyped-def]
    data, positions, colors, uvs, normals, face_start, corner_v, corner_vt, corner_vn, face_line, events
):
    """Fill all arrays; returns (error code or 0, line number, rows with colours)."""
    row = np.empty(7)
    n_v = n_vt = n_vn = n_f = n_c = n_e = n_colored = 0
    line = 0
    i, n = 0, len(data)
    face_start[0] = 0
    while i < n:
        line += 1
        end = _find_end(data, i)
        i = _skip_blank(data, i, end)
        kind = _line_kind(data, i, end)
        if kind == _KIND_OTHER:
            events[n_e, 0], events[n_e, 1], events[n_e, 2], events[n_e, 3] = i, end, n_f, n_v
            n_e += 1
        elif kind == _KIND_F:
            stop = _content_end(data, i, end)
            i = _skip_blank(data, _skip_token(data, i, stop), stop)
            while i < stop:
                value, i, digits = _parse_index(data, i, stop)
                corner_v[n_c] = _resolve(value, n_v)
                if digits == 0:
                    return BAD_NUMBER, line, n_colored
                if corner_v[n_c] < 0:
                    return BAD_INDEX, line, n_colored
                corner_vt[n_c] = NO_INDEX
                corner_vn[n_c] = NO_INDEX
                if i < stop and data[i] == 47:
                    value, i, digits = _parse_index(data, i + 1, stop)
                    if digits and value != 0:
                        corner_vt[n_c] = _resolve(value, n_vt)
                        if corner_vt[n_c] < 0:
                            return BAD_INDEX, line, n_colored
                    if i < stop and data[i] == 47:
                        value, i, digits = _parse_index(data, i + 1, stop)
                        if digits and value != 0:
                            corner_vn[n_c] = _resolve(value, n_vn)
                            if corner_vn[n_c] < 0:
                                return BAD_INDEX, line, n_colored
                if i < stop and not _is_blank(data[i]):
                    return BAD_NUMBER, line, n_colored
                n_c += 1
                i = _skip_blank(data, i, stop)
            face_line[n_f] = line
            n_f += 1
            face_start[n_f] = n_c
        elif kind != _KIND_EMPTY:
            # "1.#QNAN" holds the comment sign, so a line of numbers ends at a sign that stands alone.
            stop = end
            for j in range(i, end):
                if data[j] == 35 and _is_blank(data[j - 1]):
                    stop = j
                    break
            count = _read_row(data, i, stop, row)
            if count < 0:
                return BAD_NUMBER, line, n_colored
            if kind == _KIND_V:
                if count < 3:
                    return FEW_NUMBERS, line, n_colored
                for k in range(3):
                    positions[n_v, k] = row[k]
                if count >= 6:
                    for k in range(3):
                        colors[n_v, k] = row[count - 3 + k]
                    n_colored += 1
                n_v += 1
            elif kind == _KIND_VT:
                if count < 1:
                    return FEW_NUMBERS, line, n_colored
                uvs[n_vt, 0] = row[0]
                uvs[n_vt, 1] = row[1] if count > 1 else 0.0
                n_vt += 1
            else:
                if count < 3:
                    return FEW_NUMBERS, line, n_colored
                for k in range(3):
                    normals[n_vn, k] = row[k]
                n_vn += 1
        i = end + 1
    return 0, line, n_colored
