"""Receiving a file: stream it to disk and hash it, look at all of it, keep it once, or leave nothing behind."""

from __future__ import annotations

import contextlib
import hashlib
import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from tempfile import NamedTemporaryFile
from threading import BoundedSemaphore

from django.conf import settings
from django.db import transaction

from common.names import safe_name
from common.store import store
from jobs.models import Job
from kitecore.errors import NoSpace, TooLarge
from kitecore.files.preview import first_preview
from kitecore.files.raw.camera import WIDE, WideSpace
from kitecore.files.source import Source, read_facts
from pictures.models import Original, Picture
from readings.tasks import PREVIEW_SIDE, order_reading
from rendering.caches import KeptReduction

_CHUNK = 1024 * 1024
# Decoding takes memory and both cores; a folder dropped at once is looked at a file or two at a time.
_looking = BoundedSemaphore(2)


def _receive(read: Callable[[int], bytes], name: str) -> tuple[Path, str, int]:
    """Write a stream to a temporary file; gives its path, SHA-256 and length. Removes it on any error."""
    folder: Path = settings.FILE_UPLOAD_TEMP_DIR
    folder.mkdir(parents=True, exist_ok=True)
    digest, length = hashlib.sha256(), 0
    with NamedTemporaryFile(dir=folder, prefix="upload-", delete=False) as file:
        path = Path(file.name)
        try:
            while chunk := read(_CHUNK):
                length += len(chunk)
                if length > settings.MOST_UPLOAD_BYTES:
                    raise TooLarge(
                        f"{name} is larger than {settings.MOST_UPLOAD_BYTES / 1e9:g} GB, the most this server takes."
                    )
                digest.update(chunk)
                file.write(chunk)
            file.flush()
            os.fsync(file.fileno())
        except OSError as error:
            path.unlink(missing_ok=True)
            raise NoSpace(
                f"The disk is full; {name} could not be taken in. Free some space and add it again."
            ) from error
        except BaseException:
            path.unlink(missing_ok=True)
            raise
    return path, digest.hexdigest(), length


@dataclass(frozen=True)
class Arrived:
    """A file that has arrived; it goes again unless it is kept."""

    name: str
    path: Path
    _sha256: str
    _bytes: int

    def keep(self) -> Original:
        """Give the file its lasting place, once whoever brings the same bytes."""
        path = Original(sha256=self._sha256).path
        path.parent.mkdir(parents=True, exist_ok=True)
        self.path.chmod(0o444)
        with contextlib.suppress(FileExistsError):
            os.link(self.path, path)
        store().put(path, lasting=True)
        return Original.objects.get_or_create(sha256=self._sha256, defaults={"bytes": self._bytes})[0]


@dataclass(frozen=True)
class Incoming(Arrived):
    """A picture that has arrived and can be read."""

    source: Source


@contextlib.contextmanager
def arrived(given_name: str, read: Callable[[int], bytes], fallback: str) -> Iterator[Arrived]:
    """A stream as a file, called ``fallback`` if it has no usable name. ``read(n)`` gives at most n bytes, none at the end."""
    name = safe_name(given_name, fallback)
    path, sha256, length = _receive(read, name)
    try:
        yield Arrived(name, path, sha256, length)
    finally:
        path.unlink(missing_ok=True)


@contextlib.contextmanager
def received(
    given_name: str, read: Callable[[int], bytes], damaged: bool = False, space: WideSpace = WIDE
) -> Iterator[Incoming]:
    """A stream as a file that has been decoded whole. ``read(n)`` gives at most n bytes, none at the end.

    Raises a KiteError with a sentence if the file cannot be used; then nothing of it remains. A damaged file is taken only if
    somebody said so: ``damaged``.
    """
    with arrived(given_name, read, "picture") as file:
        read_facts(file.path, file.name, damaged)  # refuses quickly what the header already gives away
        with _looking, Source(file.path, settings.FILE_UPLOAD_TEMP_DIR, file.name, damaged, space=space) as source:
            if source.raw:
                source.raw.check()
            yield Incoming(file.name, file.path, file._sha256, file._bytes, source)


def take_in(job: Job, given_name: str, read: Callable[[int], bytes], damaged: bool = False) -> Picture:
    """Make a picture of a stream, and have it read. Raises as :func:`received`."""
    with received(given_name, read, damaged, job.wide) as incoming:
        shown = first_preview(incoming.source, PREVIEW_SIDE)
        with transaction.atomic():
            original = incoming.keep()
            store().write(shown, original.preview_path)
            job.save(update_fields=["modified"])
            picture = Picture.objects.create(
                job=job, original=original, name=incoming.name, facts=incoming.source.facts.model_dump(mode="json")
            )
            order_reading(original)
        if incoming.source.raw is None:
            incoming.source.keep(KeptReduction(original.sha256))
        return picture
