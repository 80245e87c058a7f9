"""The real thing: own PostgreSQL, real web server, real worker; killed, cut off, and followed from outside."""

from __future__ import annotations

import contextlib
import http.cookiejar
import json
import os
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase

import psycopg

from deliveries.hub import MOST_STREAMS_OF_ONE
from launch.application import MANAGE, Application
from launch.cluster import free_port
from server_tests.base import plain, png_bytes

CREATE = (
    "from people.models import Person; from jobs.models import Job; "
    "Job.objects.create(owner=Person.objects.create_user('wren', password='tern-sands-1988'), title='Live')"
)


class Browser:
    """A signed-in client over HTTP."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._cookies = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._cookies))
        self._token = self.get("/session")["csrf"]
        self._token = self.send("POST", "/session", {"name": "wren", "password": "tern-sands-1988"})["csrf"]

    def open(self, method: str, path: str, body: bytes | None = None, timeout: float = 30) -> Any:
        request = urllib.request.Request(f"{self.address}/api{path}", body, method=method)
        if method != "GET":
            request.add_header("X-CSRFToken", self._token)
            request.add_header("Referer", self.address)
            request.add_header("Content-Type", "application/json")
        return self._opener.open(request, timeout=timeout)

    def send(self, method: str, path: str, body: Any = None) -> Any:
        content = body if isinstance(body, bytes) else json.dumps(body).encode()
        with self.open(method, path, content) as response:
            return json.load(response)

    def get(self, path: str) -> Any:
        with self.open("GET", path) as response:
            return json.load(response)

    def events(self) -> Iterator[dict[str, Any]]:
        """Deliveries as the server sends them."""
        with self.open("GET", "/events", timeout=60) as response:
            for line in response:
                if line.startswith(b"data: "):
                    yield json.loads(line[6:])


class LiveTest(TestCase):
    application: Application

    @classmethod
    def setUpClass(cls) -> None:
        folder = TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        Path(folder.name).chmod(0o755)
        cls.application = Application(Path(folder.name))
        cls.addClassCleanup(cls.application.stop)
        cls.application.start(free_port(), demo=False)
        cls.application.manage("shell", "--verbosity", "0", "-c", CREATE)
        cls.browser = Browser(cls.application.address)
        (job,) = cls.browser.get("/jobs")
        cls.job = job["id"]
        picture = cls.browser.send("POST", f"/jobs/{cls.job}/pictures?name=wall.png", png_bytes(900, 700))
        cls.take = picture["takes"][0]["id"]

    def deliver(self, factor: float, engine: str = "plain") -> str:
        self.browser.send("PUT", f"/takes/{self.take}", {"steps": [{**plain(factor), "engine": engine}]})
        return self.browser.send("POST", f"/takes/{self.take}/deliveries", {"spec": {"compression": "none"}})["id"]

    def wait_for(self, delivery: str, *states: str, seconds: float = 90, begun: float = 0.02) -> dict[str, Any]:
        """The delivery once it is in one of ``states``; if that is running, once as much as ``begun`` of it is done."""
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            self.application.mend()
            try:
                row = self.browser.get(f"/deliveries/{delivery}")
                if row["state"] in states and (row["state"] != "running" or row["progress"] >= begun):
                    return row
            except urllib.error.HTTPError as error:
                self.assertEqual(error.code, 503)
            time.sleep(0.1)
        raise AssertionError(f"not {states} within {seconds} s: {row}")

    def picture(self, name: str, seed: int) -> str:
        """A small picture whose take enlarges it twofold."""
        content = png_bytes(300, 200, seed)
        picture = self.browser.send("POST", f"/jobs/{self.job}/pictures?name={name}", content)
        take = picture["takes"][0]["id"]
        self.browser.send("PUT", f"/takes/{take}", {"steps": [{**plain(2), "engine": "faithful"}]})
        return picture["id"]

    def batch(self, count: int) -> list[str]:
        """A batch of so many fresh pictures; gives the deliveries."""
        return self.placed(self.asked_for([self.picture(f"{count}-{seed}.png", seed) for seed in range(count)]))

    def asked_for(self, pictures: list[str]) -> str:
        """A batch that is yet to be placed in the queue."""
        batch: str = self.browser.send("POST", "/batch", {"pictures": pictures, "spec": {"compression": "none"}})["id"]
        return batch

    def placed(self, batch: str) -> list[str]:
        """The deliveries of a batch."""
        # Other tests may have the processor meanwhile.
        until = time.monotonic() + 180
        while time.monotonic() < until:
            (report,) = [one for one in self.browser.send("GET", "/batches") if one["id"] == batch]
            if report["placed"]:
                return [one["id"] for one in report["deliveries"]]
            time.sleep(0.05)
        raise AssertionError("the batch has not been placed")

    def second_worker(self, scratch: Path, **more: str) -> subprocess.Popen[bytes]:
        """Another worker for deliveries, with a scratch folder of its own, as on another machine."""
        variables = {**self.application.variables, "KITE_SCRATCH": str(scratch), **more}
        worker = subprocess.Popen(
            [sys.executable, MANAGE, "worker", "--name", "second", "--queues", "deliveries"], env=variables
        )
        self.addCleanup(worker.wait)
        self.addCleanup(worker.terminate)
        return worker

    def files_of(self, delivery: str) -> list[str]:
        folder = self.application.home / "deliveries" / delivery
        return sorted(path.name for path in folder.rglob("*"))

    def test_progress_arrives_while_it_is_made(self) -> None:
        heard: list[dict[str, Any]] = []
        finished = threading.Event()

        def listen() -> None:
            for delivery in self.browser.events():
                if delivery["id"] == wanted[0]:
                    heard.append(delivery)
                    if delivery["state"] == "done":
                        finished.set()
                        return

        # Large enough to be made of many regions: progress is told after each, but not more often than is of use.
        wanted = [self.deliver(5, "faithful")]
        threading.Thread(target=listen, daemon=True).start()
        self.assertTrue(finished.wait(180), heard)
        progress = [delivery["progress"] for delivery in heard]
        self.assertEqual(progress, sorted(progress))
        self.assertTrue(any(0 < value < 1 for value in progress), progress)
        with self.browser.open("GET", f"/deliveries/{wanted[0]}/file") as response:
            self.assertEqual(len(response.read()), heard[-1]["bytes"])

    def listeners(self) -> int:
        """Connections to the database that listen to what pages are told."""
        with psycopg.connect(self.application.variables["KITE_DATABASE_URL"]) as database:
            row = database.execute("SELECT count(*) FROM pg_stat_activity WHERE query LIKE 'LISTEN kite%'").fetchone()
        assert row
        return int(row[0])

    def test_however_many_pages_are_open_one_connection_listens_for_all(self) -> None:
        pages = [Browser(self.application.address) for _ in range(3)]
        streams = [page.open("GET", "/events", timeout=30) for page in pages for _ in range(10)]
        for stream in streams:
            self.addCleanup(stream.close)
            self.assertTrue(stream.readline().startswith(b"retry"))
        wanted = self.deliver(1)
        for stream in streams:
            states = []
            while "done" not in states:
                line = stream.readline()
                if line.startswith(b"data: ") and json.loads(line[6:])["id"] == wanted:
                    states.append(json.loads(line[6:])["state"])
        self.assertEqual(self.listeners(), 1)

    def test_signing_out_ends_the_streams_of_that_session_and_no_others(self) -> None:
        leaving, staying = Browser(self.application.address), Browser(self.application.address)
        ended, heard = threading.Event(), threading.Event()

        def listen(page: Browser) -> None:
            with page.open("GET", "/events", timeout=60) as stream:
                while (line := stream.readline()) and wanted.encode() not in line:
                    pass
                if line:
                    heard.set()

        def listen_to_the_end(page: Browser) -> None:
            with page.open("GET", "/events", timeout=60) as stream:
                while stream.readline():
                    pass
            ended.set()

        threading.Thread(target=listen_to_the_end, args=(leaving,), daemon=True).start()
        time.sleep(1)
        leaving.send("DELETE", "/session")
        self.assertTrue(ended.wait(10))
        wanted = self.deliver(1)
        threading.Thread(target=listen, args=(staying,), daemon=True).start()
        self.assertTrue(heard.wait(20))

    def test_nobody_opens_streams_without_end(self) -> None:
        page = Browser(self.application.address)
        with contextlib.ExitStack() as stack, self.assertRaises(urllib.error.HTTPError) as caught:
            for _ in range(MOST_STREAMS_OF_ONE + 1):
                stream = stack.enter_context(page.open("GET", "/events", timeout=30))
                stream.readline()
        self.assertEqual(caught.exception.code, 429)
        self.assertIn("too many windows", json.load(caught.exception)["message"])

    def test_cancelling_stops_a_running_one_and_leaves_nothing(self) -> None:
        delivery = self.deliver(8, "faithful")
        self.wait_for(delivery, "running")
        self.browser.send("POST", f"/deliveries/{delivery}/cancel")
        self.wait_for(delivery, "cancelled", seconds=20)
        self.assertEqual(self.files_of(delivery), [])

    def test_the_database_goes_and_comes_back(self) -> None:
        delivery = self.deliver(5, "faithful")
        self.wait_for(delivery, "running")
        self.application.cluster.stop()
        with self.assertRaises(urllib.error.HTTPError) as caught:
            self.browser.get("/jobs")
        self.assertEqual(caught.exception.code, 503)
        self.assertIn("Nothing is lost", json.load(caught.exception)["message"])
        time.sleep(1)
        self.application.cluster.start()
        self.assertEqual(self.wait_for(delivery, "done")["progress"], 1)
        self.assertEqual(self.files_of(delivery), ["file.tif"])

    def test_two_workers_share_a_batch_and_finish_it_once(self) -> None:
        with TemporaryDirectory() as scratch:
            self.second_worker(Path(scratch))
            rows: list[dict[str, Any]] = []
            # One that is quick, or has just begun, may finish a whole batch before the other has looked.
            for _ in range(6):
                rows += [self.wait_for(one, "done") for one in self.batch(6)]
                if len({row["worker"] for row in rows}) == 2:
                    break
        self.assertEqual(len({row["worker"] for row in rows}), 2, "both have made some")
        for row in rows:
            self.assertEqual(self.files_of(row["id"]), ["file.tif"])
        delivered = [row for row in self.browser.get(f"/jobs/{self.job}/deliveries") if row["batch_id"]]
        names = [row["name"] for row in delivered]
        self.assertEqual(len(names), len(set(names)))

    def test_a_killed_worker_is_replaced_and_every_file_of_a_batch_made_once(self) -> None:
        pictures = [self.picture(f"3-{seed}.png", seed) for seed in range(3)]
        large = self.deliver(5, "faithful")
        asked = self.asked_for(pictures)
        self.wait_for(large, "running")
        worker = next(service for service in self.application.supervisor.services if service.name == "worker")
        assert worker.process
        os.kill(worker.process.pid, signal.SIGKILL)
        batch = self.placed(asked)
        row = self.wait_for(large, "done")
        self.assertEqual((row["width"], row["height"]), (4500, 3500))
        self.assertEqual(row["bytes"], (self.application.home / "deliveries" / large / "file.tif").stat().st_size)
        for one in [large, *batch]:
            self.wait_for(one, "done")
            self.assertEqual(self.files_of(one), ["file.tif"])
        listed = [one["id"] for one in self.browser.get(f"/jobs/{self.job}/deliveries")]
        self.assertEqual([listed.count(one) for one in [large, *batch]], [1] * 4)

    def limited_disk(self) -> tuple[Callable[[], object], Callable[[], object]]:
        """Where deliveries are written, what fills it and what frees it again.

        A real disk of 110 MB where the system lets one be made; else the worker's files are kept from growing.
        """
        disk = self.application.home / "deliveries"
        disk.mkdir(exist_ok=True)
        mount = ["mount", "-t", "tmpfs", "-o", "size=110m", "tmpfs", str(disk)]
        if subprocess.run(mount, capture_output=True, check=False).returncode == 0:
            self.addCleanup(subprocess.run, ["umount", "-l", str(disk)], check=True)
            filler = disk / "filler"

            def fill() -> None:
                # As much as there is room for beside what has been written of the delivery.
                with contextlib.suppress(OSError):
                    filler.write_bytes(bytes(90_000_000))

            return fill, filler.unlink
        worker = next(service for service in self.application.supervisor.services if service.name == "worker")
        assert worker.process
        limit = ["prlimit", "--pid", str(worker.process.pid)]
        return (
            lambda: subprocess.run([*limit, "--fsize=20000000:"], check=True),
            lambda: subprocess.run([*limit, "--fsize=unlimited:"], check=True),
        )

    def test_a_disk_that_fills_up_leaves_no_half_file_and_loses_nothing(self) -> None:
        fill, free = self.limited_disk()
        large = self.deliver(4, "faithful")
        # Its pixels come all at once: before that the disk is filled, whether the worker has looked at it yet or not.
        self.wait_for(large, "running", begun=0)
        fill()
        self.assertRegex(self.wait_for(large, "failed")["message"], "disk is full|and the disk has")
        self.assertEqual(self.files_of(large), [])
        free()
        for one in [*self.batch(2), self.browser.send("POST", f"/deliveries/{large}/retry")["id"]]:
            self.wait_for(one, "done")
            self.assertEqual(self.files_of(one), ["file.tif"])

    def test_settings_are_safe_by_default(self) -> None:
        with self.assertRaises(urllib.error.HTTPError) as caught:
            self.browser.get("/jobs/not-a-uuid")
        body = caught.exception.read().decode()
        self.assertNotIn("Traceback", body)
        secret = self.application.home / "secret-key"
        self.assertEqual(secret.stat().st_mode & 0o077, 0)
        self.assertEqual((self.application.home / "database.url").stat().st_mode & 0o077, 0)
        request = urllib.request.Request(
            f"{self.application.address}/api/session", headers={"Host": "elsewhere.example"}
        )
        with self.assertRaises(urllib.error.HTTPError) as refused:
            urllib.request.urlopen(request)
        self.assertEqual(refused.exception.code, 400)

    def test_the_database_wants_a_password(self) -> None:
        import psycopg

        without = self.application.cluster.url.replace(
            self.application.cluster.url.split(":")[2].split("@")[0], "wrong"
        )
        with self.assertRaises(psycopg.OperationalError):
            psycopg.connect(without)
