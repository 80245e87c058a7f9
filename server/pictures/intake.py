"""Taking a file in: stream it to disk and hash it, look at all of it, keep it once, or leave nothing behind."""

from __future__ import annotations

import contextlib
import hashlib
import os
from collections.abc import Callable
from pathlib import Path
from tempfile import NamedTemporaryFile
from threading import BoundedSemaphore

from django.conf import settings
from django.db import transaction

from jobs.models import Job
from kitecore.errors import NoSpace, TooLarge
from kitecore.preview import preview
from kitecore.source import Source, read_facts
from pictures.models import Original, Picture
from pictures.names import safe_name

_CHUNK = 1024 * 1024
_PREVIEW_SIDE = 640
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


def take_in(job: Job, given_name: str, read: Callable[[int], bytes]) -> Picture:
    """Make a picture of a stream.

    ``read(n)`` gives at most n bytes, none at the end. Raises a KiteError with a sentence if the file cannot be
    used; then nothing of it remains.
    """
    name = safe_name(given_name, "picture")
    incoming, sha256, length = _receive(read, name)
    try:
        read_facts(incoming, name)  # refuses quickly what the header already gives away
        with _looking, Source(incoming, scratch=settings.FILE_UPLOAD_TEMP_DIR, name=name) as source:
            facts, shown = source.facts, preview(source, _PREVIEW_SIDE)
        original = Original(sha256=sha256, bytes=length)
        _keep(incoming, original.path)
        _write_whole(shown, original.preview_path)
        with transaction.atomic():
            original, _ = Original.objects.get_or_create(sha256=sha256, defaults={"bytes": length})
            job.save(update_fields=["modified"])
            return Picture.objects.create(job=job, original=original, name=name, facts=facts.model_dump(mode="json"))
    finally:
        incoming.unlink(missing_ok=True)


def _keep(incoming: Path, path: Path) -> None:
    """Give the received file its lasting place, unless the same bytes are there already; read-only from then on."""
    path.parent.mkdir(parents=True, exist_ok=True)
    incoming.chmod(0o444)
    with contextlib.suppress(FileExistsError):
        os.link(incoming, path)


def _write_whole(content: bytes, path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    with NamedTemporaryFile(dir=path.parent, delete=False) as file:
        file.write(content)
    Path(file.name).replace(path)
