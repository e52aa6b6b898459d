"""The rules of the job and its computation: no web framework, no HTTP, nothing of the interface."""
