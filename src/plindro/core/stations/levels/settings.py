"""Settings of Levels."""

from itertools import pairwise
from typing import Literal

from pydantic import Field, model_validator

from plindro.core.marks import Spot
from plindro.core.measure.game_view import View
from plindro.core.reduction import Limits
from plindro.core.settings import StationSettings

MAX_LEVELS = 8
LIMITS = ("ratio", "triangles", "vertices", "tolerance", "tolerance_mm", "pixels", "distance")
_USUAL_VIEW = View()
_VIEW = {"max_pixel_error", "view_height", "vertical_fov"}
"""Settings of the view in which switches are judged."""
NormalsChoice = Literal["closest", "keep", "recompute", "transfer"]


class LevelTarget(StationSettings):
    """How far one level is reduced; where several limits are given, the first that is met stops it."""

    ratio: float | None = Field(None, gt=0.0, lt=1.0, description="share of LOD0's triangles")
    triangles: int | None = Field(None, ge=1, description="triangles")
    vertices: int | None = Field(None, ge=3, description="engine vertices")
    tolerance: float | None = Field(None, gt=0.0, le=100.0, description="maximum deviation, percent of the diagonal")
    tolerance_mm: float | None = Field(None, gt=0.0, description="maximum deviation, millimetres")
    pixels: float | None = Field(None, gt=0.0, description="maximum pixel error at the distance")
    distance: float | None = Field(None, gt=0.0, description="for pixels: metres from the viewer")
    remesh: bool = Field(False, description="isotropic remesh instead of edge collapse, for soft and dense sources")
    edge_length_mm: float | None = Field(None, gt=0.0, description="for remesh: edge length in millimetres")
    silhouette_weight: float | None = Field(
        None, ge=0.0, le=10.0, description="silhouette weight, where not the chain's"
    )
    curvature_weight: float | None = Field(None, ge=0.0, le=10.0, description="curvature weight, where not the chain's")
    normals: NormalsChoice | None = Field(None, description="its normals, where not as the chain's")
    excluded_parts: tuple[str, ...] = Field((), description="names, paths or patterns of excluded parts")
    exclude_below_px: float | None = Field(
        None, gt=0.0, description="excludes parts smaller than this many pixels at its switch distance"
    )
    texture_step: int = Field(0, ge=0, le=8, description="how many times its textures are halved")
    hand_made: str | None = Field(
        None, max_length=200, description="file beside the source that holds this level, modelled by hand"
    )
    switch_distance: float | None = Field(
        None, gt=0.0, description="switch distance in metres, before the bias, instead of the one proposed"
    )

    @model_validator(mode="after")
    def _say_something(self) -> "LevelTarget":
        if self.remesh:
            if self.ratio is None and self.triangles is None and self.edge_length_mm is None:
                raise ValueError("a remesh needs a ratio, a triangle count or an edge length")
        elif self.hand_made is None:
            self.limits()
        return self

    def limits(self, view_height: int = _USUAL_VIEW.lines, vertical_fov: float = _USUAL_VIEW.angle) -> Limits:
        """The same for the reduction; raises ``ValueError`` where nothing, or half of a pair, is given."""
        limits = {key: value for key, value in self.model_dump().items() if key in LIMITS}
        return Limits(**limits, view_height=view_height, view_angle=vertical_fov)

    def in_words(self) -> str:
        """What it says, for people: ``25% and 3 mm``."""
        said = (
            ("{:.3g}%", self.ratio and 100 * self.ratio),
            ("{:,} triangles", self.triangles),
            ("{:,} vertices", self.vertices),
            ("{:.3g}% of the size", self.tolerance),
            ("{:.3g} mm", self.tolerance_mm),
            ("{:.3g} px", self.pixels),
            ("at {:.3g} m", self.distance),
            ("edges of {:.3g} mm", self.edge_length_mm if self.remesh else None),
        )
        if self.hand_made is not None:
            return self.hand_made
        words = " and ".join(text.format(value) for text, value in said if value is not None)
        words = words.replace(" and at ", " at ").replace(",", "\u202f")
        return f"remesh, {words}" if self.remesh else words


class Protected(Spot):
    """A patch that is not reduced: it grows from its spot."""

    by: Literal["angle", "material", "part", "shell"] = "angle"
    angle: float = Field(20.0, ge=0.0, le=180.0, description="for angle: grows over folds up to so many degrees")


class State(StationSettings):
    """A variant of the prop, as damaged; where it has no level of its own the base state's is taken."""

    name: str = Field(pattern=r"^[A-Za-z0-9_]+$", max_length=40)
    parts: tuple[str, ...] = Field(
        min_length=1, description="names, paths or patterns of the parts that are its own; the base goes without them"
    )
    shared_parts: tuple[str, ...] = Field(
        (), description="names, paths or patterns of parts that it shares with the base"
    )
    levels: tuple[LevelTarget, ...] | None = Field(
        None, max_length=MAX_LEVELS - 1, description="its levels; none: only LOD0 is its own"
    )


class LevelsSettings(StationSettings):
    """Which levels follow LOD0 and how they are reduced; no levels means a prop without any."""

    levels: tuple[LevelTarget, ...] = Field(
        (LevelTarget(ratio=0.5), LevelTarget(ratio=0.25), LevelTarget(ratio=0.1)),
        max_length=MAX_LEVELS - 1,
        description="how far LOD1, LOD2 ... are reduced",
    )
    lod0: LevelTarget | None = Field(
        None,
        description="how far LOD0 itself is reduced from a dense source; the levels follow it",
        json_schema_extra={"by_hand": True},
    )
    has_levels: bool = Field(True, description="off: the prop must not have levels, as things held up to the camera")
    states: tuple[State, ...] = Field(
        (), max_length=8, description="variants with chains of their own", json_schema_extra={"by_hand": True}
    )
    min_triangles: int = Field(0, ge=0, description="minimum triangles of a level", json_schema_extra={"unit": "tris"})
    max_pixel_error: float = Field(
        1.0, gt=0.0, le=100.0, description="maximum pixel error at a switch", json_schema_extra={"unit": "px"}
    )
    view_height: int = Field(
        1080,
        ge=100,
        le=20_000,
        description="lines of the view that switches are proposed for",
        json_schema_extra={"unit": "px"},
    )
    vertical_fov: float = Field(
        60.0, ge=5.0, le=150.0, description="vertical field of view in degrees", json_schema_extra={"unit": "°"}
    )
    switch_bias: float = Field(1.0, gt=0.0, le=20.0, description="factor on all switch distances")
    cull_pixels: float = Field(
        4.0,
        ge=0.0,
        le=500.0,
        description="not drawn where smaller than this many pixels; 0: always drawn",
        json_schema_extra={"unit": "px"},
    )
    cull_distance: float | None = Field(
        None,
        gt=0.0,
        description="metres beyond which it is not drawn, before the bias",
        json_schema_extra={"unit": "m"},
    )
    placement: Literal["optimal", "original"] = Field(
        "optimal",
        description="optimal: vertices move to where the error is least; original: each level uses some of LOD0's "
        "vertices, so that one vertex buffer serves the chain",
    )
    silhouette_weight: float = Field(
        0.0, ge=0.0, le=10.0, description="silhouette weight: extra cost of edges on the silhouette"
    )
    curvature_weight: float = Field(0.0, ge=0.0, le=10.0, description="curvature weight: extra cost of curved regions")
    lock_borders: bool = Field(False, description="open borders stay as they are, so that modular pieces still meet")
    keep_shells: bool = Field(
        False, description="every shell keeps its last triangles; off: shells are dropped whole where that costs least"
    )
    keep_holes: bool = Field(
        False,
        description="every through-hole and open boundary keeps its last triangles; off: they close where that costs "
        "least",
    )
    protected: tuple[Protected, ...] = Field(
        (), max_length=2_000, description="patches that are not reduced", json_schema_extra={"by_hand": True}
    )
    protected_parts: tuple[str, ...] = Field(
        (), description="paths of parts that are not reduced", json_schema_extra={"by_hand": True}
    )
    mirror: Literal["off", "found", "x", "y", "z"] = Field(
        "off",
        description="levels symmetric across a plane: through the pivot across an axis, or the one found",
    )
    mirror_from: Literal["positive", "negative"] = Field(
        "positive", description="the side of the mirror that is the model for the other"
    )
    hard_angle: float = Field(
        60.0,
        ge=0.0,
        le=180.0,
        description="where a level had to release hard edges and its normals are made anew: edges folded by more "
        "degrees than this are hard",
        json_schema_extra={"unit": "°"},
    )
    normals: NormalsChoice = Field(
        "closest",
        description="keep: those of LOD0's vertices; recompute: by the rule of Normals; transfer: from the nearest "
        "point of LOD0 that faces the same way; closest: whichever is closest to LOD0's shading by mean angle",
    )

    @model_validator(mode="after")
    def _fall(self) -> "LevelsSettings":
        for what, name in (("ratio", "ratios"), ("triangles", "triangles"), ("vertices", "vertices")):
            values = [value for level in self.levels if (value := getattr(level, what)) is not None]
            if any(b >= a for a, b in pairwise(values)):
                raise ValueError(f"{name} must fall from level to level, for example 0.5, 0.25, 0.1")
        return self

    def of_shapes(self) -> "LevelsSettings":
        """The same settings but for those that only move switches, as they are without; by it results are kept."""
        is_seen = any(level.pixels is not None or level.exclude_below_px is not None for level in self.levels)
        is_seen |= self.lod0 is not None and self.lod0.pixels is not None
        moved = {"switch_bias", "cull_pixels", "cull_distance", "states"} | (set() if is_seen else _VIEW)
        usual = {name: type(self).model_fields[name].default for name in moved}
        levels = tuple(
            level.model_copy(
                update={"texture_step": 0} | ({} if level.exclude_below_px is not None else {"switch_distance": None})
            )
            for level in self.levels
        )
        return self.model_copy(update={**usual, "levels": levels})
