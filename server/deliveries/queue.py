"""The queue: its order, and what waits in it held, let go on, or called off.

A delivery is one piece of background work whose priority follows from its ``position``; whatever worker is free takes
the first. A paused delivery has no work in the queue until it is let go on.
"""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from datetime import timedelta
from typing import cast

from django.db import transaction
from django.db.models import Max, QuerySet
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import AlreadyEnqueued

from deliveries.models import UNFINISHED, WAITING, Delivery, State

_WAITING_WORK, _WORK_AT_HAND = "todo", "doing"
#: A delivery without work in the queue is given some after so long; until then its work may be on its way.
_LOST_AFTER = timedelta(seconds=30)


def lock_of(delivery: Delivery) -> str:
    """What marks a delivery's work in the queue; no two that wait have the same."""
    return f"delivery-{delivery.id}"


def last_position() -> int:
    """The place behind everything in the queue."""
    return cast(int, Delivery.objects.aggregate(last=Max("position"))["last"] or 0) + 1


def enqueue(delivery: Delivery) -> None:
    """Put its work into the queue once the row is committed; if it waits there already, it waits on."""

    def defer() -> None:
        work = app.configure_task(
            "deliver", queue="deliveries", queueing_lock=lock_of(delivery), priority=-delivery.position
        )
        with suppress(AlreadyEnqueued):
            work.defer(delivery_id=str(delivery.id))

    transaction.on_commit(defer)


def _withdraw(deliveries: Iterable[Delivery]) -> None:
    """Take the work of these out of the queue, where no worker has it at hand."""
    locks = [lock_of(delivery) for delivery in deliveries]
    work = ProcrastinateJob.objects.filter(queueing_lock__in=locks, status=_WAITING_WORK)
    for number in work.values_list("id", flat=True):
        app.job_manager.cancel_job_by_id(number, delete_job=True)


def put_in_order(queue: QuerySet[Delivery], ids: list[str]) -> None:
    """Have the waiting deliveries ``ids`` of ``queue`` made in this order, on the places they hold among all."""
    with transaction.atomic():
        rows = {str(row.id): row for row in queue.filter(id__in=ids, state__in=WAITING).select_for_update(of=("self",))}
        wanted = [rows[one] for one in dict.fromkeys(ids) if one in rows]
        places = sorted(row.position for row in wanted)
        moved = [row for row, place in zip(wanted, places, strict=True) if row.position != place]
        for row, place in zip(wanted, places, strict=True):
            row.position = place
        _save(moved, "position")
        _withdraw(moved)
        for row in moved:
            if row.state == State.QUEUED:
                enqueue(row)


def pause(queue: QuerySet[Delivery]) -> None:
    """Hold what waits in ``queue``; what is being made is finished."""
    with transaction.atomic():
        rows = list(queue.filter(state=State.QUEUED).select_for_update(of=("self",)))
        for row in rows:
            row.state = State.PAUSED
        _save(rows, "state")
        _withdraw(rows)


def resume(queue: QuerySet[Delivery]) -> None:
    """Let what is held in ``queue`` go on, from where it stood."""
    with transaction.atomic():
        rows = list(queue.filter(state=State.PAUSED).select_for_update(of=("self",)))
        for row in rows:
            row.state, row.awaits_approval = State.QUEUED, False
        _save(rows, "state", "awaits_approval")
        for row in rows:
            enqueue(row)


def call_off(queue: QuerySet[Delivery]) -> None:
    """Cancel what waits in ``queue`` at once, and what is being made within a region's time."""
    with transaction.atomic():
        rows = list(queue.filter(state__in=(*WAITING, *UNFINISHED)).select_for_update(of=("self",)))
        waiting = [row for row in rows if row.state in WAITING]
        for row in rows:
            row.cancel_asked = True
        for row in waiting:
            row.state, row.finished = State.CANCELLED, timezone.now()
        _save(rows, "cancel_asked", "state", "finished")
        _withdraw(waiting)


def _save(rows: list[Delivery], *fields: str) -> None:
    for row in rows:
        row.modified = timezone.now()
    Delivery.objects.bulk_update(rows, [*fields, "modified"])


def enqueue_what_was_lost() -> list[Delivery]:
    """Give every delivery that waits without any work in the queue its work back; gives those that were lost.

    A power cut between the two can part them, or someone who empties the queue.
    """
    waiting = list(Delivery.objects.filter(state=State.QUEUED, modified__lt=timezone.now() - _LOST_AFTER))
    known = ProcrastinateJob.objects.filter(
        queueing_lock__in=[lock_of(row) for row in waiting], status__in=(_WAITING_WORK, _WORK_AT_HAND)
    )
    locks = set(known.values_list("queueing_lock", flat=True))
    lost = [row for row in waiting if lock_of(row) not in locks]
    for row in lost:
        enqueue(row)
    return lost
