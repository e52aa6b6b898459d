"""Where a prop's images are used, and for what."""

from dataclasses import dataclass, field

import numpy as np

from plindro.core.prop import Prop
from plindro.core.scene import Material, Texture, TextureSlot
from plindro.core.textures.rules import Border

_CLAMPED = 33071


@dataclass(slots=True)
class Use:
    """An image, by its number, with the materials and slots that it is used in.

    border : along u and v, wrapped where any use wraps
    uses_alpha : a material that is cut out or blended has it as its colour; ``cutoff`` is that of a cut-out
    """

    image: int
    materials: list[str] = field(default_factory=list)
    slots: set[TextureSlot] = field(default_factory=set)
    border: tuple[Border, Border] = ("clamp", "clamp")
    uses_alpha: bool = False
    cutoff: float | None = None


def uses_of(prop: Prop) -> list[Use]:
    """The images that the prop's faces use, in the order of the images."""
    found: dict[int, Use] = {}
    meshes = [level.mesh for level in prop.levels] or [prop.mesh]
    used = sorted({int(m) for mesh in meshes for m in np.unique(mesh.face_material)})
    for number in used:
        material = prop.materials[number]
        slots = {texture: slot for slot, texture in material.textures}
        for texture in material.all_textures():
            use = found.setdefault(texture.image, Use(texture.image))
            _add(use, material, texture, slots.get(texture))
    return [found[image] for image in sorted(found)]


def _add(use: Use, material: Material, texture: Texture, slot: TextureSlot | None) -> None:
    if material.name not in use.materials:
        use.materials.append(material.name)
    for own, other in material.textures:
        if other == texture:
            use.slots.add(own)
    x, y = ("clamp" if wrap == _CLAMPED else "wrap" for wrap in texture.wrap)
    use.border = (
        "wrap" if "wrap" in (x, use.border[0]) else "clamp",
        "wrap" if "wrap" in (y, use.border[1]) else "clamp",
    )
    if slot == "base_color" and material.alpha_mode != "OPAQUE":
        use.uses_alpha = True
        if material.alpha_mode == "MASK":
            use.cutoff = material.alpha_cutoff
