"""Station Normals: hard and soft edges, normals per corner, tangents."""

from plindro.core.station import LaterStep, Station, alone
from plindro.core.stations.normals.facts import NormalsFacts
from plindro.core.stations.normals.settings import NormalsSettings
from plindro.core.stations.normals.station import run
from plindro.core.stations.normals.tangents import add_tangents

NORMALS = Station(
    name="normals",
    title="Normals",
    settings=NormalsSettings,
    facts=NormalsFacts,
    version=7,
    share=15,
    run=alone(run),
    # On the meshes that ship: those of the levels, with their final normals.
    later=(LaterStep(add_tangents),),
)

__all__ = ["NORMALS", "NormalsFacts", "NormalsSettings", "run"]
