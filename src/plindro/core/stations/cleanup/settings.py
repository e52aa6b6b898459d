"""Settings of Cleanup: a switch for every repair, and what counts as a fault."""

from typing import Literal

from pydantic import Field

from plindro.core.marks import Spot
from plindro.core.settings import StationSettings


class Turned(Spot):
    """Faces turned by hand: the one marked, the patch that grows from it over small folds, or its whole shell."""

    scope: Literal["face", "patch", "shell"] = "face"
    angle: float = Field(20.0, ge=0, le=180, description="for patch: grows over folds up to so many degrees")


class CleanupSettings(StationSettings):
    """What is repaired; everything is found and counted whether or not its switch is on. Lengths in millimetres."""

    non_finite: bool = Field(True, description="remove faces with non-finite vertices; repair such UVs and normals")
    loose: bool = Field(True, description="remove vertices and edges without a face")
    unwelded: bool = Field(True, description="weld vertices that leave an open seam")
    weld_mm: float = Field(0.01, ge=0, le=1000, description="weld distance", json_schema_extra={"unit": "mm"})
    zero_area: bool = Field(True, description="remove faces without area")
    slivers: bool = Field(False, description="remove slivers")
    sliver_ratio: float = Field(0.001, ge=0, le=0.1, description="a sliver's height over its length")
    duplicates: bool = Field(True, description="remove faces over the same vertices as another")
    t_vertices: bool = Field(True, description="insert T-vertices into the edges that they lie on")
    t_vertex_mm: float = Field(
        0.01, ge=0, le=1000, description="a T-vertex's largest distance from its edge", json_schema_extra={"unit": "mm"}
    )
    non_manifold_edges: bool = Field(True, description="split edges of more than two faces")
    non_manifold_vertices: bool = Field(True, description="split vertices that join separate fans")
    winding: bool = Field(True, description="make the winding of each shell consistent and outward")
    small_shells: bool = Field(False, description="remove tiny shells")
    small_shell_ratio: float = Field(0.005, ge=0, le=1, description="a small shell's diagonal over the prop's")
    holes: bool = Field(False, description="close small flat holes by a face")
    hole_mm: float = Field(
        100.0,
        ge=0,
        le=1_000_000,
        description="length of the longest hole to be closed",
        json_schema_extra={"unit": "mm"},
    )
    planarity_ratio: float = Field(0.01, ge=0, le=1, description="a polygon's distance off its plane over its size")
    flipped: tuple[Turned, ...] = Field(
        (),
        max_length=5_000,
        description="faces flipped by hand, after the repairs",
        json_schema_extra={"by_hand": True},
    )
    overlap_mm: float = Field(
        0.01,
        ge=0,
        le=1000,
        description="largest distance at which faces in one plane overlap",
        json_schema_extra={"unit": "mm"},
    )
