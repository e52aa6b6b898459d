"""One prop on the bench: decisions, undo and redo."""
