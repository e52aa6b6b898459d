"""Shared measuring: pictures of props."""
