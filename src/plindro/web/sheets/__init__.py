"""Sheets that several props of the board share."""
