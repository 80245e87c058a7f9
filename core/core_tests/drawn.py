"""Hypothesis strategies for settings: drawn from what the models themselves say of their fields, whatever steps there are."""

from __future__ import annotations

from types import NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

import annotated_types
import numpy as np
from hypothesis import assume
from hypothesis import strategies as st
from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from kitecore.colour.cube import TABLE_PATTERN
from kitecore.engines import engines
from kitecore.engines.kinds import KindName
from kitecore.masks.found import readable, text_of
from kitecore.steps import AnyStep, Step
from kitecore.values import EngineId

#: Numbers without limits are drawn between these, and none beyond them: pictures of the tests are small.
LOWEST, HIGHEST = -10, 200
_ENGINE_PATTERN = next(
    one.pattern for one in get_args(EngineId)[1].metadata if getattr(one, "pattern", None) is not None
)


class Drawing:
    """What is drawn: ``plainly`` leaves networks out, ``depth`` bounds steps inside steps."""

    def __init__(self, plainly: bool = False, depth: int = 1) -> None:
        self.plainly, self.depth = plainly, depth

    @st.composite
    @staticmethod
    def model(draw: st.DrawFn, self: Drawing, cls: type[BaseModel], kind: KindName | None = None) -> Any:
        """An instance of a model; the engines it names are of ``kind``, or of its own."""
        kind = getattr(cls, "engine_kind", None) or kind
        given = {
            name: draw(self.values(field.annotation, field.metadata, f"{cls.__name__}.{name}", kind))
            for name, field in cls.model_fields.items()
        }
        try:
            return cls.model_validate(given)
        except ValidationError:
            assume(False)

    def values(self, annotation: Any, metadata: list[Any], place: str, kind: KindName | None) -> st.SearchStrategy[Any]:
        """Values of one field. Raises TypeError if it is of a type that cannot be drawn: teach it here."""
        origin, arguments = get_origin(annotation), get_args(annotation)
        if origin is Annotated:
            inner = [part for one in arguments[1:] for part in (one.metadata if isinstance(one, FieldInfo) else [one])]
            return self.values(arguments[0], [*metadata, *inner], place, kind)
        if origin in (Union, UnionType):
            return st.one_of([self.values(one, metadata, place, kind) for one in arguments])
        if annotation in (None, NoneType):
            return st.none()
        if origin is Literal:
            return st.sampled_from(arguments)
        if annotation is bool:
            return st.booleans()
        if annotation in (int, float):
            return _numbers(annotation, metadata)
        if annotation is str:
            return self._texts(metadata, kind)
        if isinstance(annotation, type) and issubclass(annotation, tuple):
            hints = get_type_hints(annotation, include_extras=True).values()
            return st.tuples(*(self.values(one, [], place, kind) for one in hints)).map(
                lambda given: annotation(*given)
            )
        if origin is tuple:
            return st.tuples(*(self.values(one, [], place, kind) for one in arguments))
        if origin is list:
            return self._lists(arguments[0], metadata, place, kind)
        if isinstance(annotation, type) and issubclass(annotation, BaseModel):
            return Drawing.model(self, annotation, kind)
        raise TypeError(f"{place} is a {annotation}, which the tests cannot draw")

    def _texts(self, metadata: list[Any], kind: KindName | None) -> st.SearchStrategy[str]:
        if any(getattr(one, "func", None) is readable for one in metadata):
            return st.sampled_from(["", text_of(np.linspace(0, 1, 48, dtype=np.float32).reshape(6, 8))])
        if any(getattr(one, "pattern", None) == _ENGINE_PATTERN for one in metadata):
            names = [name for name, one in engines().items() if one.manifest.kind == kind]
            return st.sampled_from(["plain"] if self.plainly and "plain" in names else names)
        if any(getattr(one, "pattern", None) == TABLE_PATTERN for one in metadata):
            # None is on the shelf of these tests.
            return st.just("")
        return st.text(st.characters(codec="utf-8", exclude_categories=["C"]), max_size=20)

    def _lists(self, of: Any, metadata: list[Any], place: str, kind: KindName | None) -> st.SearchStrategy[list[Any]]:
        least = next((one.min_length for one in metadata if isinstance(one, annotated_types.MinLen)), 0)
        if of == AnyStep:
            if self.depth == 0:
                return st.just([])
            return st.lists(Drawing(self.plainly, self.depth - 1).step(), min_size=least, max_size=2)
        return st.lists(self.values(of, [], place, kind), min_size=least, max_size=least + 3)

    def step(self) -> st.SearchStrategy[Step]:
        """A step of any kind of ``AnyStep`` for pictures that are no camera raws."""
        classes = tuple(cls for cls in get_args(get_args(AnyStep)[0]) if cls.belongs != "raw")
        if self.plainly:
            classes = tuple(cls for cls in classes if cls.engine_kind in (None, "enlarge"))
        return st.one_of([Drawing.model(self, cls) for cls in classes])


def _numbers(of: type, metadata: list[Any]) -> st.SearchStrategy[Any]:
    low, high, open_low = LOWEST, HIGHEST, False
    for one in metadata:
        if isinstance(one, annotated_types.Ge | annotated_types.Gt):
            low = max(low, getattr(one, "ge", getattr(one, "gt", low)))
            open_low = isinstance(one, annotated_types.Gt)
        if isinstance(one, annotated_types.Le | annotated_types.Lt):
            high = min(high, getattr(one, "le", getattr(one, "lt", high)))
    if of is int:
        return st.integers(int(low) + open_low, int(high))
    return st.floats(low, high, exclude_min=open_low, allow_nan=False).map(lambda value: round(value, 3) or low)
