"""The rehearsal: reading shipped bytes the way a receiving engine would, with a reader of its own."""

from plindro.core.rehearsal.checks import Rehearsal, rehearse

__all__ = ["Rehearsal", "rehearse"]
