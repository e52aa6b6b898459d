"""What a physics engine would refuse of collision proxies."""

from collections.abc import Iterator, Sequence

import numpy as np

from plindro.core.findings import Finding, Severity
from plindro.core.rehearsal.chain import ChainProxy
from plindro.core.rehearsal.drawn import draw
from plindro.core.rehearsal.seen import SeenProxy

_BENT = 1e-6
"""Share of a proxy's size that a corner may stand out of a side: what float32 rounds."""


def check_proxies(proxies: Sequence[ChainProxy]) -> Iterator[Finding]:
    """Findings about proxies and the numbers in their names."""
    numbers = [proxy.number for proxy in proxies]
    if numbers != list(range(len(numbers))):
        yield _stop("proxy-number-wrong", f"the collision proxies are numbered {numbers}; count from 0 without gaps")
    for proxy in proxies:
        fault = _fault(proxy)
        if fault:
            yield _stop(fault[0], f"{proxy.name}: {fault[1]}")


def seen_proxies(proxies: Sequence[ChainProxy]) -> list[SeenProxy]:
    """As the physics engine lists them."""
    return [
        SeenProxy(
            name=proxy.name,
            number=proxy.number,
            triangles=sum(len(p.triangles) for p in proxy.primitives),
            fault=(_fault(proxy) or ("", ""))[1],
        )
        for proxy in proxies
    ]


def _stop(code: str, message: str) -> Finding:
    return Finding(code, Severity.STOP, message)


def _fault(proxy: ChainProxy) -> tuple[str, str] | None:
    """The first thing for which a proxy would be refused: code and words."""
    drawn = draw(proxy.primitives)
    if proxy.is_placed:
        return "proxy-transform", "its node moves, turns or scales it; bake it into the vertices"
    if not len(drawn.triangles) or not np.isfinite(drawn.positions).all():
        return "proxy-empty", "holds no triangles with finite places"
    # Corners that lie in one place are one, whatever else tells them apart.
    points, number = np.unique(drawn.positions, axis=0, return_inverse=True)
    triangles = number.reshape(-1)[drawn.triangles]
    edges = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    forth, back = ({tuple(edge) for edge in some.tolist()} for some in (edges, edges[:, ::-1]))
    if len(forth) != len(edges) or forth != back:
        return "proxy-open", "is not closed"
    a, b, c = (points[triangles[:, k]] for k in range(3))
    cross = np.cross(b - a, c - a)
    if np.einsum("ij,ij->", a - points.mean(axis=0), cross) <= 0.0:
        return "proxy-inside-out", "is inside out"
    size = np.linalg.norm(cross, axis=1)
    normals = cross[size > 0.0] / size[size > 0.0, None]
    out = points @ normals.T - np.einsum("ij,ij->i", normals, a[size > 0.0])
    if out.max() > _BENT * np.ptp(points, axis=0).max():
        return "proxy-not-convex", "is not convex"
    return None
