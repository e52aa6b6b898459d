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
    n = len(kind)
    n_wedges = 0
    # After and before: where the fan goes on across the edge to the next and the previous vertex; -1 at features.
    for u in range(n):
        first, last = start[u], start[u + 1]
        line[u, 0] = -1
        line[u, 1] = -1
        for s in range(first, last):
            arriving[around[s, 1]] = s
        # Most vertices have one closed fan without a feature: a walk around it meets all triangles once.
        met = 0
        at = first
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
        if met > 0 and met == last - first and at == first:
            kind[u] = FREE
            wedge_vertex[n_wedges] = u
            for s in range(first, last):
                wedge[around[s, 2]] = n_wedges
                arriving[around[s, 1]] = -1
            n_wedges += 1
            continue
        is_non_manifold = False
        for s in range(first, last):
            after[s - first] = -1
            before[s - first] = -1
            arriving[around[s, 1]] = -1
        for s in range(first, last):
            if arriving[around[s, 1]] >= 0:
                is_non_manifold = True
            arriving[around[s, 1]] = s
            leaving[around[s, 0]] += 1
        n_features = 0
        n_border = 0
        for s in range(first, last):
            a = around[s, 0]
            if leaving[a] > 1:
                is_non_manifold = True
            r = arriving[a]
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
                n_border += 1
                feature[around[s, 2]] = BORDER
            if n_features < 2:
                line[u, n_features] = a
            n_features += 1
        for s in range(first, last):
            b = around[s, 1]
            if leaving[b] == 0:
                # An open border that arrives here; those that leave were met above.
                if n_features < 2:
                    line[u, n_features] = b
                n_features += 1
                n_border += 1
        for s in range(first, last):
            arriving[around[s, 1]] = -1
            leaving[around[s, 0]] = 0
        n_fans = 0
        for s in range(first, last):
            # Fans begin where nothing comes before; what is left then are closed rings.
            if before[s - first] < 0:
                n_fans += 1
                wedge_vertex[n_wedges] = u
                r = s
                while r >= 0:
                    wedge[around[r, 2]] = n_wedges
                    following = after[r - first]
                    after[r - first] = -2
                    r = following
                n_wedges += 1
        for s in range(first, last):
            if after[s - first] >= 0:
                n_fans += 1
                wedge_vertex[n_wedges] = u
                r = s
                while after[r - first] >= 0:
                    wedge[around[r, 2]] = n_wedges
                    following = after[r - first]
                    after[r - first] = -2
                    r = following
                n_wedges += 1
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


@kernel
def find_kinds(  # type: ignore[no-untyped-def]
    start, around, triangle_wedge, values, material, held, holds_materials, arriving, leaving, kind, line
):
    """The kinds and lines anew, with fewer features: only where a held column of the wedges' ``values`` differs.

    With no column held and no materials only open borders are features.
    """
    n = len(kind)
    for u in range(n):
        first, last = start[u], start[u + 1]
        if kind[u] == GONE or last == first:
            continue
        is_non_manifold = False
        for s in range(first, last):
            if arriving[around[s, 1]] >= 0:
                is_non_manifold = True
            arriving[around[s, 1]] = s
            leaving[around[s, 0]] += 1
        n_features = 0
        n_border = 0
        n_pairs = 0
        line[u, 0] = -1
        line[u, 1] = -1
        for s in range(first, last):
            a = around[s, 0]
            if leaving[a] > 1:
                is_non_manifold = True
            r = arriving[a]
            if r < 0:
                n_border += 1
            else:
                n_pairs += 1
                x, y = around[s, 2], around[r, 2]
                broken = False
                broken = holds_materials and material[x // 3] != material[y // 3]
                if len(held):
                    p, q = triangle_wedge[x], triangle_wedge[y]
                    i, j = triangle_wedge[_turn(x, 1)], triangle_wedge[_turn(y, 2)]
                    for k in held:
                        broken |= values[p, k] != values[q, k] or values[i, k] != values[j, k]
                if not broken:
                    continue
            if n_features < 2:
                line[u, n_features] = a
            n_features += 1
        for s in range(first, last):
            b = around[s, 1]
            if leaving[b] == 0:
                if n_features < 2:
                    line[u, n_features] = b
                n_features += 1
                n_border += 1
        # One fan and nothing else: walking around from one triangle meets all of them.
        whole = n_border == 2 or n_border == 0
        if whole:
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
            whole = met == last - first
        for s in range(first, last):
            arriving[around[s, 1]] = -1
            leaving[around[s, 0]] = 0
        if is_non_manifold or not whole:
            kind[u] = LOCKED
        elif n_features == 0:
            kind[u] = FREE
        elif n_features == 2:
            kind[u] = LINE
        else:
            kind[u] = LOCKED
