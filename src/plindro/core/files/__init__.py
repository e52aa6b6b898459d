"""Reading sources and writing what ships: ``read_scene`` here, writers in the folder of their format."""

from plindro.core.files.reading import READABLE_SUFFIXES, read_scene
from plindro.core.files.sidefiles import FolderFiles, MemoryFiles, PathFiles, SideFiles

__all__ = ["READABLE_SUFFIXES", "FolderFiles", "MemoryFiles", "PathFiles", "SideFiles", "read_scene"]
