"""Station Collision: what stops a walker or a ball, as a few closed convex meshes that travel with the prop."""

from plindro.core.station import Station
from plindro.core.stations.collision.facts import CollisionFacts, ProxyFacts
from plindro.core.stations.collision.settings import CollisionSettings, PartCollision
from plindro.core.stations.collision.station import inputs, run

COLLISION = Station(
    name="collision",
    title="Collision",
    settings=CollisionSettings,
    facts=CollisionFacts,
    version=1,
    share=4,
    run=run,
    inputs=inputs,
)

__all__ = ["COLLISION", "CollisionFacts", "CollisionSettings", "PartCollision", "ProxyFacts"]
