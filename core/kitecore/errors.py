"""One hierarchy of errors, each with a message meant for the person who asked."""

from __future__ import annotations


class KiteError(Exception):
    """Something a person can understand and act on; ``str(error)`` is a whole sentence."""


class PictureError(KiteError):
    """A file cannot be used as a picture: wrong type, empty, broken, truncated."""


class TooLarge(KiteError):
    """A picture or a result has more pixels than is allowed."""


class TakeError(KiteError):
    """The steps of a take cannot be done on this picture."""


class EngineError(KiteError):
    """An engine is unknown, broken, or cannot do what was asked of it."""


class OutputError(KiteError):
    """A file cannot be written as specified."""


class NoSpace(OutputError):
    """The disk is full."""


class Cancelled(KiteError):
    """The work was called off before it was done."""

    def __init__(self) -> None:
        super().__init__("Cancelled before it was finished; nothing was written.")
