"""The board: props of the project, imported and removed."""
