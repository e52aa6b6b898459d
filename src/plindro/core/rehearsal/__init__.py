"""The rehearsal: reading shipped bytes the way a strict receiving engine would, with readers of its own."""

from plindro.core.rehearsal.checks import Rehearsal, rehearse
from plindro.core.rehearsal.expected import Expected
from plindro.core.rehearsal.seen import SeenProp

__all__ = ["Expected", "Rehearsal", "SeenProp", "rehearse"]
