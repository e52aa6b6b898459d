"""From bytes to an open stage: the root layer and every file that it names are laid into a folder of their own.

OpenUSD reads files, not bytes. What a layer names is taken through the side files only, and a name of a layer that is
not among them is taken out before the stage is composed: OpenUSD would look for it on the whole disk.
"""

import io
import tempfile
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import Any

from plindro.core.errors import UnreadableFile
from plindro.core.files.sidefiles import MemoryFiles, SideFiles, clean_name

MOST_LAYERS = 500
MOST_UNPACKED = 2 * 1024**3
"""Bytes that the members of a package may have together."""
LAYERS = (".usd", ".usda", ".usdc", ".usdz")


class _Package:
    """The members of a package, then the files beside it."""

    def __init__(self, members: dict[str, bytes], beside: SideFiles) -> None:
        self._members, self._beside = MemoryFiles(members), beside

    def get(self, name: str) -> bytes | None:
        found = self._members.get(name)
        return self._beside.get(name) if found is None else found

    def names(self) -> Iterable[str]:
        return (*self._members.names(), *self._beside.names())


@contextmanager
def open_stage(data: bytes, name: str, side_files: SideFiles) -> Iterator[tuple[Any, SideFiles]]:
    """The stage of a USD file and the files that it may name, for as long as the context is open.

    Raises ``UnreadableFile`` where the file is damaged.
    """
    from pxr import Tf, Usd

    own_name = PurePosixPath(clean_name(name)).name
    if own_name.lower().endswith(".usdz"):
        own_name, data, side_files = _unpacked(data, name, side_files)
    with tempfile.TemporaryDirectory(prefix="usd_") as folder:
        root = Path(folder) / own_name
        root.parent.mkdir(parents=True, exist_ok=True)
        root.write_bytes(data)
        try:
            # Layers are changed in memory alone, so they are held until the stage has taken them.
            layers = _gather(root, Path(folder), side_files)
            stage = Usd.Stage.Open(layers[0]) if layers else None
        except (Tf.ErrorException, UnicodeDecodeError) as error:
            raise UnreadableFile(
                f"{name}: is no USD file that can be read ({_reason(error)}); export it again"
            ) from error
        if stage is None:
            raise UnreadableFile(f"{name}: is no USD file that can be read; export it again")
        yield stage, side_files


def _unpacked(data: bytes, name: str, side_files: SideFiles) -> tuple[str, bytes, SideFiles]:
    """Name and bytes of a package's first layer, and its members as side files."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = [entry for entry in archive.infolist() if not entry.is_dir()]
            if sum(entry.file_size for entry in entries) > MOST_UNPACKED:
                raise UnreadableFile(f"{name}: unpacks to more than 2 GiB; give its files apart")
            members = {entry.filename: archive.read(entry) for entry in entries}
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, ValueError, EOFError, zlib.error) as error:
        raise UnreadableFile(f"{name}: is no USD package that can be read; export it again") from error
    roots = [path for path in members if PurePosixPath(path).suffix.lower() in LAYERS[:3]]
    if not roots:
        raise UnreadableFile(f"{name}: there is no layer in this package; export it again")
    first = PurePosixPath(clean_name(roots[0])).name
    return first, members[roots[0]], _Package(members, side_files)


def _reason(error: Exception) -> str:
    """The last line of OpenUSD's message, without its places in code and on disk."""
    lines = [line.strip() for line in str(error).splitlines() if line.strip()]
    last = lines[-1].split(" -- ")[-1] if lines else "damaged"
    return " ".join(word for word in last.split() if "/" not in word)[:120] or "damaged"


def _gather(root: Path, folder: Path, side_files: SideFiles) -> list[Any]:
    """The root's layer and every one that it names, and that those name, laid beside it and open."""
    from pxr import Sdf, UsdUtils

    layers: dict[Path, Any] = {}
    waiting = [root]
    while waiting and len(layers) < MOST_LAYERS:
        path = waiting.pop()
        layer = None if path in layers else Sdf.Layer.FindOrOpen(str(path))
        if layer is None:
            continue
        layers[path] = layer

        def inside(asset: str, path: Path = path) -> str:
            """The asset where it lies among the source's own files; a layer that does not is named no more."""
            suffix = PurePosixPath(clean_name(asset)).suffix.lower()
            if suffix and suffix not in LAYERS and "[" not in asset:
                return asset
            target = _laid(folder, path.parent / clean_name(asset), side_files)
            if target is None:
                return ""
            waiting.append(target)
            return target.as_posix()

        UsdUtils.ModifyAssetPaths(layer, inside)
    return list(layers.values())


def _laid(folder: Path, path: Path, side_files: SideFiles) -> Path | None:
    """Where a layer lies in the folder, once it is written there; None where the source has no such file."""
    try:
        target = path.resolve()
        below = target.relative_to(folder.resolve())
    except (OSError, ValueError):
        return None
    if target.suffix.lower() not in LAYERS[:3]:
        return None
    if not target.exists():
        found = side_files.get(below.as_posix())
        if found is None:
            return None
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(found)
    return target
