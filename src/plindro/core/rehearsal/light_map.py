"""Whether a UV channel holds a light map: inside the square, no texel for two triangles."""

from collections.abc import Mapping

import numpy as np

from plindro.core.numeric.kernels import kernel
from plindro.core.rehearsal.found import F64, I64
from plindro.core.rehearsal.seen import SeenLightMap

_TEXELS = 512
_SLACK = 1e-4
"""Beyond the square by less than this is rounding."""
_TWICE = 2e-3
"""Share of covered texels that may be covered twice: triangles' sides through the middles of texels."""


def judge_light_map(channel: int, uvs: Mapping[int, F64], triangles: I64) -> SeenLightMap:
    """The state of a channel as an engine bakes into it, at 512 x 512 texels."""
    uv = uvs.get(channel)
    if uv is None or not len(triangles) or not np.isfinite(uv).all():
        return SeenLightMap(channel=channel, state="absent", covered_twice=0.0, outside=0.0)
    outside = float(((uv < -_SLACK) | (uv > 1 + _SLACK)).any(axis=1).mean())
    covered = np.zeros((_TEXELS, _TEXELS), np.uint8)
    _cover(np.ascontiguousarray(uv[triangles]) * _TEXELS, covered)
    once, twice = int((covered > 0).sum()), int((covered > 1).sum())
    share = twice / once if once else 0.0
    state = "outside" if outside > 0 else "overlaps" if share > _TWICE else "holds"
    return SeenLightMap(channel=channel, state=state, covered_twice=share, outside=outside)


@kernel
def _cover(corners, covered):  # type: ignore[no-untyped-def]
    """Count for each texel, up to 2, the triangles that its middle lies in; ``corners`` (T, 3, 2) in texels."""
    height, width = covered.shape
    for t in range(len(corners)):
        ax, ay, bx, by, cx, cy = (
            corners[t, 0, 0], corners[t, 0, 1], corners[t, 1, 0], corners[t, 1, 1], corners[t, 2, 0], corners[t, 2, 1]
        )  # fmt: skip
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0.0:
            continue
        if area < 0.0:
            bx, by, cx, cy = cx, cy, bx, by
        low, high = max(int(np.floor(min(ay, by, cy) - 0.5)), 0), min(int(np.ceil(max(ay, by, cy))), height)
        left, right = max(int(np.floor(min(ax, bx, cx) - 0.5)), 0), min(int(np.ceil(max(ax, bx, cx))), width)
        for row in range(low, high):
            y = row + 0.5
            for column in range(left, right):
                x = column + 0.5
                inside = (bx - ax) * (y - ay) - (by - ay) * (x - ax) > 1e-7
                inside = inside and (cx - bx) * (y - by) - (cy - by) * (x - bx) > 1e-7
                inside = inside and (ax - cx) * (y - cy) - (ay - cy) * (x - cx) > 1e-7
                if inside and covered[row, column] < 2:
                    covered[row, column] += 1
