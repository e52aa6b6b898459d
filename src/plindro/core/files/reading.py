"""From a file's bytes to a scene: the format is told by the content, and the name must agree with it."""

from pathlib import PurePosixPath

from plindro.core.errors import UnreadableFile, UnsupportedFile
from plindro.core.files.gltf.reader import read_gltf
from plindro.core.files.limits import Census
from plindro.core.files.obj.reader import read_obj
from plindro.core.files.ply.reader import read_ply
from plindro.core.files.sidefiles import MemoryFiles, SideFiles
from plindro.core.files.stl.reader import read_stl
from plindro.core.files.usd.reader import read_usd
from plindro.core.scene import Scene

USD_SUFFIXES = (".usd", ".usda", ".usdc", ".usdz")
READABLE_SUFFIXES = (".glb", ".gltf", ".obj", ".ply", ".stl", *USD_SUFFIXES)
GLB_MAGIC = b"glTF"


def read_scene(data: bytes, name: str, side_files: SideFiles | None = None) -> Scene:
    """Read a source.

    ``name`` is the file's name (for the format and for messages); ``side_files`` gives the files it refers to.
    Raises ``UnreadableFile`` or ``UnsupportedFile`` with one sentence that names the file.
    """
    side_files = side_files or MemoryFiles({})
    suffix = PurePosixPath(name).suffix.lower()
    if suffix not in READABLE_SUFFIXES:
        raise UnsupportedFile(
            f"{name}: files ending in '{suffix or name}' are not read; give one of {', '.join(READABLE_SUFFIXES)}"
        )
    if not data.strip(b"\0 \t\r\n"):
        raise UnreadableFile(f"{name}: the file is empty; export it again from its source")
    is_glb = data[:4] == GLB_MAGIC
    if suffix == ".glb" and not is_glb:
        raise UnreadableFile(f"{name}: is not a GLB file (it does not begin with 'glTF'); export it again as GLB")
    if suffix == ".obj" and (is_glb or b"\0" in data[:4096]):
        raise UnreadableFile(f"{name}: is not an OBJ file but binary data; give it the ending of its real format")
    census = Census(name)
    try:
        scene = _read(data, name, suffix, side_files, census)
        census.check(scene.mesh)
    except MemoryError as error:
        raise UnreadableFile(f"{name}: asks for more memory than there is; the file is damaged or too large") from error
    return scene


def _read(data: bytes, name: str, suffix: str, side_files: SideFiles, census: Census) -> Scene:
    if suffix == ".obj":
        return read_obj(data, name, side_files, census)
    if suffix == ".ply":
        return read_ply(data, name, side_files, census)
    if suffix == ".stl":
        return read_stl(data, name, census)
    if suffix in USD_SUFFIXES:
        return read_usd(data, name, side_files, census)
    return read_gltf(data, name, side_files, census)
