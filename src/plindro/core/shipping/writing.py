"""Writing a prop in a destination's format."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, replace

from plindro.core.destinations import GLTF, Destination, Format
from plindro.core.files.gltf.writer import write_glb, write_gltf
from plindro.core.files.obj.writer import write_obj
from plindro.core.files.ply.writer import write_ply
from plindro.core.files.stl.writer import write_stl
from plindro.core.files.usd.writer import write_usd
from plindro.core.polygons import with_whole_polygons
from plindro.core.prop import Prop
from plindro.core.shipping.destined import destined, form_of


@dataclass(frozen=True, slots=True)
class ShippedFile:
    """A file of a prop: name and bytes."""

    path: str
    data: bytes

    @property
    def sha256(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


def write_prop(prop: Prop, destination: Destination) -> tuple[ShippedFile, ...]:
    """The files of a prop with levels, in the destination's form: its own first, then what it names.

    Formats that hold polygons keep those of LOD0 whole that have fewer sides than the prop's triangulation cuts.
    Raises ``ValueError`` where there are no levels.
    """
    prop, form = destined(_with_polygons(prop, destination), destination), form_of(destination)
    kind = destination.format
    textures = tuple(ShippedFile(file.path, file.data) for file in prop.gpu_files)
    images = tuple(ShippedFile(file.path, file.data) for file in prop.image_files)
    if kind == "glb":
        return (ShippedFile(f"{form.stem(prop.name)}.glb", write_glb(prop, form)), *images, *textures)
    if kind == "gltf":
        files = write_gltf(prop, form)
    elif kind == "obj":
        files, images = write_obj(prop, form), ()
    elif kind == "ply":
        return _shipped(write_ply(prop, form))
    elif kind == "stl":
        return _shipped(write_stl(prop, form))
    else:
        files, images = write_usd(prop, _USD[kind], form), ()
    return (*_shipped(files), *images, *textures)


_USD: dict[Format, str] = {"usd": ".usdc", "usda": ".usda", "usdz": ".usdz"}


def _shipped(files: Mapping[str, bytes]) -> tuple[ShippedFile, ...]:
    return tuple(ShippedFile(path, data) for path, data in files.items())


def _with_polygons(prop: Prop, destination: Destination) -> Prop:
    """The prop with the polygons of LOD0 whole, where the format holds them."""
    if prop.polygons is None or not prop.levels or destination.format in (*GLTF, "stl"):
        return prop
    first, *others = prop.levels
    return replace(prop, levels=(replace(first, mesh=with_whole_polygons(first.mesh, prop.polygons)), *others))
