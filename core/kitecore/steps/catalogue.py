"""What every kind of step says of itself, as data: for whoever shows steps to people."""

from __future__ import annotations

from typing import Any, get_args

from pydantic import BaseModel, Field

from kitecore.engines.kinds import KindName
from kitecore.masks.mask import Mask
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
    starts_from: list[str] = Field(
        description="What it can set for itself from: the whole picture, a place that should be grey."
    )
    begun: dict[str, Any] = Field(description="The step as it is put on a line.")
    limits: dict[str, Limits] = Field(description="Of its numbers, by setting.")
    usual: dict[str, dict[str, dict[str, Any]]] = Field(
        description="Usual values inside settings that are models of their own, by setting and kind (“by”; else empty)."
    )


def catalogue() -> list[KindOfStep]:
    """Every kind of step there is."""
    return [
        KindOfStep(
            kind=cls.model_fields["kind"].default,
            title=cls.title,
            purpose=cls.purpose,
            belongs=cls.belongs,
            takes_mask=cls.takes_mask,
            engine_kind=cls.engine_kind,
            starts_from=list(cls.starts_from),
            begun=cls.begun().model_dump(mode="json"),
            limits=_limits(cls),
            usual={name: found for name, field in cls.model_fields.items() if (found := _usual(field.annotation))},
        )
        for cls in step_classes()
    ]


def _usual(annotation: Any) -> dict[str, dict[str, Any]]:
    """Defaults of the models that a setting of this type may be, by what tells them apart."""
    found = {}
    for one in get_args(annotation) or (annotation,):
        for model in get_args(one) or (one,):
            if isinstance(model, type) and issubclass(model, BaseModel) and model is not Mask:
                usual = {name: field.default for name, field in model.model_fields.items() if not field.is_required()}
                found[usual.get("by", "")] = usual
    return found


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
