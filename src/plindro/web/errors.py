"""Errors of the web's services, told to the browser as one sentence."""

from plindro.core.errors import PlindroError


class NotFound(PlindroError):
    """Something named by an address does not exist (any more)."""


class NotPossible(PlindroError):
    """A request that makes no sense as things stand."""
