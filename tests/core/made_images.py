"""Small images of every kind that blocks find hard: noise, lines, edges, gradients, normals, a cut-out."""

import numpy as np
from numpy.typing import NDArray

SIDE = 96


def _image(color: NDArray[np.float64], alpha: NDArray[np.float64] | None = None) -> NDArray[np.uint8]:
    opaque = np.ones(color.shape[:2]) if alpha is None else alpha
    return np.round(np.clip(np.dstack([color, opaque]), 0, 1) * 255).astype(np.uint8)


def _smooth(cells: int, seed: int) -> NDArray[np.float64]:
    rng = np.random.default_rng(seed)
    coarse = rng.random((cells + 1, cells + 1))
    at = np.linspace(0, cells - 1e-6, SIDE)
    low, part = at.astype(int), at % 1.0
    part = part * part * (3 - 2 * part)
    rows = coarse[low] * (1 - part[:, None]) + coarse[low + 1] * part[:, None]
    result: NDArray[np.float64] = rows[:, low] * (1 - part) + rows[:, low + 1] * part
    return result


def _made() -> dict[str, NDArray[np.uint8]]:
    y, x = np.mgrid[0:SIDE, 0:SIDE] / (SIDE - 1)
    bumps = 3 * (_smooth(12, 7) + 0.4 * _smooth(24, 8))
    slope_y, slope_x = np.gradient(bumps)
    normals = np.dstack([-slope_x, slope_y, np.ones_like(x)])
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    lines = np.where((np.abs((x * 7 + y * 3) % 1 - 0.5) < 0.06)[..., None], (0.1, 0.2, 0.5), (0.96, 0.94, 0.9))
    soft = np.clip((np.sin(x * 26) * np.sin(y * 26 + x * 5) - 0.1) * 6 + 0.5, 0, 1)
    tint = np.dstack([0.5 + 0.3 * _smooth(6, 1), 0.4 * _smooth(6, 1) + 0.2, 0.25 * _smooth(6, 2)])
    return {
        "colours": _image(np.dstack([_smooth(9, 3), _smooth(8, 4), _smooth(7, 5)])),
        "tinted": _image(tint + 0.06 * (_smooth(40, 6)[..., None] - 0.5)),
        "gradient": _image(np.dstack([x, 0.3 + 0.4 * y, 0.8 - 0.6 * x * y])),
        "lines": _image(lines),
        "normals": _image(normals * 0.5 + 0.5),
        "cut-out": _image(tint, soft),
    }


IMAGES = _made()


def psnr(
    a: NDArray[np.uint8], b: NDArray[np.uint8], channels: tuple[int, ...], where: NDArray[np.bool_] | None = None
) -> float:
    """dB of some channels, where asked of some pixels alone; 99 where nothing differs."""
    away = (a[..., channels].astype(float) - b[..., channels]) ** 2
    mean = float((away if where is None else away[where]).mean())
    return 99.0 if mean == 0.0 else float(10 * np.log10(255.0**2 / mean))
