"""Keeping the store small: what lies in it, and removing what nothing refers to any more."""
