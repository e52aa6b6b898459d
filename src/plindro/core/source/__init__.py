"""Station Source: what ships of a scene, and as which props."""

from plindro.core.source.choice import PropPlan, choose, plan_props
from plindro.core.source.settings import SourceSettings, Split
from plindro.core.source.station import VERSION, part_triangles, plan_fact, run
from plindro.core.source.view import view_of_source

__all__ = [
    "VERSION",
    "PropPlan",
    "SourceSettings",
    "Split",
    "choose",
    "part_triangles",
    "plan_fact",
    "plan_props",
    "run",
    "view_of_source",
]
