"""What the worker does: render a delivery, tell how far it is, stop when asked to, survive being killed."""

from __future__ import annotations

import hashlib
import logging
import os
import socket
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connection, transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from common.errors import StoreFault
from common.patience import patiently
from common.store import store
from deliveries.models import UNFINISHED, Delivery, State
from deliveries.squares import Shared, help_with
from kitecore.delivery.write import write_result
from kitecore.errors import Cancelled, KiteError
from kitecore.pipeline.run import Run
from kitecore.takes.plan import plan
from pictures.opening import opened_here
from rendering.load import Beside
from rendering.speed import learn, seconds_for
from reports.tasks import have_measured

log = logging.getLogger(__name__)

MOST_DEATHS = 3
_TELL_EVERY_SECONDS = 0.25


class _Superseded(Exception):
    """Another run of the same delivery has begun; this one must not touch anything any more."""


class _Watch:
    """Keeps the row of a running delivery up to date and learns from it whether to go on.

    A database that does not answer is no reason to stop rendering: progress is told again when it is back.
    """

    def __init__(self, delivery: Delivery) -> None:
        self._id, self._attempt = delivery.id, delivery.attempt
        self._told = 0.0
        self._stop: type[Exception] | None = None
        self._progress = 0.0

    def progress(self, fraction: float) -> None:
        self._progress = fraction
        self._look()

    def cancelled(self) -> bool:
        self._look()
        if self._stop is _Superseded:
            raise _Superseded
        return self._stop is not None

    def _look(self) -> None:
        if self._stop or time.monotonic() - self._told < _TELL_EVERY_SECONDS:
            return
        self._told = time.monotonic()
        try:
            Delivery.objects.filter(id=self._id, attempt=self._attempt).update(
                progress=self._progress, modified=timezone.now()
            )
            row = Delivery.objects.filter(id=self._id).values("attempt", "cancel_asked").first()
        except DatabaseError:
            connection.close()
            return
        if row is None or row["attempt"] != self._attempt:
            self._stop = _Superseded
        elif row["cancel_asked"]:
            self._stop = Cancelled


def _begin(delivery_id: str) -> Delivery | None:
    """Claim the delivery for this run; None if there is nothing left to do."""
    with transaction.atomic():
        delivery = Delivery.objects.select_for_update().filter(id=delivery_id).first()
        if delivery is None or delivery.state not in UNFINISHED:
            return None
        if delivery.state == State.RUNNING:
            delivery.deaths += 1
        delivery.attempt += 1
        delivery.worker = _who()
        delivery.state, delivery.progress, delivery.started = State.RUNNING, 0, timezone.now()
        if delivery.cancel_asked:
            delivery.state, delivery.finished = State.CANCELLED, timezone.now()
        elif delivery.deaths >= MOST_DEATHS:
            delivery.state, delivery.finished = State.FAILED, timezone.now()
            delivery.message = (
                f"The worker died {MOST_DEATHS} times while making {delivery.name}; it may need more memory "
                "than this machine has. Try a smaller size, then ask whoever runs the server."
            )
        delivery.save()
    if delivery.state == State.RUNNING:
        return delivery
    # What the runs that died have left.
    store().remove_all(delivery.folder)
    return None


def _end(delivery: Delivery, state: State, message: str = "", **values: object) -> None:
    """Write the outcome, unless another run has taken over."""

    def write() -> None:
        Delivery.objects.filter(id=delivery.id, attempt=delivery.attempt).update(
            state=state, message=message, finished=timezone.now(), modified=timezone.now(), **values
        )

    patiently(write)


def _make(delivery: Delivery) -> None:
    watch = _Watch(delivery)
    started, beside = time.monotonic(), Beside()
    # Whatever an earlier, killed run has left goes first: a delivery's folder holds its one file or nothing.
    store().remove_all(delivery.folder)
    delivery.folder.mkdir(parents=True)
    picture = delivery.picture
    with opened_here(picture) as source:
        resolved = plan(delivery.core_take, source.size)
        run = Run(watch.cancelled, watch.progress)
        shared = Shared(delivery) if seconds_for(resolved) >= settings.SHARED_FROM_SECONDS else None
        try:
            write_result(resolved, source, delivery.core_spec, delivery.path, run, delivery.name, shared)
        finally:
            store().remove_all(delivery.squares_folder)
            # Each network keeps what it has needed, and the next file may need others.
            for use in (use for step in resolved.steps for use in step.engines_used()):
                use.engine().release()
    with ThreadPoolExecutor(1, "hashed") as pool:
        hashed = pool.submit(_sha256, delivery.path)
        store().put(delivery.path)
        digest = hashed.result()
    seconds, alone = time.monotonic() - started, beside.alone()
    _end(delivery, State.DONE, progress=1.0, bytes=delivery.path.stat().st_size, sha256=digest, seconds=seconds)
    if not (shared and shared.helped):
        patiently(lambda: learn(resolved, seconds * alone))
    # For the ledger, which tells how far every file departs from its source.
    patiently(lambda: have_measured(delivery.picture, resolved.chain, delivery.core_take.model_dump(mode="json")))


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _who() -> str:
    return f"{socket.gethostname()} {os.getpid()}"


@app.task(name="help", queue="deliveries")
def help_to_deliver(delivery_id: str, attempt: int) -> None:
    """Make regions of a large delivery that another worker writes."""
    help_with(delivery_id, attempt, _who())


@app.task(name="deliver", queue="deliveries")
def deliver(delivery_id: str) -> None:
    """Make one delivery. Safe to run again at any time: a finished one is left alone, a half one begun afresh."""
    delivery = patiently(lambda: _begin(delivery_id))
    if delivery is None:
        return
    try:
        _make(delivery)
    except _Superseded:
        return
    except Cancelled:
        _end(delivery, State.CANCELLED, progress=0)
    except KiteError as error:
        _end(delivery, State.FAILED, str(error))
    except Exception as error:
        log.exception("delivery %s failed", delivery_id)
        kind = (
            "the disk is full" if isinstance(error, OSError) and error.errno == 28 else "something unforeseen happened"
        )
        _end(delivery, State.FAILED, f"{delivery.name} could not be made: {kind}. Nothing else is harmed; try again.")
    finally:
        if not delivery.path.exists():
            with suppress(StoreFault):
                store().remove_all(delivery.folder)
