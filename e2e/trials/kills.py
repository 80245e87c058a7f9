"""Kills: parts of the application are killed while somebody edits and orders; nothing that was acknowledged is lost."""

from __future__ import annotations

import os
import random
import signal
import threading
import time
from io import BytesIO
from pathlib import Path
from typing import Any, NamedTuple
from urllib.error import URLError

import numpy as np
import tifffile
from pydantic import TypeAdapter

from kitecore.files.source import Source
from kitecore.pipeline.pixels import to_samples
from kitecore.pipeline.run import Run
from kitecore.steps import AnyStep
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage
from launch.application import Application
from trials.person import Person
from trials.pictures import picture

_SETTLED_SECONDS = 300
#: How long is waited for an edit to be acknowledged between two kills.
_EDITED_SECONDS = 60
_FACTORS = (1.3, 1.5, 1.7, 2.0, 2.2, 2.5)


class Kills(NamedTuple):
    killed: int
    edits: int
    edits_lost: int
    ordered: int
    orders_lost: int
    #: Files whose pixels are those their steps make, and files that are not.
    right: int
    wrong: int


class _Editor(threading.Thread):
    """Edits a take and orders files of it until told to stop; remembers what was acknowledged."""

    def __init__(self, person: Person, take: str, seed: int) -> None:
        super().__init__(daemon=True)
        self._person, self._take, self._chance = person, take, random.Random(seed)
        self.over = threading.Event()
        self.edits, self.lost = 0, 0
        #: Steps of every delivery that was acknowledged.
        self.orders: dict[str, list[dict[str, Any]]] = {}
        self._known: list[dict[str, Any]] | None = None

    def run(self) -> None:
        while not self.over.is_set():
            steps = [
                {"kind": "exposure", "ev": round(self._chance.uniform(-1, 1), 3)},
                {
                    "kind": "enlarge",
                    "engine": "faithful",
                    "target": {"by": "factor", "factor": self._chance.choice(_FACTORS)},
                },
            ]
            if not self._edit(steps):
                continue
            if self._chance.random() < 0.5:
                ordered = self._tried("POST", f"/takes/{self._take}/deliveries", {"spec": {"compression": "none"}})
                if ordered:
                    self.orders[ordered["id"]] = steps
            time.sleep(self._chance.uniform(0, 0.3))

    def _edit(self, steps: list[dict[str, Any]]) -> bool:
        saved = self._tried("PUT", f"/takes/{self._take}", {"steps": steps})
        now = self._person.get(f"/takes/{self._take}")["steps"]
        # What was not acknowledged may have been saved or not; what was is there.
        allowed = [steps] if saved else [steps, self._known]
        if not any(one is None or _same(one, now) for one in allowed):
            self.lost += 1
        self.edits += saved is not None
        self._known = now
        return saved is not None

    def _tried(self, method: str, path: str, body: Any) -> Any:
        """The answer, or None if the server went away or would not."""
        try:
            answer = self._person.ask(method, path, body, timeout=30)
        except (URLError, OSError):
            return None
        return answer.told if answer.status < 300 else None


def _same(sent: list[dict[str, Any]], kept: list[dict[str, Any]]) -> bool:
    """Whether steps are those that were sent; what was left out of these has its usual value."""
    return [{name: step.get(name) for name in of} for of, step in zip(sent, kept, strict=False)] == sent


class _Mender(threading.Thread):
    """Starts again what has ended, as ``bin/start`` does."""

    def __init__(self, application: Application) -> None:
        super().__init__(daemon=True)
        self._application = application
        self.over = threading.Event()

    def run(self) -> None:
        while not self.over.wait(0.2):
            self._application.mend()


def kills(application: Application, person: Person, count: int) -> Kills:
    """Kill so many parts, the database among them, at moments by chance."""
    job = person.patiently("POST", "/jobs", {"title": "Kills", "client": ""}).told["id"]
    content = picture(240, 160, 2, "png")
    name = f"/jobs/{job}/pictures?name=kills.png"
    take = person.ask("POST", name, content, "application/octet-stream").told["takes"][0]["id"]
    editor, mender, chance = _Editor(person, take, 3), _Mender(application), random.Random(4)
    editor.start()
    mender.start()
    for _ in range(count):
        # Something is to be lost: at least one edit between two kills, however slow the machine is.
        acknowledged, until = editor.edits, time.monotonic() + _EDITED_SECONDS
        while editor.edits == acknowledged and time.monotonic() < until:
            time.sleep(0.05)
        time.sleep(chance.uniform(0.3, 2.5))
        _kill(application, chance)
    editor.over.set()
    editor.join()
    until = time.monotonic() + _SETTLED_SECONDS
    while person.get("/queue") and time.monotonic() < until:
        time.sleep(0.5)
    source = application.home / "kills.png"
    source.write_bytes(content)
    lost = right = 0
    for delivery, steps in editor.orders.items():
        if person.get(f"/deliveries/{delivery}").get("state") != "done":
            lost += 1
        else:
            right += _is_right(person.ask("GET", f"/deliveries/{delivery}/file").content, source, steps)
    source.unlink()
    while not all(service.running for service in application.supervisor.services) and time.monotonic() < until:
        time.sleep(0.2)
    mender.over.set()
    mender.join()
    ordered = len(editor.orders)
    return Kills(count, editor.edits, editor.lost, ordered, lost, right, ordered - lost - right)


def _kill(application: Application, chance: random.Random) -> None:
    services = application.supervisor.services
    victim = chance.randrange(len(services) + 1)
    if victim == len(services):
        # All of PostgreSQL at once, as when the power goes.
        postmaster = int((application.home / "postgres" / "postmaster.pid").read_text().split()[0])
        os.kill(postmaster, signal.SIGQUIT)
        return
    process = services[victim].process
    if process and process.poll() is None:
        os.kill(process.pid, signal.SIGKILL)


def _is_right(file: bytes, source: Path, steps: list[dict[str, Any]]) -> bool:
    """Whether a delivered file holds what its steps make of the source."""
    given = tifffile.imread(BytesIO(file))
    with Source(source, source.parent / "scratch") as opened:
        plan = plan_of_steps(TypeAdapter(list[AnyStep]).validate_python(steps), opened.size)
        stage = result_stage(plan, opened.stage())
        wanted = to_samples(stage.render(stage.size.region, Run()), 16)
    # Regions of a network are computed in other ways, which differ by 2 in a million.
    return given.shape == wanted.shape and int(np.abs(given.astype(int) - wanted.astype(int)).max()) <= 1
