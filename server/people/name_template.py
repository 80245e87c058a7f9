"""Templates of file names: text with words in braces that stand for what a file is."""

from __future__ import annotations

import re

from common.errors import Refused

#: What can stand in braces, and what it stands for.
NAME_WORDS = {
    "picture": "name of the picture",
    "job": "title of the job",
    "take": "name of the take",
    "steps": "steps that were done",
    "engine": "engine that enlarged it",
    "factor": "how much it was enlarged",
    "width": "width in pixels",
    "height": "height in pixels",
    "ppi": "pixels per inch",
    "output": "name of the saved output",
    "date": "day it was ordered",
}
_WORD = re.compile(r"\{([^{}]*)\}")


def check_template(template: str) -> None:
    """Raise Refused with a sentence if the template names something that is not known, or nothing that can be filled."""
    unknown = [word for word in _WORD.findall(template) if word not in NAME_WORDS]
    if unknown:
        known = ", ".join(f"{{{word}}}" for word in NAME_WORDS)
        raise Refused(f"“{{{unknown[0]}}}” is not known in names; there are {known}.")
    if "{" in (bare := _WORD.sub("", template)) or "}" in bare:
        raise Refused("A brace in the name is not closed; write words as {picture}.")


def filled(template: str, words: dict[str, str]) -> str:
    """The template with its words replaced; what has no value is left out, and spaces that are then too many."""
    text = _WORD.sub(lambda found: words.get(found[1], ""), template)
    return re.sub(r"\s+", " ", text).strip()
