"""What charts that are joined may be like."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class JoinLimits:
    """What a union may be like.

    Attributes
    ----------
    stretch, large : the largest L2 of one that has no more than the share ``small`` of the surface, and of others,
        which count for the whole
    worst : the largest stretch of one of its triangles
    price : how much more it may be bent for each metre of seam that it spares, bent being squared L2 less one, of the
        area, against the root of the whole area
    contact, hinge : the shared length over the shorter rim that is worth it, and that of one side to hang by
    longest : its length against the root of the whole surface, where its charts are shorter: what is longer than the
        sheet makes all others small
    filled : the share of the smallest rectangle that it covers, where its charts do
    part, little_filled : in the end, one of less than the share ``part`` of the surface needs to cover so much only
    gapes, part_gapes : how far, against its length, a seam may gape for a union to be tried, and a part of it
    as_large : how large islands must come out, against more of them, for the last unions to count
    turns : how often a union is relaxed
    """

    stretch: float = 1.02
    large: float = 1.006
    small: float = 0.05
    worst: float = 1.6
    price: float = 0.001
    contact: float = 0.05
    hinge: float = 0.1
    longest: float = 1.2
    filled: float = 0.55
    part: float = 0.03
    little_filled: float = 0.3
    gapes: float = 0.25
    part_gapes: float = 0.1
    as_large: float = 0.94
    turns: int = 6
