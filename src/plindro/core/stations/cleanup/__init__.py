"""Station Cleanup: faults of the mesh found, counted, shown and repaired."""

from plindro.core.station import Station, alone
from plindro.core.stations.cleanup.clean import clean
from plindro.core.stations.cleanup.facts import CleanupFacts
from plindro.core.stations.cleanup.settings import CleanupSettings
from plindro.core.stations.cleanup.station import run

CLEANUP = Station(
    name="cleanup",
    title="Cleanup",
    settings=CleanupSettings,
    facts=CleanupFacts,
    version=5,
    share=14,
    run=alone(run),
    is_surveyed=True,
)

__all__ = ["CLEANUP", "CleanupFacts", "CleanupSettings", "clean", "run"]
