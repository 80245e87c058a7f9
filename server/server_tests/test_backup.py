"""A home is backed up while it runs, and on another machine everything is there again, to the pixel."""

from __future__ import annotations

import io
import json
import os
import tarfile
import time
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase
from unittest.mock import patch

import numpy as np
import tifffile

from launch.application import Application
from launch.backup import backup, database_url, files_of, restore
from launch.cluster import free_port
from server_tests.base import png_bytes

LONGEST_SECONDS = 120
NAME, PASSWORD = "wren", "tern-sands-1988"
STEPS = [
    {"kind": "exposure", "ev": 0.4},
    {"kind": "enlarge", "engine": "plain", "target": {"by": "factor", "factor": 2}},
]


class Caller:
    """Somebody signed in to a running application."""

    def __init__(self, address: str) -> None:
        self._address = address
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        self._token = self.asks("/session")["csrf"]
        self._token = self.asks("/session", {"name": NAME, "password": PASSWORD})["csrf"]

    def bytes_of(self, path: str, body: object = None, method: str = "POST") -> bytes:
        headers = {"X-CSRFToken": getattr(self, "_token", ""), "Content-Type": "application/json"}
        data = body if isinstance(body, bytes | None) else json.dumps(body).encode()
        if isinstance(body, bytes):
            headers["Content-Type"] = "application/octet-stream"
        request = urllib.request.Request(
            f"{self._address}/api{path}", data, headers, method=None if data is None else method
        )
        with self._opener.open(request, timeout=60) as answer:
            content: bytes = answer.read()
        return content

    def asks(self, path: str, body: object = None, method: str = "POST") -> Any:
        return json.loads(self.bytes_of(path, body, method))

    def delivered(self, take: str) -> np.ndarray:
        """The pixels of a new delivery of a take."""
        delivery = self.asks(f"/takes/{take}/deliveries", {"spec": {}})["id"]
        until = time.monotonic() + LONGEST_SECONDS
        while (state := self.asks(f"/deliveries/{delivery}"))["state"] in ("queued", "running"):
            if time.monotonic() > until:
                raise TimeoutError(state)
            time.sleep(0.2)
        if state["state"] != "done":
            raise AssertionError(state)
        return tifffile.imread(io.BytesIO(self.bytes_of(f"/deliveries/{delivery}/file")))


class BackupTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        # PostgreSQL's own account has to get in.
        self.folder.chmod(0o755)

    def running(self, home: Path) -> tuple[Application, Caller]:
        application = Application(home)
        self.addCleanup(application.stop)
        application.start(free_port(), demo=False)
        if not (home / "originals").exists() or not any((home / "originals").iterdir()):
            # The first sign-in, as the guide says to make it.
            told = {"USERNAME": NAME, "PASSWORD": PASSWORD, "EMAIL": "wren@example.org"}
            application.variables |= {f"DJANGO_SUPERUSER_{what}": value for what, value in told.items()}
            application.manage("createsuperuser", "--noinput", "--verbosity", "0")
        return application, Caller(application.address)

    def test_what_was_backed_up_while_it_ran_is_all_there_on_another_machine(self) -> None:
        first, caller = self.running(self.folder / "first")
        job = caller.asks("/jobs", {"title": "Exhibition", "client": "Tern Sands kite workshop"})
        picture = json.loads(caller.bytes_of(f"/jobs/{job['id']}/pictures?name=wall.png", png_bytes(90, 70)))
        take = picture["takes"][0]["id"]
        caller.asks(f"/takes/{take}", {"steps": STEPS}, "PUT")
        jobs = [one["id"] for one in caller.asks("/jobs")]
        before = caller.delivered(take)
        archive = self.folder / "kept.tar"
        count = backup(first.home, first.cluster.url, archive)
        self.assertEqual(archive.stat().st_mode & 0o777, 0o600)
        self.assertGreaterEqual(count, 3)
        # What came afterwards is not in it.
        caller.asks(f"/takes/{take}", {"steps": []}, "PUT")
        first.stop()

        home = self.folder / "second"
        self.assertEqual(restore(archive, home), count)
        kept = {path.relative_to(home): path.read_bytes() for path in files_of(home) if "postgres" not in path.parts}
        for place, content in kept.items():
            self.assertEqual((first.home / place).read_bytes(), content, place)
        _, again = self.running(home)
        self.assertEqual([one["id"] for one in again.asks("/jobs")], jobs)
        restored = next(one for one in again.asks(f"/jobs/{job['id']}/pictures") if one["id"] == picture["id"])
        self.assertEqual([one["id"] for one in restored["takes"]], [one["id"] for one in picture["takes"]])
        np.testing.assert_array_equal(again.delivered(take), before)

    def test_an_archive_that_is_not_whole_or_not_ours_leaves_nothing(self) -> None:
        home = self.folder / "home"
        for said, members in (
            ("manifest is missing", {"database.dump": b"x"}),
            ("damaged", {"files/secret-key": b"x", "manifest.json": json.dumps({"form": 1, "sha256": {}}).encode()}),
            ("outside", {"files/../../outside": b"x"}),
        ):
            archive = self.folder / "odd.tar"
            with tarfile.open(archive, "w") as made:
                for name, content in members.items():
                    entry = tarfile.TarInfo(name)
                    entry.size = len(content)
                    made.addfile(entry, io.BytesIO(content))
            with self.subTest(said), self.assertRaisesRegex(SystemExit, said):
                restore(archive, home)
            self.assertFalse(home.exists())
        archive.write_bytes(b"no archive")
        with self.assertRaisesRegex(SystemExit, "cannot be read"):
            restore(archive, home)
        home.mkdir()
        (home / "something").touch()
        with self.assertRaisesRegex(SystemExit, "not empty"):
            restore(archive, home)
        self.assertTrue((home / "something").exists())

    def test_only_what_another_machine_cannot_make_itself_is_kept(self) -> None:
        for name in ("originals/ab/abc", "secret-key", "regions/x.npy", "deliveries/1/file.tif.part", "postgres/base"):
            path = self.folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.touch()
        (self.folder / "link").symlink_to("/etc/hostname")
        kept = [str(path.relative_to(self.folder)) for path in files_of(self.folder)]
        self.assertEqual(kept, ["secret-key", "originals/ab/abc"])
        without = {name: value for name, value in os.environ.items() if name != "KITE_DATABASE_URL"}
        with patch.dict(os.environ, without, clear=True), self.assertRaisesRegex(SystemExit, "no database.url"):
            database_url(self.folder / "nowhere")
