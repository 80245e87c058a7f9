import threading
import time
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np

from kitecore.errors import Cancelled
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.region_cache import RegionCache, region_key


class CacheTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.pixels = np.random.default_rng(1).random((32, 32, 3), dtype=np.float32)

    def key(self, number: int) -> str:
        return region_key("picture", "chain", 0, Region(number, 0, 32, 32))

    def held(self) -> int:
        return sum(file.stat().st_size for file in self.folder.rglob("*.npy"))

    def test_gives_back_exactly_what_was_kept_also_to_the_next_process(self) -> None:
        RegionCache(self.folder, 10**6).put(self.key(1), self.pixels)
        again = RegionCache(self.folder, 10**6).get(self.key(1))
        np.testing.assert_array_equal(again, self.pixels)
        self.assertIsNone(RegionCache(self.folder, 10**6).get(self.key(2)))

    def test_stays_within_its_bound_and_drops_the_least_recently_used(self) -> None:
        cache = RegionCache(self.folder, 10 * self.pixels.nbytes)
        for number in range(9):
            cache.put(self.key(number), self.pixels)
            time.sleep(0.002)
        self.assertIsNotNone(cache.get(self.key(0)))
        for number in range(9, 14):
            cache.put(self.key(number), self.pixels)
            self.assertLessEqual(self.held(), 10 * self.pixels.nbytes)
            time.sleep(0.002)
        self.assertIsNotNone(cache.get(self.key(0)), "used a moment ago")
        self.assertIsNone(cache.get(self.key(1)), "not used for longest")

    def test_the_same_thing_is_computed_once(self) -> None:
        cache = RegionCache(self.folder, 10**6)
        begun = []

        def render() -> np.ndarray:
            begun.append(1)
            time.sleep(0.1)
            return self.pixels

        threads = [
            threading.Thread(target=cache.get_or_render, args=(self.key(1), render, lambda: False)) for _ in range(5)
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(begun), 1)

    def test_when_the_first_is_called_off_the_next_computes(self) -> None:
        cache = RegionCache(self.folder, 10**6)
        waiting = threading.Event()

        def called_off() -> np.ndarray:
            waiting.wait(2)
            raise Cancelled

        first = threading.Thread(
            target=lambda: self.assertRaises(Cancelled, cache.get_or_render, self.key(1), called_off, bool)
        )
        first.start()
        time.sleep(0.05)
        found: list[np.ndarray] = []
        second = threading.Thread(
            target=lambda: found.append(cache.get_or_render(self.key(1), lambda: self.pixels, bool))
        )
        second.start()
        waiting.set()
        first.join()
        second.join()
        np.testing.assert_array_equal(found[0], self.pixels)

    def test_a_spoilt_file_is_computed_again(self) -> None:
        cache = RegionCache(self.folder, 10**6)
        cache.put(self.key(1), self.pixels)
        next(self.folder.rglob("*.npy")).write_bytes(b"spoilt")
        again = cache.get_or_render(self.key(1), lambda: self.pixels, lambda: False)
        np.testing.assert_array_equal(again, self.pixels)
