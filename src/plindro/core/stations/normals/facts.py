"""What Normals found out: how the normals were made, what they cost, and the edges that the choice rests on."""

from typing import Literal

from pydantic import Field

from plindro.core.settings import StationFacts


class PartNormals(StationFacts):
    """Corners of a part that kept the source's normals, and those whose normals were computed."""

    path: str
    kept: int
    computed: int


class MarkCounts(StationFacts):
    """What was marked by hand and found its place."""

    hard: int
    soft: int
    patches: int


class CostSample(StationFacts):
    """The engine vertices that a threshold in degrees would give."""

    angle: float
    vertices: int


class NormalsFacts(StationFacts):
    """The rule that made the normals and its evidence.

    ``rule`` says what decided: the source's normals, its smoothing groups, an angle, or one shading for all.
    """

    rule: Literal["imported", "groups", "angle", "smooth", "flat"]
    angle: float | None = Field(description="degrees, where an angle decided")
    computed: int = Field(description="corners whose normals were computed where the rule is imported")
    has_marks: bool
    words: str = Field(description="the same for people")
    parts: list[PartNormals]
    marks: MarkCounts
    edge_angles: list[int] = Field(description="edges between faces by degree of fold, 180 bins")
    cost: list[CostSample]
    hard_edges: int
    hard_cost: int = Field(description="engine vertices that the hard edges add")
