"""Materials of a prop: equal ones merged, in alphabetical order, lettered where wished."""

from dataclasses import replace

import numpy as np

from plindro.core.mesh.mesh import I32, Mesh
from plindro.core.scene import Image, Material


def order_materials(
    mesh: Mesh, materials: tuple[Material, ...], images: tuple[Image, ...], *, merge: bool, letters: bool
) -> tuple[Mesh, tuple[Material, ...], list[tuple[str, str]]]:
    """The mesh on materials in alphabetical order; those that no face uses go.

    Equal values and images make materials equal, whatever their names; the alphabetically first name stays. Returns the
    mesh, the materials, and (name that went, name that stayed) pairs.
    """
    used = np.unique(mesh.face_material).tolist()
    used.sort(key=lambda m: (materials[m].name.lower(), materials[m].name, m))
    kept: list[int] = []
    stands_for: dict[int, int] = {}
    merged: list[tuple[str, str]] = []
    by_value: dict[object, int] = {}
    for m in used:
        value = _value(materials[m], images) if merge else m
        if value in by_value:
            stands_for[m] = by_value[value]
            merged.append((materials[m].name, materials[kept[by_value[value]]].name))
            continue
        by_value[value] = stands_for[m] = len(kept)
        kept.append(m)
    number: I32 = np.zeros(len(materials), np.int32)
    for m, slot in stands_for.items():
        number[m] = slot
    named = tuple(
        replace(materials[m], name=f"{letter(slot)}_{materials[m].name}") if letters else materials[m]
        for slot, m in enumerate(kept)
    )
    if np.array_equal(number[mesh.face_material], mesh.face_material):
        return mesh, named, merged
    return replace(mesh, face_material=number[mesh.face_material].astype(np.int32)), named, merged


def letter(slot: int) -> str:
    """A, B ... Z, AA, AB ...; in alphabetical order for up to 26."""
    return (letter(slot // 26 - 1) if slot >= 26 else "") + chr(65 + slot % 26)


def _value(material: Material, images: tuple[Image, ...]) -> object:
    """Everything that is seen of a material."""
    digests = tuple(images[t.image].digest for t in material.all_textures())
    return (replace(material.with_textures(lambda t: replace(t, image=0)), name=""), digests)
