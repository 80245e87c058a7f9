"""Names of files as people and other systems give them."""

from __future__ import annotations

import re
import unicodedata

_LONGEST = 200


def safe_name(name: str, otherwise: str) -> str:
    """The last part of a name, without what file systems or headers take amiss; ``otherwise`` if nothing is left.

    >>> safe_name("../../harbour\\\\wall.jpg", "picture")
    'wall.jpg'
    """
    last = re.split(r"[/\\]", unicodedata.normalize("NFC", name))[-1]
    kept = "".join(c for c in last if unicodedata.category(c)[0] != "C" and c not in '<>:"|?*').strip(" .")
    stem, dot, ending = kept.rpartition(".")
    if dot and len(ending) <= 10:
        return f"{stem[: _LONGEST - len(ending)]}.{ending}" if stem else otherwise
    return kept[:_LONGEST] or otherwise


def file_name(title: str, otherwise: str) -> str:
    """A file's name for a title that people gave, in which a slash is no folder.

    >>> file_name("Harbour 1988/89", "job")
    'Harbour 1988-89'
    """
    return safe_name(re.sub(r"[/\\]", "-", title), otherwise)
