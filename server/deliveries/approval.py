"""Deliveries that wait for the client: let go on once exactly their steps are approved."""

from __future__ import annotations

from typing import Any

from django.dispatch import receiver

from deliveries.models import Delivery, State
from deliveries.queue import resume
from kitecore.errors import KiteError
from kitecore.takes.plan import plan
from showings.models import ShownPicture
from showings.signals import answered


@receiver(answered, sender=ShownPicture)
def let_go_on(shown: ShownPicture, approved: bool, **_: Any) -> None:
    """What waits for this very picture and these steps is made now; what was ordered of other steps waits on, and says why."""
    if not approved:
        return
    waiting = Delivery.objects.filter(picture=shown.picture, state=State.PAUSED, awaits_approval=True)
    same = {delivery.id for delivery in waiting if _chain_of(delivery) == shown.chain}
    resume(Delivery.objects.filter(id__in=same))
    waiting.exclude(id__in=same).update(
        message="The client approved other steps than these; order it again from what was approved, or let it go on."
    )


def _chain_of(delivery: Delivery) -> str | None:
    try:
        return plan(delivery.core_take, delivery.picture.size).chain
    except KiteError:
        return None
