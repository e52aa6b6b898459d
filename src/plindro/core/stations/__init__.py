"""The stations of the line, a folder each."""
