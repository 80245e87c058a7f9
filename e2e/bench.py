"""How quick the bench is: the longest gap between frames while four zoomed panes are stepped through, and how long a view
takes while nothing else is done and while a large file is being delivered; and every row of :mod:`under_the_hand`.
"""

from __future__ import annotations

import json
import random
import statistics
import sys
import time
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import psycopg
from playwright.sync_api import Page, sync_playwright
from under_the_hand import on_the_bench

from e2e_tests.base import CHROMIUM_OPTIONS, WINDOW, chromium
from e2e_tests.demo import wait_until_settled
from launch.application import Application
from launch.cluster import free_port

STEPS = 40
#: Notes the time between frames; what holds up the page holds up the pointer.
WATCH = """() => {
  window.gaps = []
  let last = performance.now()
  const look = (now) => { window.gaps.push(now - last); last = now; requestAnimationFrame(look) }
  requestAnimationFrame(look)
}"""


def step_through(page: Page) -> None:
    """Zooms, moves, other takes in the panes and other takes in the lead, while the pointer moves."""
    keys = ["4", "ArrowRight", "Alt+2", "ArrowDown", "t", "3", "ArrowLeft", "Alt+3", "5", "ArrowUp"]
    for index in range(STEPS):
        page.keyboard.press(keys[index % len(keys)])
        page.mouse.move(500 + 7 * (index % 40), 200 + 5 * (index % 60), steps=4)


class Views:
    """Views of 384×256 px of a ×4 take, each of another place, computed anew."""

    def __init__(self, page: Page, address: str) -> None:
        self._page, self._api = page, f"{address}/api"
        self._random = random.Random(1)
        self._token = self._get("/session")["csrf"]
        job = next(one for one in self._get("/jobs") if "exhibition" in one["title"])
        takes = {one["name"]: one["takes"][0]["id"] for one in self._get(f"/jobs/{job['id']}/pictures")}
        self._large = takes["Workshop at night.jpg"]
        steps = [{"kind": "enlarge", "engine": "faithful", "target": {"by": "factor", "factor": 4}}]
        self._take = self._send("put", f"/takes/{takes['Festival 2003 web.jpg']}", {"steps": steps})

    def _get(self, path: str) -> Any:
        return json.loads(self._page.request.get(self._api + path).body())

    def _send(self, method: str, path: str, body: Any) -> Any:
        headers = {"X-CSRFToken": self._token, "Content-Type": "application/json"}
        return json.loads(
            getattr(self._page.request, method)(self._api + path, data=json.dumps(body), headers=headers).body()
        )

    def times(self, count: int = 20) -> list[float]:
        """Milliseconds of each."""
        size, chain = self._take["plan"]["size"], self._take["plan"]["chain"]
        spent = []
        for _ in range(count):
            x, y = self._random.randrange(size["width"] - 384), self._random.randrange(size["height"] - 256)
            began = time.perf_counter()
            self._page.request.get(f"{self._api}/takes/{self._take['id']}/cuts/{chain}/{x}_{y}_384_256.png").body()
            spent.append((time.perf_counter() - began) * 1000)
        return spent

    def deliver(self) -> str:
        """Have a large file made; comes back once that is under way."""
        delivery = self._send("post", f"/takes/{self._large}/deliveries", {"spec": {}})["id"]
        while (state := self._get(f"/deliveries/{delivery}")["state"]) != "running":
            if state != "queued":
                raise SystemExit(f"the delivery is {state}")
            time.sleep(0.1)
        time.sleep(1)
        return str(delivery)

    def running(self, delivery: str) -> bool:
        return bool(self._get(f"/deliveries/{delivery}")["state"] == "running")


def views_beside_a_delivery(page: Page, address: str) -> None:
    views = Views(page, address)
    views.times(3)
    alone = views.times()
    delivery = views.deliver()
    beside = views.times()
    if not views.running(delivery):
        raise SystemExit("the delivery was done too soon to measure beside it")
    print(
        f"384×256 view through the server             median {statistics.median(alone):.0f} ms, "
        f"while a file is delivered {statistics.median(beside):.0f} ms, at most {max(beside):.0f} ms"
    )


def main() -> None:
    whole = "--whole" in sys.argv
    with TemporaryDirectory() as folder, sync_playwright() as playwright:
        Path(folder).chmod(0o755)
        application = Application(Path(folder))
        try:
            application.start(free_port(), demo=True)
            browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_OPTIONS)
            page = browser.new_page(viewport=WINDOW)
            page.goto(application.address)
            page.get_by_label("Name").fill("wren")
            page.get_by_label("Password").fill("tern-sands-1988")
            page.get_by_role("button", name="Sign in").click()
            page.get_by_role("heading", name="Tern Sands: exhibition").click()
            page.get_by_label("Open Harbour wall 1988.jpg on the bench").click()
            page.get_by_role("button", name="four", exact=True).click()
            page.locator(".area[data-busy='false']").wait_for(timeout=90_000)
            page.evaluate(WATCH)
            step_through(page)
            gaps = sorted(page.evaluate("window.gaps"))
            views_beside_a_delivery(page, application.address)
            with psycopg.connect(application.cluster.url, autocommit=True) as database:
                on_the_bench(page, application.address, Path(folder), lambda: wait_until_settled(database), whole)
            browser.close()
        finally:
            application.stop()
    slow = gaps[int(len(gaps) * 0.99)]
    print(
        f"stepping through four zoomed panes          {statistics.median(gaps):.0f} ms between frames, "
        f"99 % under {slow:.0f} ms, longest {gaps[-1]:.0f} ms"
    )


if __name__ == "__main__":
    main()
