"""What may be asked of islands besides their shape."""

from dataclasses import dataclass

import numpy as np

from plindro.core.mesh.mesh import F64, I32, I64, Mask


@dataclass(frozen=True, slots=True)
class Wishes:
    """What is asked of islands, told by triangles (F,) of the mesh.

    Attributes
    ----------
    density : pixels a metre; as many as fit where there is none
    weights : how many times the others' density an island gets that has such a triangle; 1 asks for nothing
    stack : equal and mirrored islands lie in one place
    locked : islands with such a triangle stay where they are
    """

    density: float | None = None
    weights: F64 | None = None
    stack: bool = False
    locked: Mask | None = None

    def shares(self, faces: I64, island: I32, count: int) -> F64 | None:
        """(N,) how many times the others' density each island gets, of triangles ``faces`` (T,) of the mesh."""
        if self.weights is None:
            return None
        asked = np.log(self.weights[faces])
        shares = np.zeros(count)
        order = np.argsort(abs(asked), kind="stable")
        # Of several the last one written holds: the one that asks for most.
        shares[island[order]] = asked[order]
        found: F64 = np.exp(shares)
        return found


NOTHING = Wishes()
