"""The queue of work and its runner."""
