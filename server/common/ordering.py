"""Lists that people put in order."""

from __future__ import annotations

import uuid
from typing import Any

from django.db.models import QuerySet
from ninja import Field, Schema


class Ordering(Schema):
    """Things by their ids, first to last."""

    ids: list[uuid.UUID] = Field(max_length=1000)


def put_in_order(things: QuerySet[Any], order: Ordering) -> None:
    """Number ``position`` of ``things`` as ``order`` names them; those it does not name follow as they were."""
    places = {one: place for place, one in enumerate(order.ids)}
    ordered = sorted(things, key=lambda thing: places.get(thing.id, len(places)))
    for place, thing in enumerate(ordered):
        thing.position = place
    things.model.objects.bulk_update(ordered, ["position"])
