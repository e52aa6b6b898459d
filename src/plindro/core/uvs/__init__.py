"""UVs: what a channel is like, from islands and overlaps to stretch, density and gaps."""
