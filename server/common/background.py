"""Background measurements: made by a worker, told how far they are, and kept."""

from __future__ import annotations

import contextlib
import logging
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any, Self

from django.db import models, transaction
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.tasks import Task
from pydantic import BaseModel

from kitecore.errors import KiteError

log = logging.getLogger(__name__)

#: One whose worker has not been heard of for this long is begun again when it is asked for.
GIVEN_UP_SECONDS = 30
_TELL_EVERY_SECONDS = 0.5
#: One that has waited for so long without work in the queue has lost it.
_LOST_AFTER_SECONDS = 20

#: Of what a person waits for with the page open, and of what is made of every file that comes in: a hundred of these wait behind
#: one of those. Deliveries have a worker and an order of their own.
WATCHED, UNWATCHED = 10, 0

Progress = Callable[[float], None]


class State(models.TextChoices):
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"


class BackgroundMeasurement(models.Model):
    """A row that a worker fills in. Subclasses say what is measured, and of what."""

    state = models.CharField(max_length=10, choices=State, default=State.QUEUED)
    progress = models.FloatField(default=0)
    #: What was found, once it is done.
    found = models.JSONField(null=True, blank=True)
    message = models.TextField(blank=True, default="")
    created = models.DateTimeField(auto_now_add=True)
    modified = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True

    @property
    def given_up(self) -> bool:
        """Whether its worker must have died."""
        return self.state == State.RUNNING and (timezone.now() - self.modified).total_seconds() > GIVEN_UP_SECONDS

    @property
    def needed(self) -> bool:
        """Whether it has to be begun again before anything can come of it."""
        return self.state == State.FAILED or self.given_up

    def begin(self, task: Task[Any, Any, Any]) -> None:
        """Put it into the queue of ``task``, which takes the row's key, once the row is committed."""
        self.state, self.progress, self.message = State.QUEUED, 0, ""
        self.save()

        def defer() -> None:
            with contextlib.suppress(AlreadyEnqueued):
                task.configure(queueing_lock=f"{task.name}-{self.pk}").defer(key=str(self.pk))

        transaction.on_commit(defer)

    @classmethod
    def enqueue_what_was_lost(cls, task: Task[Any, Any, Any]) -> list[Self]:
        """Give rows that wait without any work in the queue their work back; gives those that were lost.

        A power cut between the two can part them, or someone who empties the queue.
        """
        since = timezone.now() - timedelta(seconds=_LOST_AFTER_SECONDS)
        waiting = list(cls._default_manager.filter(state=State.QUEUED, modified__lt=since))
        locks = {row.pk: f"{task.name}-{row.pk}" for row in waiting}
        known = set(
            ProcrastinateJob.objects.filter(queueing_lock__in=locks.values(), status__in=("todo", "doing"))
            .values_list("queueing_lock", flat=True)
        )  # fmt: skip
        lost = [row for row in waiting if locks[row.pk] not in known]
        for row in lost:
            row.begin(task)
        return lost

    def perform(self, work: Callable[[Progress], BaseModel], called: str) -> None:
        """Do it, in a worker: keep what ``work`` finds, or the sentence that says why not. ``called`` names it."""
        self._tell(state=State.RUNNING, progress=0, message="")
        told = time.monotonic()

        def progress(fraction: float) -> None:
            nonlocal told
            if time.monotonic() - told > _TELL_EVERY_SECONDS:
                told = time.monotonic()
                self._tell(progress=fraction)

        try:
            found = work(progress)
        except KiteError as error:
            self._tell(state=State.FAILED, message=str(error))
        except Exception:
            log.exception("%s %s failed", called, self.pk)
            message = f"The {called} could not be made: something unforeseen happened. Try again."
            self._tell(state=State.FAILED, message=message)
        else:
            self._tell(state=State.DONE, progress=1, found=found.model_dump(mode="json"))

    def _tell(self, **values: object) -> None:
        type(self)._default_manager.filter(pk=self.pk).update(modified=timezone.now(), **values)
