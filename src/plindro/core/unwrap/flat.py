"""Charts of a surface, laid flat."""

from dataclasses import dataclass

from plindro.core.mesh.mesh import F64, I32, I64, Mask
from plindro.core.unwrap.growing import members_of


@dataclass(frozen=True, slots=True)
class Charts:
    """Charts of a surface, each laid flat for itself.

    ``chart`` (T,) of each triangle, ``count`` of them; ``uv`` (T, 3, 2) metres, all turning left; ``glued`` (3 T,)
    sides that are no seams.
    """

    chart: I32
    count: int
    uv: F64
    glued: Mask

    def members(self) -> list[I64]:
        """The triangles of each chart."""
        return members_of(self.chart, self.count)
