from __future__ import annotations

import asyncio
import logging
import os
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from procrastinate import App
from procrastinate.contrib.django import app as django_app

from clips.models import ClipCurve, ClipMoments
from clips.tasks import find_moments, measure_curve
from common.store import store
from deliveries.queue import enqueue_what_was_lost
from folders.looking import look_into_all
from folders.roots import roots
from kitecore.files.scratch import sweep
from kitecore.memory import give_back_large_blocks
from readings.models import PictureReading
from readings.tasks import read
from rehearsals.models import PictureRehearsal
from rehearsals.tasks import rehearse_picture
from reports.models import Report
from reports.tasks import report
from showings.models import ShownPicture
from showings.tasks import show_picture

log = logging.getLogger(__name__)

#: What a worker can take from; “folders” is no queue but looking into them.
QUEUES = ("deliveries", "readings", "reports", "folders")
HEARTBEAT_SECONDS = 3.0
GIVEN_UP_SECONDS = 12.0


async def take_over_stalled(app: App, every: float = 4.0) -> None:
    """For ever, put work whose worker has gone silent, and what was lost on its way, back into the queue."""
    while True:
        try:
            for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=GIVEN_UP_SECONDS):
                log.warning("taking over %s %s from a worker that is gone", job.task_name, job.task_kwargs)
                await app.job_manager.retry_job(job)
            for one in await sync_to_async(_what_was_lost)():
                log.warning("%s had lost its place in the queue and has it back", one)
        except Exception:
            log.exception("could not look for work left behind; trying again")
        await asyncio.sleep(every)


def _what_was_lost() -> list[object]:
    """Deliveries and measurements that waited without work in the queue; they have it back."""
    measured = [
        (PictureReading, read),
        (Report, report),
        (PictureRehearsal, rehearse_picture),
        (ClipCurve, measure_curve),
        (ClipMoments, find_moments),
        (ShownPicture, show_picture),
    ]
    return [*enqueue_what_was_lost(), *(row for model, task in measured for row in model.enqueue_what_was_lost(task))]


async def look_into_folders(every: float = 3.0) -> None:
    """For ever, look into hand-off folders; one worker at a time does, and only where there are any."""
    while True:
        try:
            if roots():
                await sync_to_async(look_into_all)()
        except Exception:
            log.exception("could not look into the folders; trying again")
        await asyncio.sleep(every)


async def sweep_what_was_left(every: float = 600.0) -> None:
    """For ever, remove what killed processes decoded and left behind, and copies of what is in the store if there are many."""
    while True:
        try:
            for name in await sync_to_async(sweep)(settings.SCRATCH):
                log.warning("swept %s, which a process that is gone had left", name)
            kept = [settings.ORIGINALS, settings.DELIVERIES, settings.SHOWINGS]
            gone = await sync_to_async(store().forget)(kept, settings.MOST_LOCAL_BYTES)
            if gone:
                log.info("%d files that were used longest ago are in the store alone now", len(gone))
        except Exception:
            log.exception("could not sweep; trying again")
        await asyncio.sleep(every)


class Command(BaseCommand):
    """Run a background worker. Any number, on any machines that share the database and the files, join this way."""

    help = "Run a background worker."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--name", default="worker")
        parser.add_argument("--concurrency", type=int, default=1, help="deliveries at the same time")
        parser.add_argument("--nice", type=int, default=0, help="how far it gives way to other programs, 0 to 19")
        parser.add_argument("--queues", default=",".join(QUEUES), help="take only from these, separated by commas")

    def handle(self, *args: Any, **options: Any) -> None:
        os.nice(options["nice"])
        give_back_large_blocks()
        asyncio.run(self._run(options["name"], options["concurrency"], options["queues"].split(",")))

    async def _run(self, name: str, concurrency: int, queues: list[str]) -> None:
        app = django_app.with_connector(django_app.connector.get_worker_connector())  # type: ignore[attr-defined]
        async with app.open_async():
            tasks = [asyncio.create_task(take_over_stalled(app)), asyncio.create_task(sweep_what_was_left())]
            if "folders" in queues:
                tasks.append(asyncio.create_task(look_into_folders()))
            try:
                await app.run_worker_async(
                    name=name,
                    queues=queues,
                    concurrency=concurrency,
                    update_heartbeat_interval=HEARTBEAT_SECONDS,
                    stalled_worker_timeout=GIVEN_UP_SECONDS,
                    fetch_job_polling_interval=2.0,
                    shutdown_graceful_timeout=1.0,
                )
            finally:
                for task in tasks:
                    task.cancel()
