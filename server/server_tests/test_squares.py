"""A delivery that several workers make: the same file as from one, whoever is killed meanwhile."""

from __future__ import annotations

import threading
import time
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
import pyvips
import tifffile
from django.db import connection
from django.utils import timezone

from deliveries import squares
from deliveries.models import Delivery, Square, State
from deliveries.squares import help_with
from deliveries.tasks import deliver
from kitecore.delivery.pieces import Packed, Piece, save_piece
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.stage_cache import uncached
from kitecore.takes.whole import WholeRender
from server_tests.base import CommittedTestCase, png_bytes

STEPS = [
    {"kind": "grain", "amount": 20},
    {"kind": "enlarge", "engine": "plain", "target": {"by": "factor", "factor": 4}},
]


class SquaresTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        small = WholeRender(Size(160, 16), uncached)
        for patch in (
            mock.patch("kitecore.delivery.tiff._STRIP_BYTES", 16 * 400 * 3 * 2),
            mock.patch("kitecore.delivery.write.whole_render", return_value=small),
            mock.patch.object(squares, "_ask_for_help"),
        ):
            patch.start()
            self.addCleanup(patch.stop)

    def ordered(self, **spec: str) -> Delivery:
        _, take = self.picture_and_take(png_bytes(100, 160), STEPS)
        answer = self.send("post", f"/takes/{take.id}/deliveries", {"spec": {"compression": "zip", **spec}})
        return Delivery.objects.get(id=answer.json()["id"])

    def shared(self) -> Any:
        return self.settings(SHARED_FROM_SECONDS=0)

    def made(self, delivery: Delivery) -> Delivery:
        deliver.func(str(delivery.id))
        delivery.refresh_from_db()
        self.assertEqual((delivery.state, delivery.message), (State.DONE, ""))
        return delivery

    def beside(self, work: Any, *arguments: Any) -> threading.Thread:
        """Done in a thread, as by another worker."""

        def run() -> None:
            try:
                work(*arguments)
            finally:
                connection.close()

        thread = threading.Thread(target=run)
        thread.start()
        self.addCleanup(thread.join)
        return thread

    def until_there_are_squares(self, delivery: Delivery) -> None:
        until = time.monotonic() + 30
        while not Square.objects.filter(delivery=delivery).exists():
            self.assertLess(time.monotonic(), until)
            time.sleep(0.01)

    def slowly(self) -> Any:
        """The writer takes its time, so that others come to help."""
        done = squares.Shared._done_by_others

        def late(self: squares.Shared, number: int, known: Any) -> Any:
            time.sleep(0.02)
            return done(self, number, known)

        return mock.patch.object(squares.Shared, "_done_by_others", late)

    def same_pixels(self, one: Delivery, other: Delivery) -> None:
        """What else is in the files tells when they were made."""
        np.testing.assert_array_equal(*(tifffile.imread(delivery.path) for delivery in (one, other)))

    def counted(self, helped: list[Piece]) -> Any:
        """What is handed over is added."""

        def saved(piece: Piece, path: Path) -> None:
            helped.append(piece)
            save_piece(piece, path)

        return mock.patch.object(squares, "save_piece", saved)

    def helped_with(self, together: Delivery) -> list[Piece]:
        """Have it made by two; gives what the helper has handed over."""
        helped: list[Piece] = []
        with self.shared(), self.slowly():
            writing = self.beside(deliver.func, str(together.id))
            self.until_there_are_squares(together)
            with self.counted(helped):
                help_with(str(together.id), 1, "helper")
            writing.join()
        return helped

    def test_two_make_the_same_file_as_one(self) -> None:
        alone = self.made(self.ordered())
        together = self.ordered()
        helped = self.helped_with(together)
        together.refresh_from_db()
        self.assertEqual(together.state, State.DONE)
        self.same_pixels(alone, together)
        self.assertGreater(len(helped), 4)
        self.assertTrue(all(isinstance(one, Packed) for one in helped), "parts of the file, packed by the helper")
        self.assertEqual(self.files(f"deliveries/{together.id}"), [together.path])
        self.assertFalse(Square.objects.exists())

    def test_of_what_cannot_be_packed_apart_squares_are_handed_over(self) -> None:
        alone, together = self.made(self.ordered(format="png")), self.ordered(format="png")
        helped = self.helped_with(together)
        self.assertGreater(len(helped), 1)
        pixels = [pyvips.Image.new_from_file(str(one.path)).numpy() for one in (alone, together)]
        np.testing.assert_array_equal(*pixels)

    def test_what_a_killed_helper_had_in_hand_somebody_else_makes(self) -> None:
        alone = self.made(self.ordered())
        together = self.ordered()
        with self.shared(), self.slowly():
            writing = self.beside(deliver.func, str(together.id))
            self.until_there_are_squares(together)
            gone = timezone.now() - timedelta(minutes=1)
            taken = Square.objects.filter(delivery=together, number__gte=20, number__lt=24)
            self.assertEqual(taken.update(worker="killed", heard=gone), 4)
            writing.join()
        together.refresh_from_db()
        self.assertEqual(together.state, State.DONE)
        self.same_pixels(alone, together)

    def test_helpers_come_for_nothing_that_is_over_or_called_off(self) -> None:
        delivery = self.ordered()
        help_with(str(delivery.id), 1, "helper")
        Delivery.objects.filter(id=delivery.id).update(state=State.RUNNING, attempt=1, cancel_asked=True)
        Square.objects.create(delivery=delivery, attempt=1, number=0)
        Square.objects.create(delivery=delivery, attempt=1, number=5)
        help_with(str(delivery.id), 1, "helper")
        self.assertFalse(Square.objects.exclude(worker="").exists())

    def test_a_helper_begins_in_the_middle_of_what_nobody_has_and_goes_on_from_there(self) -> None:
        free = list(range(2, 40))
        self.assertEqual(squares.wanted_of(free, None), 21)
        free.remove(21)
        self.assertEqual(squares.wanted_of(free, 21), 22)
        self.assertEqual(squares.wanted_of([2, 3, 9, 10, 11, 30], 39), 10)
        self.assertEqual(squares.wanted_of([2, 3], 39), 3)
        self.assertIsNone(squares.wanted_of([], 3))
