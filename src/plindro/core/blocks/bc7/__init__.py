"""BC7: sixteen bytes a block in one of eight modes."""
