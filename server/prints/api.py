"""The print planner: what every size on paper needs of a take's framed picture, and what makes up for the paper."""

from __future__ import annotations

import uuid
from typing import Literal

from django.shortcuts import get_object_or_404
from ninja import Field, Query, Router, Schema

from kitecore.delivery.print_needs import PAPERS, PaperName, PrintNeed, PrintSize, all_needs, need_of, sharpening_for
from kitecore.lengths import Unit
from kitecore.pipeline.geometry import Size
from kitecore.steps import Sharpen
from people.signed_in import PersonRequest
from takes.models import Take

router = Router(tags=["prints"])


class Wish(Schema):
    """How prints are to be made and seen, and one size that is not among the standard ones."""

    paper: PaperName = "lustre"
    distance_cm: float | None = Field(default=None, gt=0, description="Left out: each print's diagonal.")
    mode: Literal["fit", "fill"] = "fill"
    border_mm: float = Field(default=0, ge=0, le=500)
    width: float | None = Field(default=None, gt=0, le=10_000)
    height: float | None = Field(default=None, gt=0, le=10_000)
    unit: Unit = "cm"


class PaperOut(Schema):
    name: PaperName
    title: str
    finest: float = Field(description="Pixels per inch that it shows at most.")


class PrintsOut(Schema):
    """What sizes need of the picture inside the take's frame."""

    width: int
    height: int
    free: PrintNeed | None = Field(description="The size that was asked for, if one was.")
    standard: list[PrintNeed]
    papers: list[PaperOut]


class PaperSharpening(Schema):
    paper: PaperName = "lustre"
    ppi: float = Field(ge=10, le=2400)


def _framed_size(request: PersonRequest, take_id: uuid.UUID) -> Size:
    return get_object_or_404(Take.objects.of(request.auth), id=take_id).plan().framed.size


@router.get("/takes/{take_id}/prints", response=PrintsOut)
def prints(request: PersonRequest, take_id: uuid.UUID, wish: Query[Wish]) -> PrintsOut:
    """Every standard size, and the free one if both its sides are given. Refused where a border leaves nothing."""
    size = _framed_size(request, take_id)
    seen = (wish.paper, wish.distance_cm, wish.mode, wish.border_mm)
    free = None
    if wish.width and wish.height:
        name = f"{wish.width:g} × {wish.height:g} {wish.unit}"
        asked = PrintSize(name=name, width=wish.width, height=wish.height, unit=wish.unit)
        free = need_of(asked, size, *seen)
    return PrintsOut(
        width=size.width, height=size.height, free=free, standard=all_needs(size, *seen),
        papers=[PaperOut(name=one.name, title=one.title, finest=one.finest) for one in PAPERS.values()],
    )  # fmt: skip


@router.get("/paper-sharpening", response=Sharpen)
def paper_sharpening(request: PersonRequest, asked: Query[PaperSharpening]) -> Sharpen:
    """The last sharpening for a paper at a resolution, as a step."""
    return sharpening_for(asked.paper, asked.ppi)
