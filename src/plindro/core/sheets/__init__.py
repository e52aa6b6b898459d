"""Textures as arrays: the pixels that islands cover, colours carried out around them, many textures on one sheet."""
