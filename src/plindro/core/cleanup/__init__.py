"""Station Cleanup: faults of the mesh found, counted, shown and repaired."""

from plindro.core.cleanup.clean import clean
from plindro.core.cleanup.settings import CleanupSettings
from plindro.core.cleanup.station import VERSION, run

__all__ = ["VERSION", "CleanupSettings", "clean", "run"]
