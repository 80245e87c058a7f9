"""One hierarchy of errors, each with a message meant for the person who asked and a code meant for programs."""

from __future__ import annotations

from typing import ClassVar


class KiteError(Exception):
    """Something a person can understand and act on; ``str(error)`` is a whole sentence.

    ``code`` stays the same however the sentence is worded.
    """

    code: ClassVar[str] = "error"


class SettingsError(KiteError):
    """A variable of the environment is set to what cannot be used."""

    code = "settings"


class PictureError(KiteError):
    """A file cannot be used as a picture: wrong type, empty, broken, truncated."""

    code = "picture"


class DamagedPicture(PictureError):
    """A file is damaged, but some of it can be read; ``damage`` says how, without a full stop."""

    code = "damaged"

    def __init__(self, name: str, damage: str) -> None:
        super().__init__(
            f"{name} is damaged: {damage}. Ask for it again; if there is no other, it can be taken in as it is."
        )
        self.damage = damage


class TooLarge(KiteError):
    """A picture or a result has more pixels than is allowed."""

    code = "too-large"


class TakeError(KiteError):
    """The steps of a take cannot be done on this picture."""

    code = "take"


class EngineError(KiteError):
    """An engine is unknown, broken, or cannot do what was asked of it."""

    code = "engine"


class OutputError(KiteError):
    """A file cannot be written as specified."""

    code = "output"


class NoSpace(OutputError):
    """The disk is full."""

    code = "no-space"


class Cancelled(KiteError):
    """The work was called off before it was done."""

    code = "cancelled"

    def __init__(self) -> None:
        super().__init__("Cancelled before it was finished; nothing was written.")
