"""Texture maps: what kind they are, what is wrong with them, and how they are made fit for a GPU."""
