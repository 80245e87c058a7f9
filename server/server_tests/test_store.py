"""Files that machines with homes of their own share through a store."""

from __future__ import annotations

import json
import os
import time
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from botocore.exceptions import EndpointConnectionError
from django.core.files.storage import FileSystemStorage
from django.test import SimpleTestCase

from common.errors import StoreFault
from common.store import Store


class StoreTest(SimpleTestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.shared = FileSystemStorage(Path(folder.name) / "shared", allow_overwrite=True)
        self.one, self.other = (Store(Path(folder.name) / name, self.shared) for name in ("one", "other"))
        self.alone = Store(Path(folder.name) / "alone", None)

    def test_what_one_machine_puts_down_the_other_has(self) -> None:
        self.one.write(b"a picture", self.one.home / "originals" / "ab" / "abc")
        path = self.other.home / "originals" / "ab" / "abc"
        self.assertTrue(self.other.has(path))
        self.assertFalse(path.exists())
        self.assertEqual(self.other.here(path).read_bytes(), b"a picture")
        self.assertEqual([one.name for one in path.parent.iterdir()], ["abc"])

    def test_without_a_store_files_are_those_of_the_home(self) -> None:
        path = self.alone.home / "previews" / "a"
        self.alone.write(b"1", path)
        self.assertEqual((self.alone.here(path), self.alone.read(path), self.alone.has(path)), (path, b"1", True))
        self.alone.hand_over(path)
        self.assertTrue(path.exists())
        self.alone.remove(path)
        self.assertFalse(self.alone.has(path))
        self.assertFalse(Path(self.shared.location).exists())

    def test_what_is_nowhere_is_said_to_be_missing(self) -> None:
        for store in (self.one, self.alone):
            path = store.home / "deliveries" / "x"
            self.assertFalse(store.has(path))
            for ask in (store.here, store.read):
                with self.assertRaises(FileNotFoundError):
                    ask(path)
            self.assertFalse(path.exists())

    def test_a_small_file_is_read_as_it_was_written_last(self) -> None:
        ours, theirs = (store.home / "previews" / "a" for store in (self.one, self.other))
        self.one.write(b"first", ours)
        self.assertEqual(self.other.read(theirs), b"first")
        self.other.write(b"second", theirs)
        self.assertEqual(self.one.read(ours), b"second")

    def test_what_lasts_is_put_there_once(self) -> None:
        path = self.one.home / "originals" / "a"
        self.one.write(b"a", path)
        with mock.patch.object(self.shared, "save", side_effect=AssertionError):
            self.one.put(path, lasting=True)

    def test_what_is_removed_is_nowhere(self) -> None:
        for name in ("a", "squares/1", "squares/2"):
            self.one.write(b"1", self.one.home / "deliveries" / "d" / name)
        self.other.here(self.other.home / "deliveries" / "d" / "a")
        self.other.remove(self.other.home / "deliveries" / "d" / "a")
        self.assertFalse(self.shared.exists("deliveries/d/a"))
        self.other.remove_all(self.other.home / "deliveries" / "d")
        self.assertEqual(self.shared.listdir("deliveries/d/squares"), ([], []))
        self.one.remove(self.one.home / "deliveries" / "d" / "a")
        self.one.hand_over(self.written(self.one.home / "deliveries" / "d" / "3"))
        self.assertFalse((self.one.home / "deliveries" / "d" / "3").exists())
        self.assertTrue(self.shared.exists("deliveries/d/3"))

    def written(self, path: Path, content: str = "1") -> Path:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(content)
        return path

    def test_a_shelf_is_followed_piece_by_piece(self) -> None:
        ours, theirs = self.one.home / "engines", self.other.home / "engines"
        own = self.written(theirs / "laid down by hand" / "engine.json")
        with self.one.changing(ours):
            self.written(ours / "a" / "engine.json", "1")
            self.written(ours / "b" / "engine.json", "1")
        self.other.follow(theirs)
        self.assertEqual((theirs / "a" / "engine.json").read_text(), "1")
        with self.one.changing(ours):
            self.written(ours / "a" / "engine.json", "2")
            (ours / "b" / "engine.json").unlink()
        self.other.follow(theirs)
        self.assertEqual((theirs / "a" / "engine.json").read_text(), "2")
        self.assertFalse((theirs / "b" / "engine.json").exists())
        self.assertTrue(own.exists())
        with mock.patch.object(self.other, "_fetch", side_effect=AssertionError):
            self.other.follow(theirs)

    def test_two_that_change_a_shelf_lose_nothing_of_each_other(self) -> None:
        for store, name in ((self.one, "a"), (self.other, "b"), (self.one, "c")):
            with store.changing(store.home / "tables"):
                self.written(store.home / "tables" / f"{name}.cube")
        self.assertEqual(set(json.loads(self.shared.open("tables/index.json").read())), {"a.cube", "b.cube", "c.cube"})

    def test_copies_used_longest_ago_are_taken_away_once_there_are_too_many(self) -> None:
        folder = self.one.home / "originals"
        old, new, fresh = (folder / name for name in ("old", "new", "fresh"))
        for path, age in ((old, 9000), (new, 8000), (fresh, 0)):
            self.one.write(b"x" * 100, path)
            os.utime(path, (time.time() - age,) * 2)
        alone = self.written(folder / "in the store not")
        os.utime(alone, (0, 0))
        self.assertEqual(self.one.forget([folder], 1000), [])
        self.assertEqual(self.one.forget([folder], 250), [old])
        self.assertEqual(self.one.forget([folder], 0), [new])
        self.assertEqual(sorted(path.name for path in folder.iterdir()), ["fresh", "in the store not"])
        self.assertEqual(self.one.here(old).read_bytes(), b"x" * 100)
        self.assertEqual(self.alone.forget([folder], 0), [])

    def test_a_store_that_does_not_answer_is_said_and_leaves_nothing_half(self) -> None:
        path = self.one.home / "originals" / "a"
        self.other.write(b"1", self.other.home / "originals" / "a")
        gone = EndpointConnectionError(endpoint_url="http://127.0.0.1")
        with mock.patch.object(self.shared, "open", side_effect=gone), self.assertRaisesRegex(StoreFault, "store"):
            self.one.here(path)
        with mock.patch("shutil.copyfileobj", side_effect=OSError(5, "broken off")), self.assertRaises(StoreFault):
            self.one.here(path)
        self.assertEqual(list(path.parent.iterdir()), [])
        self.assertEqual(self.one.here(path).read_bytes(), b"1")
