"""What is wrong with a map: findings, each with what to do."""

import numpy as np

from plindro.core.findings import Finding, Severity, counted
from plindro.core.mesh.mesh import F32, F64
from plindro.core.textures.codec_choice import alpha_of
from plindro.core.textures.kinds import IN_LIGHT, ONE_CHANNEL, is_grey
from plindro.core.textures.rules import Kind

HUGE_SIDE = 8192
_NOTHING = 0.5 / 255.0
"""Alpha of which nothing is seen."""
_LENGTH_OFF = 0.02
"""How far from 1 the lengths of a normal map's vectors may be, on the average, beside what 8 bits round."""
_SURE = 2.0
"""How many times less a normal map has to curl with its green turned over, to be taken for one of the other way."""
_LITTLE = 1e-4
"""Curl below which a map says nothing about its direction: it is flat, or slopes one way only."""


def size_faults(name: str, width: int, height: int) -> list[Finding]:
    """What the size of an image keeps it from."""
    findings = []
    if max(width, height) > HUGE_SIDE:
        text = (
            f"{name}: {width} × {height} pixels; few engines take more than {HUGE_SIDE} a side; let Textures halve it"
        )
        findings.append(Finding("huge-texture", Severity.WARNING, text))
    if width & (width - 1) or height & (height - 1):
        text = f"{name}: {width} × {height} is no power of two; some engines make no mips of it, Textures can resize it"
        findings.append(Finding("non-power-of-two-texture", Severity.WARNING, text))
    if (width % 4 or height % 4) and min(width, height) >= 4:
        text = f"{name}: {width} × {height} is no multiple of four, which blocks of 4 × 4 ask of the whole image"
        findings.append(Finding("not-multiple-of-four", Severity.WARNING, text))
    return findings


def content_faults(name: str, kind: Kind, values: F32, *, uses_alpha: bool) -> list[Finding]:
    """What the pixels of a map, (H, W, C) from 0 to 1, say against its kind."""
    findings = []
    alpha = alpha_of(values)
    if alpha == "opaque":
        text = f"{name}: has an alpha channel that is 1 everywhere; it ships without"
        findings.append(Finding("opaque-alpha", Severity.WARNING, text))
    elif alpha != "none" and kind == "color" and uses_alpha and float(values[..., -1].max()) <= _NOTHING:
        text = f"{name}: has an alpha that is 0 everywhere; what is drawn by it is not seen; Textures can leave it out"
        findings.append(Finding("invisible-texture", Severity.WARNING, text))
    elif alpha in ("cutout", "smooth") and kind == "color" and not uses_alpha:
        text = f"{name}: has an alpha that its material does not use; it would double the texture"
        findings.append(Finding("unused-alpha", Severity.WARNING, text))
    if kind in ONE_CHANNEL and not is_grey(values):
        text = f"{name}: is used as {kind}, which is one channel, and holds colours; its red is taken"
        findings.append(Finding("color-stored-as-data", Severity.WARNING, text))
    if kind in IN_LIGHT and values.shape[2] >= 3 and is_grey(values) and float(np.ptp(values[..., 0])) > 0.0:
        findings.append(
            Finding("grey-stored-as-color", Severity.INFO, f"{name}: is grey in three channels; one would do")
        )
    if (values == values[:1, :1]).all():
        text = f"{name}: is the same everywhere; a value of its material would do"
        findings.append(Finding("constant-texture", Severity.INFO, text))
    elif kind == "normal":
        findings += _normal_faults(name, values)
    return findings


def _normal_faults(name: str, values: F32) -> list[Finding]:
    if values.shape[2] < 3:
        text = f"{name}: is used as a normal map and has {counted(values.shape[2], 'channel')}; make one of its heights"
        return [Finding("normal-map-grey", Severity.WARNING, text)]
    findings = []
    vectors = values[..., :3].astype(np.float64) * 2.0 - 1.0
    off = float(np.abs(np.sqrt(np.einsum("yxk,yxk->yx", vectors, vectors)) - 1.0).mean())
    if off > _LENGTH_OFF:
        text = f"{name}: its normals are {100 * off:.0f} % off length 1 on the average; Textures makes them 1"
        findings.append(Finding("normal-map-not-unit", Severity.WARNING, text))
    if green_is_down(values):
        text = f"{name}: its green seems to point down the picture, and glTF's points up; turn it over in Textures"
        findings.append(Finding("normal-map-green-down", Severity.WARNING, text))
    return findings


def green_is_down(values: F32) -> bool:
    """Whether a normal map fits a surface only with its green turned over.

    The slopes of a surface do not curl. Those of a map whose green points the other way do, but for what slopes along
    one axis alone.
    """
    up, down = (curl(values, sign) for sign in (1.0, -1.0))
    return up > _LITTLE and up > _SURE * down


def curl(values: F32, green: float) -> float:
    """The mean square of how much the slopes of a normal map curl, with its green times ``green``."""
    vectors: F64 = values[..., :3].astype(np.float64) * 2.0 - 1.0
    z = np.maximum(vectors[..., 2], 0.1)
    # Rows go down: a green that points up is a slope that falls along them.
    across, down = -vectors[..., 0] / z, green * vectors[..., 1] / z
    turn = np.gradient(across, axis=0) - np.gradient(down, axis=1)
    return float((turn**2).mean())
