"""Lengths on paper: millimetres, centimetres, inches; and sizes as people type them."""

from __future__ import annotations

import re
from typing import Literal, TypeAlias

from kitecore.errors import TakeError

Unit: TypeAlias = Literal["mm", "cm", "in"]

MILLIMETRES: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "in": 25.4}
MILLIMETRES_PER_INCH = 25.4


def pixels_for(length: float, unit: Unit, ppi: float) -> float:
    """Pixels that a length on paper takes at ``ppi`` pixels per inch; not rounded."""
    return length * MILLIMETRES[unit] / MILLIMETRES_PER_INCH * ppi


def parse_print(text: str) -> tuple[float | None, float | None, Unit]:
    """A print size as typed: ``60x90cm``, ``24 × 36 in``, ``60cm`` (width), ``x90cm`` (height).

    Returns width, height (either may be None) and unit. Raises TakeError for anything else.
    """
    match = re.fullmatch(
        r"\s*(?P<width>\d+(?:[.,]\d+)?)?\s*(?:[x×*]\s*(?P<height>\d+(?:[.,]\d+)?))?\s*(?P<unit>mm|cm|in|\")\s*",
        text.lower(),
    )
    if not match or not (match["width"] or match["height"]):
        raise TakeError(f"“{text}” is not a print size; write it like 60x90cm, 24x36in or 60cm.")
    width, height = (float(side.replace(",", ".")) if side else None for side in (match["width"], match["height"]))
    unit: Unit = "in" if match["unit"] in ("in", '"') else "mm" if match["unit"] == "mm" else "cm"
    return width, height, unit


def parse_length(text: str) -> float:
    """A length as typed, ``100cm``, ``1.5 m``, ``8mm`` or ``40in``, in millimetres. Raises TakeError for anything else."""
    match = re.fullmatch(r"\s*(\d+(?:[.,]\d+)?)\s*(mm|cm|m|in|\")\s*", text.lower())
    if not match:
        raise TakeError(f"“{text}” is not a length; write it like 100cm, 1.5m, 8mm or 40in.")
    factor = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MILLIMETRES_PER_INCH, '"': MILLIMETRES_PER_INCH}[match[2]]
    return float(match[1].replace(",", ".")) * factor
