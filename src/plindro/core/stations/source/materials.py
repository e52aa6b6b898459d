"""Materials of a prop: equal ones merged, in alphabetical order, lettered where wished."""

from dataclasses import dataclass, replace

import numpy as np

from plindro.core.mesh.mesh import I32, Mesh
from plindro.core.scene import Image, Material


@dataclass(frozen=True, slots=True)
class OrderedMaterials:
    """A mesh on its materials.

    ``merged`` are (name that went, name that stayed) pairs, ``slots`` which material each of the source's names became.
    """

    mesh: Mesh
    materials: tuple[Material, ...]
    merged: list[tuple[str, str]]
    slots: dict[str, int]


def order_materials(
    mesh: Mesh, materials: tuple[Material, ...], images: tuple[Image, ...], *, merge: bool, letters: bool
) -> OrderedMaterials:
    """The mesh on materials in alphabetical order; those that no face uses go.

    Equal values and images make materials equal, whatever their names; the alphabetically first name stays. Of a
    material that no library knows nothing is equal to another's.
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
    if not np.array_equal(number[mesh.face_material], mesh.face_material):
        mesh = replace(mesh, face_material=number[mesh.face_material].astype(np.int32))
    return OrderedMaterials(mesh, named, merged, {materials[m].name: slot for m, slot in stands_for.items()})


def letter(slot: int) -> str:
    """A, B ... Z, AA, AB ...; in alphabetical order for up to 26."""
    return (letter(slot // 26 - 1) if slot >= 26 else "") + chr(65 + slot % 26)


def _value(material: Material, images: tuple[Image, ...]) -> object:
    """Everything that is seen of a material, or what it is called where nothing else is known."""
    if not material.is_known:
        return material.name
    digests = tuple(images[t.image].digest for t in material.all_textures())
    return (replace(material.with_textures(lambda t: replace(t, image=0)), name=""), digests)
