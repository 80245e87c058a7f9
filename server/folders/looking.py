"""Looking into hand-off folders: take in what has come, order what is to be done to it, lay down what is finished.

Every step is written down before the next is begun, and can be done again: a worker that dies in between leaves nothing
twice and nothing out. Files in an inbox are never moved or changed, and nothing in an outbox is ever overwritten.
"""

from __future__ import annotations

import hashlib
import itertools
import logging
import os
import shutil
import time
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

from django.db import close_old_connections, connection, transaction

from batches.models import Batch
from batches.treatment import NotReadYet
from common.store import store
from deliveries.models import Delivery, State
from deliveries.orders import fitted_to, order_delivery
from folders.models import Arrival, HandOff, Return
from folders.roots import confined, inside
from intake.receiving import take_in
from kitecore.errors import KiteError
from readings.models import PictureReading
from takes.models import Take

log = logging.getLogger(__name__)

#: A file that was changed less long ago may still be being written.
SETTLED_SECONDS = 2.0
MOST_FILES = 10_000
_UNFINISHED = (".part", ".tmp", ".partial", ".crdownload", ".download")
_PICTURES = (".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp")
#: Of PostgreSQL's advisory locks: whoever holds it looks, on whatever machine.
_LOCK = 0x4B475F466F6C64


def look_into_all() -> None:
    """Look into every folder that is handed off, unless another worker is at it."""
    close_old_connections()
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s)", [_LOCK])
        (mine,) = cursor.fetchone()
    if not mine:
        return
    try:
        for hand_off in HandOff.objects.filter(removed=None, job__removed=None).select_related("job__owner", "card"):
            look_into(hand_off)
    finally:
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_unlock(%s)", [_LOCK])


def look_into(hand_off: HandOff) -> None:
    """One folder; what is wrong with it is written beside it, and it is tried again the next time."""
    try:
        inbox, outbox = confined(hand_off.inbox), confined(hand_off.outbox)
        if hand_off.watched or not hand_off.looked:
            _take_in(hand_off, inbox)
        _order(hand_off)
        _lay_down(hand_off, outbox)
        problem = ""
    except (KiteError, OSError) as error:
        problem = str(error) if isinstance(error, KiteError) else f"{hand_off.inbox} cannot be used: {error.strerror}."
    if problem != hand_off.problem:
        HandOff.objects.filter(id=hand_off.id).update(problem=problem)


def _files(hand_off: HandOff, inbox: Path) -> Iterator[tuple[Path, os.stat_result]]:
    """Files in the inbox that somebody laid there; none that we did, none that is hidden or lies elsewhere."""
    own = set(Return.objects.filter(arrival__hand_off=hand_off).values_list("path", flat=True))
    for path in itertools.islice(sorted(inbox.rglob("*")), MOST_FILES):
        hidden = any(part.startswith((".", "~")) for part in path.relative_to(inbox).parts)
        unfinished = path.suffix.lower() in _UNFINISHED
        if not hidden and not unfinished and str(path) not in own and path.is_file() and inside(path, inbox):
            yield path, path.stat()


def _take_in(hand_off: HandOff, inbox: Path) -> None:
    known = set(hand_off.arrivals.values_list("name", "bytes", "changed_ns"))
    all_settled = True
    for path, told in _files(hand_off, inbox):
        name = str(path.relative_to(inbox))
        if (name, told.st_size, told.st_mtime_ns) in known:
            continue
        if abs(time.time() - told.st_mtime) < SETTLED_SECONDS:
            all_settled = False
            continue
        _arrive(Arrival(hand_off=hand_off, name=name, bytes=told.st_size, changed_ns=told.st_mtime_ns), path)
    if all_settled and not hand_off.looked:
        hand_off.looked = True
        hand_off.save(update_fields=["looked"])


def _arrive(arrival: Arrival, path: Path) -> None:
    """Make a picture of a file, or write down why none can be made of it."""
    if path.suffix.lower() not in _PICTURES:
        arrival.problem = f"{path.name} is no picture of a kind that is read here; it was left where it is."
        arrival.save()
        return
    try:
        # Picture and arrival are written together, or neither is.
        with transaction.atomic(), path.open("rb") as file:
            arrival.picture = take_in(arrival.hand_off.job, path.name, file.read)
            Take.objects.begin(arrival.picture)
            arrival.save()
    except KiteError as error:
        arrival.picture, arrival.problem = None, str(error)
        arrival.save()


def _order(hand_off: HandOff) -> None:
    treatment = hand_off.treatment
    if treatment is None:
        return
    for arrival in hand_off.arrivals.filter(ordered=False).exclude(picture=None).select_related("picture__original"):
        picture = arrival.picture
        assert picture is not None
        try:
            treatment.prepare(picture)
            with transaction.atomic():
                take = treatment.take(picture)
                order_delivery(take, fitted_to(picture, take.plan(), hand_off.core_spec), batch_id=_batch(hand_off).id)
                Arrival.objects.filter(id=arrival.id).update(ordered=True)
        except NotReadYet:
            failed = PictureReading.objects.filter(original=picture.original, state="failed").first()
            if failed:
                Arrival.objects.filter(id=arrival.id).update(ordered=True, problem=failed.message)
        except KiteError as error:
            Arrival.objects.filter(id=arrival.id).update(ordered=True, problem=str(error))
            batch = _batch(hand_off)
            batch.left_out.append({"picture_id": str(picture.id), "name": picture.name, "problem": str(error)})
            batch.save(update_fields=["left_out"])


def _batch(hand_off: HandOff) -> Batch:
    if hand_off.batch is None:
        assert hand_off.treatment
        title = f"Folder {Path(hand_off.inbox).name}: {hand_off.treatment.title}"
        hand_off.batch = Batch.objects.create(job=hand_off.job, treatment=title[:200])
        hand_off.save(update_fields=["batch"])
    return hand_off.batch


def _lay_down(hand_off: HandOff, outbox: Path) -> None:
    finished = Delivery.objects.filter(
        state=State.DONE, created__gte=hand_off.created, picture__arrivals__hand_off=hand_off
    ).exclude(returns__arrival__hand_off=hand_off)
    for delivery in finished:
        if not store().has(delivery.path):
            continue
        arrival = hand_off.arrivals.get(picture=delivery.picture)
        folder = outbox / Path(arrival.name).parent
        # A link in the outbox may lead out of it.
        if inside(folder, outbox):
            folder.mkdir(parents=True, exist_ok=True)
            Return.objects.create(arrival=arrival, delivery=delivery, path=str(lay_down(delivery, folder)))


def lay_down(delivery: Delivery, folder: Path) -> Path:
    """Copy a finished file into a folder under a name that is free there; gives where it lies.

    A file of that name with the same bytes is this one, laid down by a worker that could not say so any more.
    """
    stem, ending = Path(delivery.name).stem, Path(delivery.name).suffix
    part = folder / f".kite-{uuid4().hex}.part"
    try:
        shutil.copyfile(store().here(delivery.path), part)
        for number in itertools.count(1):
            path = folder / f"{stem}{'' if number == 1 else f' {number}'}{ending}"
            try:
                # A link does not replace what is there, as renaming would.
                os.link(part, path)
            except FileExistsError:
                if _sha256(path) == delivery.sha256:
                    return path
            else:
                return path
    finally:
        part.unlink(missing_ok=True)
    raise AssertionError("numbers do not end")


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
