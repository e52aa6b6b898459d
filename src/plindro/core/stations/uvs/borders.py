"""Islands pulled in from painted borders, and textures filled around islands."""

from dataclasses import replace

import numpy as np

from plindro.core.findings import Finding, Severity, counted
from plindro.core.mesh.mesh import I32, Mask
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.sheets.filling import fill_around
from plindro.core.sheets.raster import paint
from plindro.core.stations.uvs.settings import UvsSettings
from plindro.core.textures.images import decode, encode
from plindro.core.unwrap.inset import inset


def with_inset(prop: Prop, settings: UvsSettings, pixels: int, report: Report) -> Prop:
    """The prop with channel 0's islands pulled in, as its settings ask."""
    if not settings.inset or not prop.mesh.uvs:
        return prop
    made = inset(prop.mesh, 0, settings.inset, pixels)
    if made.thin:
        text = (
            f"{counted(made.thin, 'island')} of channel 0 are too thin to be pulled in by {settings.inset} pixels and "
            "were pulled in by less"
        )
        report.find(Finding("uv-inset-thin", Severity.INFO, text, made.thin))
    return replace(prop, mesh=replace(prop.mesh, uvs=(made.uvs, *prop.mesh.uvs[1:])))


def with_filled_textures(prop: Prop, settings: UvsSettings, report: Report) -> Prop:
    """The prop with the colours of its textures carried out around channel 0's islands, as its settings ask."""
    if not settings.fill or not prop.mesh.uvs:
        return prop
    images = list(prop.images)
    for index in range(len(images)):
        report.step(index / len(images), f"filling {images[index].name}")
        covered = _covered(prop, index)
        if covered is None:
            continue
        values = decode(images[index])
        filled = fill_around(values, covered, settings.fill)
        if not np.array_equal(filled, values):
            images[index] = encode(images[index].name, filled)
    return replace(prop, images=tuple(images))


def _covered(prop: Prop, index: int) -> Mask | None:
    """(H, W) the pixels of an image that islands touch; None where it is read through another channel or moved."""
    mesh, image = prop.mesh, prop.images[index]
    uses = [(m, t) for m, material in enumerate(prop.materials) for t in material.all_textures() if t.image == index]
    if not uses or any(texture.channel != 0 or texture.transform for _, texture in uses):
        return None
    chosen = np.isin(mesh.face_material, [material for material, _ in uses])
    corners = mesh.uvs[0].reshape(-1, 3, 2)[chosen].astype(np.float64) * [image.width, image.height]
    values: I32 = np.zeros(len(corners), np.int32)
    return paint(corners, values, image.width, image.height, wraps=True) >= 0
