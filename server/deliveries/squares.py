"""A large delivery is made by every worker that is free: each takes some of its regions, one writes them into the file.

Whoever writes the file puts down which regions there are, renders them in order, and takes those that others have made. A
helper begins in the middle of what nobody has, goes on from there, since neighbours have surroundings in common, and leaves what
it made in the delivery's folder, from where it is fetched meanwhile. Where a format's files consist of parts that can be packed
apart, that are such parts of whole rows; else samples of squares. One that is killed loses
what it had in hand; somebody else takes that. What is done and what is in hand is in the database.
"""

from __future__ import annotations

import logging
import shutil
import threading
import time
from collections.abc import Container, Iterator
from concurrent.futures import Future, ThreadPoolExecutor, wait
from contextlib import suppress
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.db import DatabaseError, connection, transaction
from django.db.models import Q
from django.utils import timezone
from procrastinate.contrib.django import app

from common.patience import patiently
from common.store import store
from deliveries.models import Delivery, Square, State
from kitecore.delivery.pieces import Piece, load_piece, save_piece
from kitecore.delivery.write import Prepared, free_bytes, prepared
from kitecore.errors import Cancelled, KiteError
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.pipeline.strips import Made, Work
from kitecore.takes.plan import plan
from pictures.opening import opened_here

log = logging.getLogger(__name__)

#: So many helpers are asked for; whoever is free comes.
_HELPERS = 7
#: On a disk that is nearly full, what others have made is fetched so many regions ahead; else as soon as it is there.
_FETCHED_AHEAD = 2
#: For less than so many regions nobody is asked.
_LEAST_REGIONS = 3
#: A helper that was not heard of for so long is gone.
_SILENT = timedelta(seconds=15)
#: So much room is left on the disk beside what the file needs; and with so much it is not nearly full.
_ROOM_BYTES, _PLENTY_BYTES = 500_000_000, 10_000_000_000
_BEAT_SECONDS, _LOOK_SECONDS = 3.0, 0.1
#: Any delivery that waits comes before helping with another.
_BEHIND_ALL = -(2**31) + 1


class Shared:
    """How the writer of a delivery has its regions rendered."""

    def __init__(self, delivery: Delivery) -> None:
        self._delivery = delivery
        self._squares = Square.objects.filter(delivery=delivery, attempt=delivery.attempt)
        #: How many regions others have made.
        self.helped = 0

    def __call__(
        self, work: Work[Made], run: Run, regions: list[Region], at_once: int
    ) -> Iterator[tuple[Region, Made]]:
        delivery = self._delivery
        delivery.squares_folder.mkdir(exist_ok=True)
        patiently(lambda: self._put_down(len(regions)))
        _ask_for_help(delivery, _HELPERS if len(regions) >= _LEAST_REGIONS else 0)
        over = threading.Event()
        mine: dict[int, Future[Made]] = {}
        theirs: dict[int, Future[Path]] = {}
        with ThreadPoolExecutor(at_once, "squares") as pool, ThreadPoolExecutor(1, "fetched") as fetching:
            try:
                for number, region in enumerate(regions):
                    while True:
                        for one in self._done_by_others(number, theirs):
                            theirs[one] = fetching.submit(store().here, _path(delivery, one))
                        if any(number in one and one[number].done() for one in (mine, theirs)):
                            break
                        run.check()
                        if _has_a_hand_free(mine, at_once) and (more := patiently(self._more)) is not None:
                            mine[more] = pool.submit(work, regions[more], Run(over.is_set))
                        coming: Future[Any] | None = mine.get(number) or theirs.get(number)
                        if coming is not None:
                            wait([coming], _LOOK_SECONDS)
                        else:
                            time.sleep(_LOOK_SECONDS)
                    patiently(self._squares.filter(number=number).delete)
                    made = mine.pop(number).result() if number in mine else self._taken(theirs.pop(number).result())
                    yield region, made
                    del made
            finally:
                over.set()
                with suppress(DatabaseError):
                    self._squares.delete()

    @transaction.atomic
    def _put_down(self, count: int) -> None:
        """All regions there are; those of earlier attempts are nobody's business any more."""
        delivery = self._delivery
        Square.objects.filter(delivery=delivery).delete()
        Square.objects.bulk_create(
            Square(delivery=delivery, attempt=delivery.attempt, number=one) for one in range(count)
        )

    def _done_by_others(self, number: int, known: Container[int]) -> list[int]:
        """Regions that others have made, and that are not yet here or on their way."""
        rows = self._squares.filter(number__gte=number, done=True)
        if free_bytes(self._delivery.folder) < _PLENTY_BYTES:
            rows = rows.filter(number__lt=number + _FETCHED_AHEAD)
        found = patiently(lambda: list(rows.order_by("number").values_list("number", flat=True)))
        return [one for one in found if one not in known]

    def _taken(self, path: Path) -> Any:
        """What somebody else has made; its file goes."""
        piece = load_piece(path)
        store().remove(path)
        self.helped += 1
        return piece

    def _more(self) -> int | None:
        """The next region that nobody has."""
        with transaction.atomic():
            row = self._squares.filter(_free()).select_for_update(skip_locked=True).order_by("number").first()
            return None if row is None else _held(row, "writer", None)


def _has_a_hand_free(mine: dict[int, Future[Any]], at_once: int) -> bool:
    """Whether more can be begun; one that is done may wait for its turn, more would fill the memory."""
    return len(mine) <= at_once and sum(not one.done() for one in mine.values()) < at_once


def _path(delivery: Delivery, number: int) -> Path:
    return delivery.squares_folder / f"{number}.piece"


def _free() -> Q:
    """What nobody has, or somebody who is gone."""
    return Q(done=False) & (Q(worker="") | Q(heard__lt=timezone.now() - _SILENT))


def _held(row: Square, worker: str, heard: datetime | None) -> int:
    row.worker, row.heard = worker, heard
    row.save(update_fields=["worker", "heard"])
    return row.number


def wanted_of(free: list[int], last: int | None) -> int | None:
    """Which of the regions that nobody has (in order) a helper makes after its last one; None if there is none.

    >>> wanted_of([3, 4, 5, 6, 9], None), wanted_of([3, 4, 5, 6, 9], 8), wanted_of([3, 4], 8), wanted_of([], 8)
    (5, 9, 4, None)
    """
    if last is not None and last + 1 in free:
        return last + 1
    runs: list[list[int]] = []
    for number in free:
        if runs and number == runs[-1][-1] + 1:
            runs[-1].append(number)
        else:
            runs.append([number])
    longest = max(runs, key=len, default=[])
    return longest[len(longest) // 2] if longest else None


def _ask_for_help(delivery: Delivery, count: int) -> None:
    for _ in range(count):
        app.configure_task("help", queue="deliveries", priority=_BEHIND_ALL).defer(
            delivery_id=str(delivery.id), attempt=delivery.attempt
        )


def _is_wanted(delivery: Delivery) -> bool:
    """Whether the writer is still at it."""
    rows = Delivery.objects.filter(id=delivery.id, attempt=delivery.attempt, state=State.RUNNING, cancel_asked=False)
    return rows.exists()


class _Helper:
    """Makes regions of a delivery that another worker writes."""

    def __init__(self, delivery: Delivery, worker: str) -> None:
        self._delivery, self._worker = delivery, worker
        self._squares = Square.objects.filter(delivery=delivery, attempt=delivery.attempt)
        self._wanted, self._asked = True, time.monotonic()
        self._last: int | None = None
        self._made = 0
        self._handed: Future[None] | None = None

    def work(self) -> None:
        delivery, picture = self._delivery, self._delivery.picture
        with opened_here(picture) as source:
            resolved = plan(delivery.core_take, source.size)
            ready = prepared(resolved, source, delivery.core_spec, delivery.name)
            regions = ready.regions()
            if store().shared is not None:
                # Without a store the folder is the writer's, and gone once the file is there.
                delivery.squares_folder.mkdir(parents=True, exist_ok=True)
            try:
                # What waits on the disk must not leave the file without room.
                with ThreadPoolExecutor(1, "handed over") as handing:
                    while self._goes_on() and free_bytes(delivery.folder) > ready.bytes + _ROOM_BYTES:
                        if (number := self._next()) is None:
                            time.sleep(5 * _LOOK_SECONDS)
                        else:
                            self._make(number, ready, regions[number], handing)
                    if self._handed is not None:
                        self._handed.result()
            finally:
                log.info("made %d regions of %s", self._made, delivery.name)
                if store().shared is not None:
                    shutil.rmtree(delivery.folder, ignore_errors=True)
                for use in (use for step in resolved.steps for use in step.engines_used()):
                    use.engine().release()

    def _goes_on(self) -> bool:
        """Whether there is anything left to do, and no delivery that waits to be made."""
        if not self._squares.filter(done=False).exists() or not _is_wanted(self._delivery):
            return False
        if Delivery.objects.filter(state=State.QUEUED).exists():
            _ask_for_help(self._delivery, 1)
            return False
        return True

    def _next(self) -> int | None:
        """Take what is made next, if there is anything; what somebody else has just taken is left to them."""
        number = wanted_of(
            list(self._squares.filter(_free()).order_by("number").values_list("number", flat=True)), self._last
        )
        if number is None:
            return None
        with transaction.atomic():
            row = self._squares.filter(_free(), number=number).select_for_update(skip_locked=True).first()
            self._last = None if row is None else _held(row, self._worker, timezone.now())
        return self._last

    def _make(self, number: int, ready: Prepared, region: Region, handing: ThreadPoolExecutor) -> None:
        """Make one; it is handed over while the next is made."""
        over = threading.Event()
        beating = threading.Thread(target=self._beat, args=(number, over), daemon=True)
        beating.start()
        try:
            piece = ready.piece(region, Run(self._called_off))
            if self._handed is not None:
                self._handed.result()
        except BaseException:
            over.set()
            raise
        self._handed = handing.submit(self._hand_over, number, piece, over)
        self._made += 1

    def _hand_over(self, number: int, piece: Piece, over: threading.Event) -> None:
        path = _path(self._delivery, number)
        part = path.with_suffix(f".{threading.get_ident()}.part")
        try:
            save_piece(piece, part)
            part.replace(path)
            store().hand_over(path)
            self._squares.filter(number=number).update(done=True)
        finally:
            over.set()
            connection.close()

    def _beat(self, number: int, over: threading.Event) -> None:
        """Tell again and again that it is being made."""
        while not over.wait(_BEAT_SECONDS):
            with suppress(DatabaseError):
                self._squares.filter(number=number, worker=self._worker, done=False).update(heard=timezone.now())
        connection.close()

    def _called_off(self) -> bool:
        if self._wanted and time.monotonic() - self._asked > 1:
            self._asked, self._wanted = time.monotonic(), _is_wanted(self._delivery)
        return not self._wanted


def help_with(delivery_id: str, attempt: int, worker: str) -> None:
    """Make regions of a delivery as long as there are any to be made."""
    delivery = Delivery.objects.filter(id=delivery_id, attempt=attempt, state=State.RUNNING).first()
    if delivery is None:
        return
    try:
        _Helper(delivery, worker).work()
    except Cancelled:
        return
    except (KiteError, FileNotFoundError) as error:
        # What is wrong with it, its writer finds and says; or it is done, and its folder gone.
        log.info("helping with %s ended: %s", delivery_id, error)
