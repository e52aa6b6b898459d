"""Files that another file names."""

import posixpath
from collections.abc import Mapping
from pathlib import PurePosixPath


def find_beside(path: str, named: str, files: Mapping[str, bytes]) -> bytes | None:
    """The file that ``path`` names, told from where ``path`` lies; None where there is none. The case counts, as it
    does on the machines that build games."""
    return files.get(posixpath.normpath(str(PurePosixPath(path).parent / named)))
