"""Where a surface ends or breaks: wedges, and which way each vertex may move.

A *feature* is an edge where something ends: an open border, a UV or colour seam, a material border, a hard edge. A
*wedge* is a run of corners around a vertex between two features; what its corners carry is one value.
"""

from plindro.core.numeric.kernels import helper, kernel

FREE, LINE, LOCKED, GONE = 0, 1, 2, 3
"""A FREE vertex may go to any neighbour, one on a LINE only along its feature, a LOCKED one stays."""
INNER, BORDER, SEAM = 1, 2, 3
"""An edge where the material or the normal breaks, an open border, and one where UVs or colours alone break."""
NORMAL_STEP = 1.0 / 512.0
"""Normals closer than this come from rounding in the exporter; they are one normal to the eye."""


@helper
def _is_parted(x, y, face_material, normals):  # type: ignore[no-untyped-def]
    """Whether the material or the normal breaks between two corners of the mesh at one vertex."""
    if face_material[x // 3] != face_material[y // 3]:
        return True
    if len(normals):
        for k in range(3):
            if abs(normals[x, k] - normals[y, k]) > NORMAL_STEP:
                return True
    return False


@helper
def _breaks(x, y, face_material, normals, others):  # type: ignore[no-untyped-def]
    """Whether two corners of the mesh at one vertex carry different things; arrays without rows are not looked at."""
    if _is_parted(x, y, face_material, normals):
        return True
    if len(others):
        for k in range(others.shape[1]):
            if others[x, k] != others[y, k]:
                return True
    return False


@helper
def _turn(c, by):  # type: ignore[no-untyped-def]
    """The corner ``by`` places further in the same triangle."""
    return c - c % 3 + (c + by) % 3


@helper
def _is_broken(source, x, y, face_material, normals, others):  # type: ignore[no-untyped-def]
    """Whether the edge that leaves corner x and arrives at y, of two triangles at one vertex, is a feature inside."""
    return _breaks(source[x], source[y], face_material, normals, others) or _breaks(
        source[_turn(x, 1)], source[_turn(y, 2)], face_material, normals, others
    )


@helper
def _enter(first, last, around, arriving, leaving):  # type: ignore[no-untyped-def]
    """Note which triangle of a vertex arrives at each neighbour, and how many leave it; True where two do either."""
    crowded = False
    for s in range(first, last):
        crowded |= arriving[around[s, 1]] >= 0
        arriving[around[s, 1]] = s
        leaving[around[s, 0]] += 1
    for s in range(first, last):
        crowded |= leaving[around[s, 0]] > 1
    return crowded


@helper
def _leave(first, last, around, arriving, leaving):  # type: ignore[no-untyped-def]
    for s in range(first, last):
        arriving[around[s, 1]] = -1
        leaving[around[s, 0]] = 0


@helper
def _add_feature(u, neighbour, n_features, line):  # type: ignore[no-untyped-def]
    """Note a feature edge of a vertex, the first two as its line; returns how many it has now."""
    if n_features < 2:
        line[u, n_features] = neighbour
    return n_features + 1


@helper
def _add_arriving_borders(u, first, last, around, leaving, n_features, line):  # type: ignore[no-untyped-def]
    """Add the open borders that arrive at a vertex; returns how many features it has now, and how many those were."""
    n_border = 0
    for s in range(first, last):
        if leaving[around[s, 1]] == 0:
            n_features = _add_feature(u, around[s, 1], n_features, line)
            n_border += 1
    return n_features, n_border


@helper
def _is_one_fan(  # type: ignore[no-untyped-def]
    first, last, around, source, face_material, normals, others, is_bare, arriving
):
    """Whether the triangles of a vertex are one closed fan without a feature: a walk around it meets all once."""
    for s in range(first, last):
        arriving[around[s, 1]] = s
    met, at = 0, first
    while met < last - first:
        following = arriving[around[at, 0]]
        if following < first:
            break
        x, y = around[at, 2], around[following, 2]
        if not is_bare and _is_broken(source, x, y, face_material, normals, others):
            break
        met += 1
        at = following
        if at == first:
            break
    for s in range(first, last):
        arriving[around[s, 1]] = -1
    return met > 0 and met == last - first and at == first


@helper
def _find_features(  # type: ignore[no-untyped-def]
    u, first, last, around, source, face_material, normals, others, is_bare, arriving, leaving, after, before, line,
    feature, beside,
):  # fmt: skip
    """Tell the features of a vertex, and by ``after`` and ``before`` where its fans go on across the edge to the next
    and the previous neighbour, -1 at features. Returns how many features, and how many of them are open borders."""
    n_features, n_leaving = 0, 0
    for s in range(first, last):
        after[s - first] = before[s - first] = -1
    for s in range(first, last):
        r = arriving[around[s, 0]]
        if r >= 0:
            x, y = around[s, 2], around[r, 2]
            if is_bare or not _is_broken(source, x, y, face_material, normals, others):
                after[s - first] = r
                before[r - first] = s
                continue
            parted = _is_parted(source[x], source[y], face_material, normals)
            parted |= _is_parted(source[_turn(x, 1)], source[_turn(y, 2)], face_material, normals)
            feature[x] = INNER if parted else SEAM
            beside[x] = y
        else:
            n_leaving += 1
            feature[around[s, 2]] = BORDER
        n_features = _add_feature(u, around[s, 0], n_features, line)
    n_features, n_arriving = _add_arriving_borders(u, first, last, around, leaving, n_features, line)
    return n_features, n_leaving + n_arriving


@helper
def _number_fan(s, first, around, after, number, wedge):  # type: ignore[no-untyped-def]
    """Give the corners of one fan their wedge, from triangle ``s`` on, and take the fan off ``after``."""
    while s >= 0:
        wedge[around[s, 2]] = number
        following = after[s - first]
        after[s - first] = -2
        s = following


@helper
def _number_fans(first, last, around, after, before, n_wedges, wedge):  # type: ignore[no-untyped-def]
    """Number the fans of a vertex from ``n_wedges`` on; returns how many there are."""
    n_fans = 0
    # Fans begin where nothing comes before; what is left then are closed rings.
    for s in range(first, last):
        if before[s - first] < 0:
            _number_fan(s, first, around, after, n_wedges + n_fans, wedge)
            n_fans += 1
    for s in range(first, last):
        if after[s - first] >= 0:
            _number_fan(s, first, around, after, n_wedges + n_fans, wedge)
            n_fans += 1
    return n_fans


@kernel
def find_wedges(  # type: ignore[no-untyped-def]
    start, around, source, face_material, normals, others, is_bare, lock_borders,
    arriving, leaving, after, before, wedge, kind, line, wedge_vertex, feature, beside,
):  # fmt: skip
    """Number the wedges of all corners; tell the kind of every vertex and the two neighbours of those on a line.

    ``source`` (3 T,) names the mesh's corner of each corner here; ``is_bare``: corners carry nothing and there is one
    material. ``feature`` (3 T,) becomes INNER, BORDER or SEAM where the half-edge that leaves a corner is a feature,
    and ``beside`` (3 T,) the corner at the same vertex on the other side of one inside.
    ``arriving`` (V,) of -1, ``leaving`` (V,) of zeros, ``after`` and ``before``, as long as the longest ring, are
    scratch. Returns how many wedges there are.
    """
    n_wedges = 0
    for u in range(len(kind)):
        first, last = start[u], start[u + 1]
        line[u, 0] = line[u, 1] = -1
        if _is_one_fan(first, last, around, source, face_material, normals, others, is_bare, arriving):
            kind[u] = FREE
            wedge_vertex[n_wedges] = u
            for s in range(first, last):
                wedge[around[s, 2]] = n_wedges
            n_wedges += 1
            continue
        is_non_manifold = _enter(first, last, around, arriving, leaving)
        n_features, n_border = _find_features(
            u, first, last, around, source, face_material, normals, others, is_bare, arriving, leaving, after, before,
            line, feature, beside,
        )  # fmt: skip
        _leave(first, last, around, arriving, leaving)
        n_fans = _number_fans(first, last, around, after, before, n_wedges, wedge)
        for i in range(n_wedges, n_wedges + n_fans):
            wedge_vertex[i] = u
        n_wedges += n_fans
        if last == first:
            kind[u] = GONE
        elif is_non_manifold or (n_border and lock_borders):
            kind[u] = LOCKED
        elif n_features == 0 and n_fans == 1:
            kind[u] = FREE
        elif n_features == 2 and n_fans == (1 if n_border else 2):
            kind[u] = LINE
        else:
            kind[u] = LOCKED
    return n_wedges


@helper
def _is_held(x, y, triangle_wedge, values, material, held, holds_materials):  # type: ignore[no-untyped-def]
    """Whether the edge that leaves corner x and arrives at y, of two triangles at one vertex, is a feature still."""
    if holds_materials and material[x // 3] != material[y // 3]:
        return True
    if len(held):
        p, q = triangle_wedge[x], triangle_wedge[y]
        i, j = triangle_wedge[_turn(x, 1)], triangle_wedge[_turn(y, 2)]
        for k in held:
            if values[p, k] != values[q, k] or values[i, k] != values[j, k]:
                return True
    return False


@helper
def _is_whole(first, last, around, arriving, leaving, n_border):  # type: ignore[no-untyped-def]
    """Whether the triangles of a vertex are one fan and nothing else: walking around from one meets all of them."""
    if n_border not in (0, 2):
        return False
    at = first
    if n_border == 2:
        for s in range(first, last):
            if leaving[around[s, 1]] == 0:
                at = s
    met = 1
    r = arriving[around[at, 0]]
    while r >= 0 and r != at and met <= last - first:
        met += 1
        r = arriving[around[r, 0]]
    return met == last - first


@kernel
def find_kinds(  # type: ignore[no-untyped-def]
    start, around, triangle_wedge, values, material, held, holds_materials, arriving, leaving, kind, line
):
    """The kinds and lines anew, with fewer features: only where a held column of the wedges' ``values`` differs.

    With no column held and no materials only open borders are features.
    """
    for u in range(len(kind)):
        first, last = start[u], start[u + 1]
        if kind[u] == GONE or last == first:
            continue
        is_non_manifold = _enter(first, last, around, arriving, leaving)
        n_features, n_leaving = 0, 0
        line[u, 0] = line[u, 1] = -1
        for s in range(first, last):
            r = arriving[around[s, 0]]
            if r < 0:
                n_leaving += 1
            elif not _is_held(around[s, 2], around[r, 2], triangle_wedge, values, material, held, holds_materials):
                continue
            n_features = _add_feature(u, around[s, 0], n_features, line)
        n_features, n_arriving = _add_arriving_borders(u, first, last, around, leaving, n_features, line)
        is_whole = _is_whole(first, last, around, arriving, leaving, n_leaving + n_arriving)
        _leave(first, last, around, arriving, leaving)
        if is_non_manifold or not is_whole:
            kind[u] = LOCKED
        elif n_features == 0:
            kind[u] = FREE
        elif n_features == 2:
            kind[u] = LINE
        else:
            kind[u] = LOCKED
