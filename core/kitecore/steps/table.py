"""Table: colours sent through a look-up table from the shelf."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from kitecore.colour.cube import TABLE_PATTERN, CubeTable, table_named, table_path
from kitecore.colour.oklab import multiplied
from kitecore.colour.primaries import primaries_of
from kitecore.colour.spaces import Matrix
from kitecore.colour.transfer import SRGB, TransferCurve, transfer_of
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Framed, Step
from kitecore.steps.pointwise import PointwiseStage
from kitecore.values import Percent


class Table(Step):
    """A .cube table, as :mod:`kitecore.colour.cube` applies it, laid over what was there by ``strength``.

    Tables are made for pictures of a certain space: *sRGB* takes wide-gamut colours there and back, colours outside it with
    them; *own* applies the table to the picture's own coded values. Grey pictures go through as equal channels and come out
    as their luma.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "table"
    purpose: ClassVar[str] = "A look-up table (.cube), with a strength"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["table"] = "table"
    table: Annotated[str, Field(pattern=TABLE_PATTERN, description="What it is called on the shelf; empty: none.")] = ""
    name: Annotated[str, Field(max_length=80, description="What people call it.")] = ""
    space: Annotated[Literal["srgb", "own"], Field(description="What its values are meant for.")] = "srgb"
    strength: Percent = 100.0

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 300.0 * size.pixels

    def did(self) -> str:
        if not self.table or not self.strength:
            return ""
        return f"look-up table “{self.name or self.table[:8]}” applied at {self.strength:g} %"

    def at(self, share: float) -> Self:
        return self.model_copy(update={"strength": self.strength * share})

    def identity(self) -> str:
        # Its name is its content; that it is there is asked before anything is promised.
        return table_path(self.table).stem if self.table else ""

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._staged(source, None)

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._staged(source, framed.profile)

    def _staged(self, source: Stage, profile: bytes | None) -> Stage:
        if not self.did():
            return source
        own = self.space == "own" or profile is None or source.bands < 3
        return PointwiseStage(source, _Tabled(table_named(self.table), self.strength, None if own else profile))


class _Tabled:
    def __init__(self, table: CubeTable, strength: float, profile: bytes | None) -> None:
        self._table, self._share, self._own = table, np.float32(strength / 100), profile is None
        self._curve: TransferCurve = transfer_of(profile)
        own, wanted = primaries_of(profile), primaries_of(None)
        self._there: Matrix = np.asarray(np.linalg.solve(wanted, own), np.float64)
        self._back: Matrix = np.asarray(np.linalg.solve(own, wanted), np.float64)

    def __call__(self, colours: Pixels) -> Pixels:
        if colours.shape[2] == 1:
            grey = self._table.apply(np.repeat(colours, 3, axis=2))
            made = np.asarray(grey @ np.array([0.299, 0.587, 0.114], np.float32), np.float32)[..., None]
        elif self._own:
            made = self._table.apply(colours)
        else:
            there = SRGB.coded(multiplied(self._curve.light(colours), self._there))
            made = self._curve.coded(multiplied(SRGB.light(self._table.apply(there)), self._back))
        return np.asarray(colours + self._share * (made - colours), np.float32)
