"""What each level of a chain changes, against LOD0 and against the level above it."""

from collections.abc import Callable, Iterable

import numpy as np

from plindro.core.measure.change import Change, change_of
from plindro.core.measure.deviation import Deviation, DeviationFrom
from plindro.core.measure.visible import Camera, Pictures
from plindro.core.mesh.mesh import Mesh
from plindro.core.scene import Material


class Comparison:
    """Compares the levels of one chain as they are added, from LOD0 down; what they share is built once.

    ``ruler`` measures from LOD0 and is made where it is not given; ``on_share`` is called now and then and may raise
    to stop.
    """

    def __init__(
        self,
        first: Mesh,
        materials: Iterable[Material],
        ruler: DeviationFrom | None = None,
        on_share: Callable[[], None] = lambda: None,
    ) -> None:
        self._on_share = on_share
        two_sided = np.zeros(int(first.face_material.max()) + 1, bool)
        known = [material.double_sided for material in materials]
        self._camera = Camera(first, np.concatenate([np.array(known, bool), two_sided[len(known) :]]))
        self._ruler = ruler or DeviationFrom(first, on_share=on_share)
        self._first: Pictures = self._camera.draw(first)
        self._above, self._seen = first, self._first

    def add(self, mesh: Mesh, deviation: Deviation | None = None) -> tuple[Change, Change]:
        """What the next level changes from LOD0 and from the one before; ``deviation`` where it is known."""
        self._on_share()
        seen = self._camera.draw(mesh)
        self._on_share()
        deviation = deviation or self._ruler.measure(mesh)
        is_second = self._seen is self._first
        step = deviation if is_second else self._ruler.of_another(self._above, self._on_share).measure_largest(mesh)
        from_first = seen.against(self._first)
        from_above = from_first if is_second else seen.against(self._seen)
        changes = change_of(deviation, from_first), change_of(step, from_above)
        self._above, self._seen = mesh, seen
        return changes
