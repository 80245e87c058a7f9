"""Errors of the server, in the core's hierarchy so that one place turns them into answers."""

from kitecore.errors import KiteError


class Refused(KiteError):
    """The request cannot be done as asked."""

    code = "refused"


class Conflict(KiteError):
    """The thing is no longer in the state the request supposes."""

    code = "conflict"


class TooMany(KiteError):
    """Too many tries in too short a time."""

    code = "too-many"


class StoreFault(KiteError):
    """The store that machines share does not answer, or refuses."""

    code = "store"

    def __init__(self) -> None:
        super().__init__(
            "The store in which files are kept could not be reached; nothing was lost. Try again in a moment, and if it stays "
            "so, ask whoever runs the server."
        )


class Forged(KiteError):
    """A changing request that was not sent by a page of ours."""

    code = "forged"
