"""From bytes to an open stage: the root layer and every file that it names are laid into a folder of their own.

OpenUSD reads files, not bytes. What a layer names is taken through the side files only, so that nothing outside the
source's folder is opened; a name that leads out of the folder is not followed.
"""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import Any

from plindro.core.errors import UnreadableFile
from plindro.core.files.sidefiles import SideFiles, clean_name

MOST_LAYERS = 500


@contextmanager
def open_stage(data: bytes, name: str, side_files: SideFiles) -> Iterator[tuple[Any, Path]]:
    """The stage of a USD file and the folder in which it lies, for as long as the context is open.

    Raises ``UnreadableFile`` where the file is damaged.
    """
    from pxr import Tf, Usd

    with tempfile.TemporaryDirectory(prefix="usd_") as folder:
        root = Path(folder) / PurePosixPath(clean_name(name)).name
        root.write_bytes(data)
        try:
            if root.suffix.lower() != ".usdz":
                _gather(root, Path(folder), side_files)
            stage = Usd.Stage.Open(str(root))
        except Tf.ErrorException as error:
            raise UnreadableFile(
                f"{name}: is no USD file that can be read ({_reason(error)}); export it again"
            ) from error
        if stage is None:
            raise UnreadableFile(f"{name}: is no USD file that can be read; export it again")
        yield stage, Path(folder)


def _reason(error: Exception) -> str:
    """The last line of OpenUSD's message, without its places in code and on disk."""
    lines = [line.strip() for line in str(error).splitlines() if line.strip()]
    last = lines[-1].split(" -- ")[-1] if lines else "damaged"
    return " ".join(word for word in last.split() if "/" not in word)[:120] or "damaged"


def _gather(root: Path, folder: Path, side_files: SideFiles) -> None:
    """Lay every layer that the root names, and every one that those name, beside it."""
    from pxr import UsdUtils

    waiting = [root]
    seen: set[Path] = set()
    while waiting and len(seen) < MOST_LAYERS:
        path = waiting.pop()
        if path in seen:
            continue
        seen.add(path)
        sublayers, references, payloads = UsdUtils.ExtractExternalReferences(str(path))
        for reference in (*sublayers, *references, *payloads):
            target = _inside(folder, path.parent / clean_name(reference))
            if target is None or target.suffix.lower() not in (".usd", ".usda", ".usdc", ".usdz"):
                continue
            found = side_files.get(target.relative_to(folder).as_posix())
            if found is not None and not target.exists():
                target.parent.mkdir(parents=True, exist_ok=True)
                target.write_bytes(found)
                waiting.append(target)


def _inside(folder: Path, path: Path) -> Path | None:
    resolved = Path(folder, path).resolve()
    base = folder.resolve()
    return folder / resolved.relative_to(base) if resolved.is_relative_to(base) else None
