"""Writing a prop in a destination's format, and reading it back where that format is one that sources come in."""

import hashlib
from dataclasses import dataclass, replace

from plindro.core.destinations import Format
from plindro.core.errors import PlindroError
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.files.gltf.writer import write_glb
from plindro.core.files.obj.writer import write_obj
from plindro.core.files.usd.writer import write_usd
from plindro.core.findings import Finding, Severity
from plindro.core.polygons import with_whole_polygons
from plindro.core.prop import Prop

_OF_PROXIES = frozenset({"uvs-partly-missing"})


@dataclass(frozen=True, slots=True)
class ShippedFile:
    """A file of a prop: name and bytes."""

    path: str
    data: bytes

    @property
    def sha256(self) -> str:
        return hashlib.sha256(self.data).hexdigest()


def write_prop(prop: Prop, kind: Format, suffix: str = "") -> tuple[ShippedFile, ...]:
    """The files of a prop with levels, its own first, then what it names.

    OBJ and USD keep the polygons of LOD0 whole that have fewer sides than the prop's triangulation cuts. ``suffix``
    chooses among the endings of a format. Raises ``ValueError`` where there are no levels.
    """
    textures = tuple(ShippedFile(file.path, file.data) for file in prop.gpu_files)
    if kind == "glb":
        images = tuple(ShippedFile(file.path, file.data) for file in prop.image_files)
        return (ShippedFile(f"{prop.name}.glb", write_glb(prop)), *images, *textures)
    whole = _with_polygons(prop)
    files = write_obj(whole) if kind == "obj" else write_usd(whole, suffix or ".usdc")
    return (*(ShippedFile(path, data) for path, data in files.items()), *textures)


def _with_polygons(prop: Prop) -> Prop:
    if prop.polygons is None or not prop.levels:
        return prop
    first, *others = prop.levels
    return replace(prop, levels=(replace(first, mesh=with_whole_polygons(first.mesh, prop.polygons)), *others))


def reread(prop: Prop, files: tuple[ShippedFile, ...]) -> list[Finding]:
    """Read written OBJ or USD back and say where it does not hold what was written."""
    main, *others = files
    try:
        scene = read_scene(main.data, main.path, MemoryFiles({file.path: file.data for file in others}))
    except PlindroError as error:
        return [Finding("written-unreadable", Severity.STOP, f"what was written cannot be read back: {error}")]
    wanted = sum(level.mesh.n_triangles for level in _with_polygons(prop).levels)
    if main.path.endswith(".obj"):
        # The format has no word for what is not drawn: proxies come back as objects without UVs.
        wanted += sum(len(proxy.mesh.triangles) for proxy in prop.proxies)
    if scene.mesh.n_triangles != wanted:
        text = f"{main.path} holds {scene.mesh.n_triangles} triangles where {wanted} were written"
        return [Finding("written-differs", Severity.STOP, text)]
    told = _OF_PROXIES if prop.proxies else frozenset()
    return [f for f in scene.findings if f.severity is not Severity.INFO and f.code not in told]
