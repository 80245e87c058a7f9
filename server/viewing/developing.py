"""How far developing a camera raw is, for who waits for it."""

from __future__ import annotations

import uuid

from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from kitecore.steps import Develop
from people.signed_in import PersonRequest
from rendering.sources import sources
from takes.models import Take

router = Router(tags=["viewing"])


class Developing(Schema):
    share: float | None = Field(description="0..1; null while nobody develops it that way.")


@router.get("/takes/{take_id}/developing", response=Developing)
def developing(request: PersonRequest, take_id: uuid.UUID) -> Developing:
    """How far developing the take's raw the way it asks for is, whichever process does it."""
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    step = next((step for step in take.core.steps if isinstance(step, Develop)), None)
    if step is None:
        return Developing(share=None)
    with sources.of(take.picture) as source:
        return Developing(share=source.developing(step.way(source.raw)) if source.raw else None)
