"""What is sent is looked at before anything else sees it: text that no database holds, numbers that are none, endless nesting."""

from __future__ import annotations

import json
from typing import Any, NoReturn

from django.http import HttpRequest
from django.utils.datastructures import MultiValueDict
from ninja.parser import Parser

from common.errors import Refused

_NO_JSON = "The request is no JSON that can be read."
_TEXT = "Some text holds characters that cannot be kept (NUL, or half of a character)."
_NUMBER = "A number is none (NaN or infinity)."
_DEEP = "The request is nested too deeply."
#: How deep what is sent may be nested: masks of steps of steps stay below.
_DEEPEST = 40


class CarefulParser(Parser):
    """Raises Refused with a sentence for what cannot be used in a body; from addresses and forms it is left out.

    The sentence stays with the request as well (``unreadable``), since the API replaces what is raised of a body by a word of
    its own.
    """

    def parse_body(self, request: HttpRequest) -> Any:
        try:
            found = json.loads(request.body, parse_constant=_no_number)
            _look_through(found)
        except Refused as refused:
            request.unreadable = str(refused)  # type: ignore[attr-defined]
            raise
        except (ValueError, RecursionError) as error:
            request.unreadable = _DEEP if isinstance(error, RecursionError) else _NO_JSON  # type: ignore[attr-defined]
            raise Refused(_NO_JSON) from error
        return found

    def parse_querydict(
        self, data: MultiValueDict[Any, Any], list_fields: list[str], request: HttpRequest
    ) -> dict[str, Any]:
        found: dict[str, Any] = super().parse_querydict(data, list_fields, request)
        return {name: _kept(value) for name, value in found.items()}


def _no_number(name: str) -> NoReturn:
    raise Refused(_NUMBER)


def usable(text: str) -> bool:
    """Whether a text can be kept: no NUL, no half of a character.

    >>> usable("kite"), usable("ki\\0te"), usable("ki\\ud800te")
    (True, False, False)
    """
    return "\0" not in text and not any("\ud800" <= c <= "\udfff" for c in text)


def _kept(value: Any) -> Any:
    """A text, or a list of them, without the characters that cannot be kept."""
    if isinstance(value, list):
        return [_kept(one) for one in value]
    return "".join(c for c in value if usable(c)) if isinstance(value, str) else value


def _look_through(found: Any) -> None:
    """Raise Refused if anything inside cannot be used."""
    level = [found]
    for _ in range(_DEEPEST):
        below: list[Any] = []
        for one in level:
            if isinstance(one, str) and not usable(one):
                raise Refused(_TEXT)
            if isinstance(one, float) and not abs(one) < float("inf"):
                raise Refused(_NUMBER)
            if isinstance(one, dict):
                below += [*one.keys(), *one.values()]
            elif isinstance(one, list):
                below += one
        if not below:
            return
        level = below
    raise Refused(_DEEP)
