"""Writing a file whole or not at all."""

import os
import tempfile
from pathlib import Path


def write_whole(path: Path, data: bytes, *, mode: int | None = None) -> bool:
    """Write ``data`` to ``path`` through a file beside it; returns False where the file already held these bytes.

    ``mode`` are its rights, where not those that the process gives. Raises ``OSError``.

    An unchanged file is left alone, so that tools which watch it do not import it again.
    """
    if path.is_file() and path.stat().st_size == len(data) and path.read_bytes() == data:
        return False
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        umask = os.umask(0)
        os.umask(umask)
        os.chmod(temporary, 0o666 & ~umask if mode is None else mode)
        os.replace(temporary, path)
    except BaseException:
        Path(temporary).unlink(missing_ok=True)
        raise
    return True
