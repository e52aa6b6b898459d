"""Shipments: batches of props written for a destination."""
