"""What every kind of step says of itself, as data: for whoever shows steps to people."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from kitecore.engines.kinds import KindName
from kitecore.steps import step_classes
from kitecore.steps.base import Belongs


class Limits(BaseModel):
    """Within which a number lies; null: without end."""

    least: float | None = None
    most: float | None = None


class KindOfStep(BaseModel):
    """One kind of step, in the order in which they are offered."""

    kind: str
    title: str
    purpose: str
    belongs: Belongs
    takes_mask: bool
    engine_kind: KindName | None
    begun: dict[str, Any] = Field(description="The step as it is put on a line.")
    limits: dict[str, Limits] = Field(description="Of its numbers, by setting.")


def catalogue() -> list[KindOfStep]:
    """Every kind of step there is."""
    return [
        KindOfStep(
            kind=cls.model_fields["kind"].default, title=cls.title, purpose=cls.purpose, belongs=cls.belongs,
            takes_mask=cls.takes_mask, engine_kind=cls.engine_kind, begun=cls.begun().model_dump(mode="json"), limits=_limits(cls),
        )
        for cls in step_classes()
    ]  # fmt: skip


def _limits(cls: type[BaseModel]) -> dict[str, Limits]:
    found: dict[str, Any] = {}
    for name, field in cls.model_fields.items():
        bounds = {"least": ("ge", "gt"), "most": ("le", "lt")}
        known = {
            end: getattr(one, word)
            for one in field.metadata
            for end, words in bounds.items()
            for word in words
            if hasattr(one, word)
        }
        if known:
            found[name] = Limits(**known)
    return found
