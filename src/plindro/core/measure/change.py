"""Everything by which one mesh differs from another to the eye, in metres."""

from dataclasses import dataclass

from plindro.core.measure.deviation import Deviation
from plindro.core.measure.visible import Visible


@dataclass(frozen=True, slots=True)
class Change:
    """What changes from one level to another.

    surface, mean : largest and mean distance between the surfaces in metres
    outline : how far the outline moves, in metres
    shading : how wide the widest place is whose shading turns, in metres
    outline_share : change of the outline as a share of its area, in the mean of all views
    normal_angle : mean angle in degrees between the normals that are seen
    """

    surface: float = 0.0
    mean: float = 0.0
    outline: float = 0.0
    shading: float = 0.0
    outline_share: float = 0.0
    normal_angle: float = 0.0

    @property
    def largest(self) -> float:
        """Metres: the largest of surface, outline and shading; what a switch must hide."""
        return max(self.surface, self.outline, self.shading)

    def as_dict(self) -> dict[str, float]:
        names = ("surface", "mean", "outline", "shading", "outline_share", "normal_angle")
        return {name: getattr(self, name) for name in names}


NO_CHANGE = Change()


def change_of(deviation: Deviation, seen: Visible) -> Change:
    """Both measurements of one pair of meshes."""
    return Change(deviation.largest, deviation.mean, seen.outline, seen.shading, seen.outline_share, seen.normal_angle)
