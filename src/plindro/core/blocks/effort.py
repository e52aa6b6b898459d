"""How much is tried for a block."""

FAST, GOOD, BEST = 0, 1, 2
