"""STL: triangle soup, binary or text."""
