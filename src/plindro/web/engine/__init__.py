"""A simulated engine project, which imports what is delivered and shows it as an engine would."""
