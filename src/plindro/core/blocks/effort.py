"""How much is tried for a block."""

from typing import Literal

Quality = Literal["fast", "good", "best"]

FAST, GOOD, BEST = 0, 1, 2
