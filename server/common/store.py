"""Where lasting files are: in this machine's home and, where there is one, in a store that all machines share.

Without a store everything here is about files of the home, which machines may share as a folder. With one, a home holds what is
being worked with; whatever lasts is put into the store before anybody is told of it, and fetched from there by whoever needs it.
"""

from __future__ import annotations

import errno
import hashlib
import json
import os
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache
from pathlib import Path
from tempfile import NamedTemporaryFile

from botocore.exceptions import BotoCoreError, ClientError
from django.conf import settings
from django.core.files import File
from django.core.files.base import ContentFile
from django.core.files.storage import Storage, storages

from common.errors import StoreFault
from common.files import write_whole
from kitecore.errors import NoSpace

_CHUNK = 1 << 20
#: Of a shelf, in the store: what lies on it, by SHA-256; and in a home, as it was followed last.
_INDEX, _FOLLOWED = "index.json", ".followed.json"
#: What was used since is never taken away, in seconds.
_RECENT_SECONDS = 3600.0

_Index = dict[str, str]


class Store:
    """Lasting files below ``home``; their names in ``shared`` are their paths from there."""

    def __init__(self, home: Path, shared: Storage | None) -> None:
        self.home = home.resolve()
        self.shared = shared

    def here(self, path: Path) -> Path:
        """The same path, fetched from the store where there is nothing yet.

        Raises FileNotFoundError if it is nowhere, NoSpace, StoreFault.
        """
        if not path.exists():
            if self.shared is None:
                raise FileNotFoundError(errno.ENOENT, "There is no such file.", str(path))
            self._fetch(self._name(path), path)
        elif self.shared is not None:
            with suppress(OSError):
                os.utime(path)
        return path

    def has(self, path: Path) -> bool:
        """Whether it is here or in the store. Raises StoreFault."""
        if path.exists() or self.shared is None:
            return path.exists()
        with _asked():
            return self.shared.exists(self._name(path))

    def read(self, path: Path) -> bytes:
        """A small file, as whoever wrote it last has left it. Raises FileNotFoundError, StoreFault."""
        if self.shared is None:
            return path.read_bytes()
        with _asked(), self.shared.open(self._name(path)) as file:
            return bytes(file.read())

    def write(self, content: bytes, path: Path) -> None:
        """Write a small file. Raises StoreFault."""
        write_whole(content, path)
        self.put(path)

    def put(self, path: Path, lasting: bool = False) -> None:
        """What has just been written here, for all. Raises StoreFault.

        ``lasting`` says that under its name there is never anything else.
        """
        if self.shared is None:
            return
        name = self._name(path)
        with _asked(), path.open("rb") as content:
            if not lasting or not self.shared.exists(name):
                self.shared.save(name, File(content, name))

    def hand_over(self, path: Path) -> None:
        """What has just been written here is for another machine alone. Raises StoreFault."""
        self.put(path)
        if self.shared is not None:
            path.unlink()

    def remove(self, path: Path) -> None:
        """It is nowhere afterwards. Raises StoreFault."""
        path.unlink(missing_ok=True)
        if self.shared is not None:
            with _asked():
                self.shared.delete(self._name(path))

    def remove_all(self, folder: Path) -> None:
        """A folder and all in it. Raises StoreFault."""
        shutil.rmtree(folder, ignore_errors=True)
        if self.shared is not None:
            with _asked():
                for name in _names_below(self.shared, self._name(folder)):
                    self.shared.delete(name)

    @contextmanager
    def changing(self, shelf: Path) -> Iterator[None]:
        """What is laid on a shelf or taken off it meanwhile is so for all machines afterwards. Raises StoreFault."""
        self.follow(shelf)
        yield
        if self.shared is not None:
            self._publish(shelf, self.shared)

    def follow(self, shelf: Path) -> None:
        """Have on a shelf what lies on it elsewhere; what was never in the store stays. Raises NoSpace, StoreFault."""
        if self.shared is None:
            return
        before, now = _index_in(shelf / _FOLLOWED), self._index(shelf)
        if before == now:
            return
        for name, sum_ in now.items():
            if before.get(name) != sum_ or not (shelf / name).exists():
                self._fetch(f"{self._name(shelf)}/{name}", shelf / name)
        for name in before.keys() - now.keys():
            (shelf / name).unlink(missing_ok=True)
        write_whole(json.dumps(now).encode(), shelf / _FOLLOWED)

    def forget(self, folders: list[Path], most_bytes: float) -> list[Path]:
        """Take away what was used longest ago and is in the store, until no more than so much is in folders of the home."""
        if self.shared is None:
            return []
        found = [(path, path.stat()) for folder in folders for path in folder.rglob("*") if path.is_file()]
        held, gone = sum(about.st_size for _, about in found), []
        for path, about in sorted(found, key=lambda one: one[1].st_mtime):
            if held <= most_bytes or about.st_mtime > time.time() - _RECENT_SECONDS:
                break
            with _asked():
                kept = self.shared.exists(self._name(path))
            if kept:
                path.unlink(missing_ok=True)
                held -= about.st_size
                gone.append(path)
        return gone

    def _name(self, path: Path) -> str:
        return path.resolve().relative_to(self.home).as_posix()

    def _fetch(self, name: str, path: Path) -> None:
        """Whole or not at all."""
        assert self.shared is not None
        path.parent.mkdir(parents=True, exist_ok=True)
        with _asked(), self.shared.open(name) as content, NamedTemporaryFile(dir=path.parent, delete=False) as part:
            try:
                shutil.copyfileobj(content, part, _CHUNK)
            except BaseException:
                Path(part.name).unlink()
                raise
        Path(part.name).replace(path)

    def _index(self, shelf: Path) -> _Index:
        assert self.shared is not None
        try:
            with _asked(), self.shared.open(f"{self._name(shelf)}/{_INDEX}") as file:
                return dict(json.loads(file.read()))
        except FileNotFoundError:
            return {}

    def _publish(self, shelf: Path, shared: Storage) -> None:
        there = self._index(shelf)
        here = {
            path.relative_to(shelf).as_posix(): _sum_of(path)
            for path in sorted(shelf.rglob("*")) if path.is_file() and path.name != _FOLLOWED
        }  # fmt: skip
        folder, index = self._name(shelf), json.dumps(here).encode()
        for name, sum_ in here.items():
            if there.get(name) != sum_:
                self.put(shelf / name)
        with _asked():
            shared.save(f"{folder}/{_INDEX}", ContentFile(index))
            for name in there.keys() - here.keys():
                shared.delete(f"{folder}/{name}")
        write_whole(index, shelf / _FOLLOWED)


@cache
def store() -> Store:
    """The one of this process."""
    return Store(settings.HOME, storages["shared"] if "shared" in settings.STORAGES else None)


@contextmanager
def _asked() -> Iterator[None]:
    """The store is asked for something; whatever goes wrong with it becomes a sentence."""
    try:
        yield
    except FileNotFoundError:
        raise
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise NoSpace("The disk is full. Free some space and try again.") from error
        raise StoreFault() from error
    except (BotoCoreError, ClientError) as error:
        raise StoreFault() from error


def _names_below(shared: Storage, folder: str) -> Iterator[str]:
    folders, files = shared.listdir(folder)
    yield from (f"{folder}/{name}" for name in files if name)
    for one in folders:
        yield from _names_below(shared, f"{folder}/{one}")


def _index_in(path: Path) -> _Index:
    try:
        return dict(json.loads(path.read_bytes()))
    except (FileNotFoundError, ValueError):
        return {}


def _sum_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
