"""The errors a caller can expect: one root, a message that says what, where and what to do."""


class PlindroError(Exception):
    """Root of everything the core raises on purpose; ``str(error)`` is one sentence for the user."""


class UnreadableFile(PlindroError):
    """A file's content is damaged, lies about itself or is not what its name says."""


class UnsupportedFile(UnreadableFile):
    """A file is sound, but of a format or with a required extension that is not read."""


class InvalidSettings(PlindroError):
    """Settings of a line or a destination that do not validate."""


class Cancelled(PlindroError):
    """The work was called off by the user; nothing was written."""
