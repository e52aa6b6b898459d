"""Station Cleanup: faults of the mesh found, counted, shown and repaired."""

from plindro.core.cleanup.clean import clean
from plindro.core.cleanup.settings import CleanupSettings

__all__ = ["CleanupSettings", "clean"]
