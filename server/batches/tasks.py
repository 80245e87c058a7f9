"""What the worker does: place a batch, picture by picture."""

from __future__ import annotations

from contextlib import suppress
from datetime import timedelta

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from batches.models import Batch
from batches.placing import place
from common.background import WATCHED

#: One whose worker has not been heard of for this long is begun again.
_GIVEN_UP_AFTER = timedelta(seconds=30)


@app.task(name="place", queue="reports", priority=WATCHED)
def place_batch(key: str) -> None:
    """Place one batch. Safe to run again at any time."""
    batch = Batch.objects.select_related("job__owner").filter(id=key, placed=False).first()
    if batch:
        place(batch)


def have_placed(batch: Batch) -> None:
    """Have a worker place a batch once its row is committed; if that waits already, it waits on."""

    def defer() -> None:
        with suppress(AlreadyEnqueued):
            place_batch.configure(queueing_lock=f"place-{batch.id}").defer(key=str(batch.id))

    transaction.on_commit(defer)


def have_placed_what_was_lost() -> None:
    """Begin again what a worker has died over."""
    for batch in Batch.objects.filter(placed=False, heard__lt=timezone.now() - _GIVEN_UP_AFTER):
        have_placed(batch)
