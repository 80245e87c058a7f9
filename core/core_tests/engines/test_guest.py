"""Brought networks in processes of their own: the same pixels, bounded in memory and time, and back again after a fault."""

from __future__ import annotations

import hashlib
import json
import os
import signal
import threading
import time
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest.mock import patch

import numpy as np

from core_tests import networks
from core_tests.pictures import smooth
from kitecore.engines import engine_named, guest
from kitecore.engines.engine import Engine
from kitecore.engines.guest import GuestSession
from kitecore.errors import EngineError


class GuestTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def engine(self, network: bytes, factor: int, guest: bool = True, **changes: Any) -> Engine:
        described = {
            "id": "brought", "name": "Brought", "purpose": "Tests.", "licence": "none", "order": 500,
            "kind": "enlarge" if factor > 1 else "repair",
            "network": {
                "file": "network.onnx", "sha256": hashlib.sha256(network).hexdigest(), "input": "picture",
                "outputs": {str(factor): "result"}, "reach": 0, "operations_per_pixel": {str(factor): 1.0}, **changes,
            },
        }  # fmt: skip
        (self.folder / "network.onnx").write_bytes(network)
        (self.folder / "engine.json").write_text(json.dumps(described))
        return Engine(self.folder, guest=guest)

    def process(self, engine: Engine, factor: int) -> int:
        session = engine.session(factor)
        assert isinstance(session, GuestSession) and session._process is not None
        return session._process.pid

    def test_its_pixels_are_those_it_has_in_this_process(self) -> None:
        picture = smooth(40, 52)
        here = self.engine(networks.nearest(), 2, guest=False).enlarge(picture, 2)
        elsewhere = self.engine(networks.nearest(), 2)
        for _ in range(2):
            np.testing.assert_array_equal(elsewhere.enlarge(picture, 2), here)
        self.assertNotEqual(self.process(elsewhere, 2), os.getpid())

    def test_one_that_was_killed_is_there_again_for_the_next_region(self) -> None:
        engine, picture = self.engine(networks.nearest(), 2), smooth(16, 16)
        expected = engine.enlarge(picture, 2)
        first = self.process(engine, 2)
        os.kill(first, signal.SIGKILL)
        time.sleep(0.2)
        np.testing.assert_array_equal(engine.enlarge(picture, 2), expected)
        self.assertNotEqual(self.process(engine, 2), first)
        engine.release()
        with self.assertRaises(ProcessLookupError):
            os.kill(first, 0)

    def test_one_that_does_not_end_is_stopped_and_others_are_not_held_up(self) -> None:
        lost = self.engine(networks.endless(), 1)
        told: list[str] = []

        def look() -> None:
            try:
                lost.restore(smooth(32, 32), np.ones((32, 32, 1), np.float32))
            except EngineError as error:
                told.append(str(error))

        repair = engine_named("repair", "repair")
        repair.session(1)
        with patch.object(guest, "_LOADING_SECONDS", 10):
            looking = threading.Thread(target=look)
            looking.start()
            time.sleep(1)
            repair.restore(smooth(64, 64), np.ones((64, 64, 2), np.float32))
            self.assertTrue(looking.is_alive())
            looking.join(60)
        self.assertRegex(told[0], "Brought was not done with a region of 1,024 pixels after 10 seconds")

    def test_one_that_takes_too_much_is_stopped_and_gives_it_back(self) -> None:
        engine = self.engine(networks.hungry(), 1)
        with self.assertRaisesRegex(EngineError, "Brought (broke off: it needs more than 6 GB|fails)"):
            engine.restore(smooth(32, 32), np.ones((32, 32, 1), np.float32))
        with patch.object(guest, "_MOST_KEPT_BYTES", 1):
            modest = self.engine(networks.nearest(), 2)
            modest.enlarge(smooth(16, 16), 2)
            session = modest.session(2)
            assert isinstance(session, GuestSession)
            self.assertIsNone(session._process)
