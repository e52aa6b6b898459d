"""Collision proxies: simple closed convex shapes fitted around a mesh."""
