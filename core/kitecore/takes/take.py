"""Takes: an ordered list of steps, as people make them and files hold them."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from kitecore.errors import TakeError
from kitecore.steps import AnyStep

MOST_STEPS = 60


class Take(BaseModel):
    """The steps of one treatment, first to last. What else the API tells of a take (its name, its plan) is passed over."""

    model_config = ConfigDict(extra="ignore", frozen=True)

    steps: list[AnyStep] = Field(default_factory=list, max_length=MOST_STEPS)


_TAKE: TypeAdapter[Take] = TypeAdapter(Take)


def sentence_for(error: ValidationError) -> str:
    """The first fault of settings as a sentence that names the place and what is allowed there."""
    fault = error.errors(include_url=False)[0]
    place = " ".join(str(part) for part in fault["loc"] if not isinstance(part, int)) or "the take"
    numbered = next((f" of step {part + 1}" for part in fault["loc"] if isinstance(part, int)), "")
    given = f" (given: {fault['input']!r})" if isinstance(fault["input"], str | int | float | bool) else ""
    return f"The setting “{place}”{numbered} is not usable: {fault['msg'].rstrip('.').lower()}{given}."


def parse_take(text: str | bytes) -> Take:
    """A take from JSON. Raises TakeError with a sentence."""
    try:
        return _TAKE.validate_json(text)
    except ValidationError as error:
        raise TakeError(sentence_for(error)) from error
