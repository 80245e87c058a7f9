"""What the server's tests share: people, a job, pictures of known pixels, a store of their own."""

from __future__ import annotations

import json
import os
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest.mock import patch

import numpy as np
import pyvips
from django.test import Client, SimpleTestCase, TestCase, TransactionTestCase, override_settings

from jobs.models import Job
from people.models import Person
from takes.models import Take

PASSWORD = "sand-and-string-12"


def png_bytes(width: int = 60, height: int = 40, seed: int = 1, bits: int = 8) -> bytes:
    """A PNG of random samples."""
    dtype = np.uint8 if bits == 8 else np.uint16
    samples = np.random.default_rng(seed).integers(0, 1 << bits, (height, width, 3), dtype=dtype)
    image = pyvips.Image.new_from_memory(samples.tobytes(), width, height, 3, "uchar" if bits == 8 else "ushort")
    content: bytes = image.copy(interpretation="srgb" if bits == 8 else "rgb16").pngsave_buffer()
    return content


class Fixture(SimpleTestCase):
    """A signed-in owner with a job, a stranger, and folders that vanish afterwards."""

    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name)
        (self.home / "incoming").mkdir()
        places = override_settings(
            ORIGINALS=self.home / "originals",
            PREVIEWS=self.home / "previews",
            DELIVERIES=self.home / "deliveries",
            SCRATCH=self.home / "scratch",
            PRINTERS=self.home / "printers",
            ENGINES=self.home / "engines",
            FILE_UPLOAD_TEMP_DIR=self.home / "incoming",
            PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"],
        )
        places.enable()
        self.addCleanup(places.disable)
        own_engines = patch.dict(os.environ, {"KITE_ENGINES": str(self.home / "engines")})
        own_engines.start()
        self.addCleanup(own_engines.stop)
        self.owner = Person.objects.create_user("wren", password=PASSWORD)
        self.stranger = Person.objects.create_user("crow", password=PASSWORD)
        self.client.force_login(self.owner)
        self.job = Job.objects.create(owner=self.owner, title="Harbour")

    def as_stranger(self) -> Client:
        client = Client()
        client.force_login(self.stranger)
        return client

    def send(self, method: str, path: str, body: Any = None, client: Client | None = None) -> Any:
        """A JSON request; gives the response."""
        send = getattr(client or self.client, method)
        return send(f"/api{path}", json.dumps(body) if body is not None else None, content_type="application/json")

    def upload(self, content: bytes, name: str = "wall.png", job: Job | None = None, damaged: bool = False) -> Any:
        return self.client.generic(
            "POST",
            f"/api/jobs/{(job or self.job).id}/pictures?name={name}&damaged={str(damaged).lower()}",
            content,
            content_type="application/octet-stream",
        )

    def picture_and_take(
        self, content: bytes | None = None, steps: list[dict[str, Any]] | None = None
    ) -> tuple[dict[str, Any], Take]:
        """An uploaded picture and its first take, with the given steps."""
        picture = self.upload(content or png_bytes()).json()
        take = Take.objects.get(picture_id=picture["id"])
        if steps is not None:
            take.save_steps(steps)
        return picture, take

    def files(self, folder: str) -> list[Path]:
        return [path for path in (self.home / folder).rglob("*") if path.is_file()]


class ServerTestCase(Fixture, TestCase):
    """For what happens in one request; nothing is committed."""


class CommittedTestCase(Fixture, TransactionTestCase):
    """For what several threads must see."""


def plain(factor: float = 2) -> dict[str, Any]:
    return {"kind": "enlarge", "on": True, "engine": "plain", "target": {"by": "factor", "factor": factor}}
