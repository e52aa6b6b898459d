"""Writing a prop in a destination's format."""

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from plindro.core.destinations import DATA_ENDING, GLTF, ONE_LEVEL, Destination, Format
from plindro.core.files.data.writer import write_data
from plindro.core.files.form import FileForm
from plindro.core.files.gltf.writer import write_glb, write_gltf
from plindro.core.files.obj.writer import write_obj
from plindro.core.files.ply.writer import write_ply
from plindro.core.files.stl.writer import write_stl
from plindro.core.files.usd.writer import write_usd
from plindro.core.polygons import with_whole_polygons
from plindro.core.prop import Prop
from plindro.core.shipping.destined import destined, form_of
from plindro.core.shipping.occluded import occlusion_of, with_occlusion


@dataclass(frozen=True, slots=True)
class ShippedFile:
    """A file of a prop: name and bytes."""

    path: str
    data: bytes

    @property
    def sha256(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


def write_prop(
    prop: Prop, destination: Destination, on_step: Callable[[], None] = lambda: None
) -> tuple[ShippedFile, ...]:
    """The files of a prop with levels, in the destination's form: its own first, then what it names.

    Formats that hold polygons keep those of LOD0 whole that have fewer sides than the prop's triangulation cuts.
    ``on_step`` is called now and then and may raise to stop. Raises ``ValueError`` where there are no levels.
    """
    form = form_of(destination)
    prop = destined(prop, destination)
    occlusion = occlusion_of(prop, destination, on_step)
    prop = with_occlusion(prop, destination, occlusion)
    data = {f"{form.stem(prop.name)}{DATA_ENDING}": write_data(prop, form, occlusion)} if destination.data_file else {}
    textures = tuple(ShippedFile(file.path, file.data) for file in prop.gpu_files)
    images = tuple(ShippedFile(file.path, file.data) for file in prop.image_files)
    own = _own_files(_with_polygons(prop, destination), form, destination)
    if destination.format not in GLTF:
        images = ()
    if destination.format in ONE_LEVEL:
        textures = ()

    def lying(file: ShippedFile) -> ShippedFile:
        return (
            file if destination.is_shared(file.path) else replace(file, path=destination.own_path(prop.name, file.path))
        )

    files = (*_shipped(own), *images, *textures, *_shipped(data))
    return tuple({file.path: file for file in map(lying, files)}.values())


def _own_files(prop: Prop, form: FileForm, destination: Destination) -> dict[str, bytes]:
    """The files that hold a prop's meshes, and those that are its alone."""
    kind = destination.format
    if kind == "glb":
        return {f"{form.stem(prop.name)}.glb": write_glb(prop, form)}
    if kind == "gltf":
        return write_gltf(prop, form)
    if kind == "obj":
        return write_obj(prop, form)
    if kind == "ply":
        return write_ply(prop, form)
    if kind == "stl":
        return write_stl(prop, form)
    return write_usd(prop, _USD[kind], form)


_USD: dict[Format, str] = {"usd": ".usdc", "usda": ".usda", "usdz": ".usdz"}


def _shipped(files: Mapping[str, bytes]) -> tuple[ShippedFile, ...]:
    return tuple(ShippedFile(path, data) for path, data in files.items())


def _with_polygons(prop: Prop, destination: Destination) -> Prop:
    """The prop with the polygons of LOD0 whole, where the format holds them."""
    if prop.polygons is None or not prop.levels or destination.format in (*GLTF, "stl"):
        return prop
    first, *others = prop.levels
    return replace(prop, levels=(replace(first, mesh=with_whole_polygons(first.mesh, prop.polygons)), *others))
