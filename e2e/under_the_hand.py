"""How long a retoucher waits for what they do, through the browser: a 24-megapixel JPEG, enlarged twice, 1280×800.

Each row is told beside what the networks need for it at the speed they have in this very minute, and beside the figure
kept in docs/architecture.md.
"""

from __future__ import annotations

import json
import re
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import pyvips
from playwright.sync_api import Page

from kitecore.engines import engine_named
from kitecore.pipeline.pixels import Pixels

KEPT = Path(__file__).resolve().parent.parent / "docs" / "architecture.md"
#: Notes when the large view last said that everything is computed, and whether it has changed since it was asked.
WATCH = """() => {
  const area = document.querySelector('.area')
  window.freed = performance.now()
  window.worked = true
  new MutationObserver(() => {
    window.worked = true
    if (area.dataset.busy === 'false') window.freed = performance.now()
  }).observe(area, { attributes: true, attributeFilter: ['data-busy', 'data-shown'] })
}"""
#: Whether nothing has been going on for a while.
STILL = """() => {
  const area = document.querySelector('.area')
  return area && area.dataset.busy === 'false' && (window.worked || performance.now() - window.asked > 1500)
    && performance.now() - window.freed > 700
}"""
#: Counts from the key or press itself as the browser got it, not from when the driver began to tell the browser of it.
ASK = """() => {
  window.worked = false
  window.asked = performance.now()
  if (window.listening) return
  window.listening = true
  const told = (event) => { if (!window.worked) window.asked = event.timeStamp }
  for (const kind of ['keydown', 'pointerdown']) window.addEventListener(kind, told, { capture: true })
}"""
#: How long what is in view is looked at before what comes next.
_LOOKED_AT_MILLISECONDS = 5000
#: What the networks took alone for 6 megapixels, in seconds, on the idle machine for which the wanted figures were told.
_THEN = {"denoised": 12.0, "enlarged": 28.0}
LUMINANCE = "input[inputmode][aria-label='Luminance']"


class Row(NamedTuple):
    """What was done, what it took, and what the networks alone would have taken, in seconds."""

    what: str
    seconds: float
    networks: float

    def told(self) -> str:
        ratio = f"{self.seconds / self.networks:5.2f} ×" if self.networks > 0.05 else "       "
        networks = f"networks {self.networks:6.1f} s" if self.networks else " " * 17
        return f"{self.what:42} {self.seconds:7.2f} s   {networks} {ratio}   kept: {kept(self.what)}"

    def wanted(self, slower: float) -> float | None:
        """The seconds wanted in docs/architecture.md where networks take so many times as long as they took when that was
        told; None if no figure is.
        """
        figure = kept(self.what, column=2)
        if found := re.match(r"([\d.]+) of the networks", figure):
            return float(found[1]) * self.networks
        found = re.match(r"([\d.]+) s", figure)
        beside = self.networks if "and the enlarging" in figure else 0.0
        return float(found[1]) * slower + beside if found else None


def kept(what: str, column: int = 1) -> str:
    """The figure that docs/architecture.md has for a row: what was measured, or what is wanted."""
    found = re.search(rf"^\| {re.escape(what)} \|([^|]*)\|([^|]*)\|", KEPT.read_text(), re.MULTILINE)
    return found[column].strip() if found else "none"


class Looks(NamedTuple):
    """What the networks alone need for what is looked at, in seconds, when nothing else is done."""

    enlarged: float
    denoised: float
    denoised_at_fit: float

    @classmethod
    def at(cls, width: float, height: float) -> Looks:
        """Of a view of so many pixels: of an ×2 result with what each network looks at around it, and of a whole 3:2 picture."""
        enlarging, denoising = engine_named("faithful", "enlarge"), engine_named("denoise", "denoise")
        near = _noise(width / 2 + 2 * enlarging.reach, height / 2 + 2 * enlarging.reach)
        nearer = _noise(near.shape[1] + 2 * denoising.reach, near.shape[0] + 2 * denoising.reach)
        whole = _noise(min(width, height * 1.5), min(height, width / 1.5))

        def denoised(picture: Pixels) -> float:
            maps = np.ones((*picture.shape[:2], 2), np.float32)
            return _seconds(lambda: denoising.restore(picture, maps))

        return cls(_seconds(lambda: enlarging.enlarge(near, 2)), denoised(nearer), denoised(whole))


def slower_now() -> float:
    """How many times as long as then networks take now; then is when the wanted figures were told."""
    shares = (network_seconds(**{kind: 6.0}) / seconds for kind, seconds in _THEN.items())
    return statistics.fmean(shares)


def _noise(width: float, height: float) -> Pixels:
    """Of whole multiples of 16 px a side."""
    return np.random.default_rng(1).random((round(height / 16) * 16, round(width / 16) * 16, 3), np.float32)


def network_seconds(enlarged: float = 0, denoised: float = 0) -> float:
    """What the networks need for so many megapixels of source, now: measured on 512 px squares."""
    total = 0.0
    random = np.random.default_rng(1)
    if enlarged:
        engine, square = engine_named("faithful", "enlarge"), random.random((512, 512, 3), np.float32)
        total += enlarged * _seconds(lambda: engine.enlarge(square, 2)) / (0.512**2)
    if denoised:
        engine, square = engine_named("denoise", "denoise"), random.random((512, 512, 3), np.float32)
        maps = np.ones((512, 512, 2), np.float32)
        total += denoised * _seconds(lambda: engine.restore(square, maps)) / (0.512**2)
    return total


def _seconds(action: Callable[[], object]) -> float:
    action()
    times = []
    for _ in range(5):
        began = time.perf_counter()
        action()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def photograph(path: Path, width: int, height: int) -> Path:
    """A grainy JPEG of a demo picture, made large."""
    demo = sorted((KEPT.parent.parent / "demo" / "pictures").glob("*.jpg"))[0]
    image = pyvips.Image.new_from_file(str(demo))
    image = image.resize(width / image.width, vscale=height / image.height)
    noisy = (image + pyvips.Image.gaussnoise(width, height, sigma=6)).cast("uchar").copy(interpretation="srgb")
    noisy.jpegsave(str(path), Q=90)
    return path


class Hand:
    """Somebody at the bench, and a watch."""

    def __init__(self, page: Page, address: str) -> None:
        self.page, self.api = page, f"{address}/api"
        self.token = self.get("/session")["csrf"]

    def get(self, path: str) -> Any:
        return json.loads(self.page.request.get(self.api + path).body())

    def send(self, method: str, path: str, body: Any) -> Any:
        headers = {"X-CSRFToken": self.token, "Content-Type": "application/json"}
        answer = getattr(self.page.request, method)(self.api + path, data=json.dumps(body), headers=headers)
        return json.loads(answer.body() or b"null")

    def takes(self, action: Callable[[], object]) -> float:
        """Seconds from an action of hand, its last key or press, until all that is in view is exact."""
        self.page.evaluate(ASK)
        action()
        self.page.wait_for_function(STILL, timeout=300_000, polling=50)
        freed, asked, worked = self.page.evaluate("() => [window.freed, window.asked, window.worked]")
        return max(0.0, (freed - asked) / 1000) if worked else 0.0

    def adds(self, job: str, path: Path) -> dict[str, Any]:
        """Bring a picture into a job; its first take is ×2 by Faithful."""
        self.page.goto(f"{self.api.removesuffix('/api')}/jobs/{job}")
        self.page.get_by_label("Picture files").set_input_files(path)
        self.page.get_by_label(f"Open {path.name} on the bench").wait_for(timeout=60_000)
        pictures = {one["name"]: one for one in self.get(f"/jobs/{job}/pictures")}
        picture: dict[str, Any] = pictures[path.name]
        self.sets(picture, [ENLARGE])
        return picture

    def sets(self, picture: dict[str, Any], steps: list[dict[str, Any]]) -> str:
        take = str(picture["takes"][0]["id"])
        self.send("put", f"/takes/{take}", {"steps": steps})
        return take

    def delivers(self, take: str) -> tuple[float, float]:
        """Seconds that a 16-bit ZIP TIFF took from order to file, and what was expected."""
        began = time.monotonic()
        ordered = self.send("post", f"/takes/{take}/deliveries", {"spec": {}})
        while (state := self.get(f"/deliveries/{ordered['id']}"))["state"] in ("queued", "running"):
            time.sleep(0.1)
        if state["state"] != "done":
            raise SystemExit(f"the delivery is {state['state']}: {state['message']}")
        return time.monotonic() - began, ordered["expected_seconds"]


ENLARGE = {"kind": "enlarge", "engine": "faithful", "target": {"by": "factor", "factor": 2}}
DENOISE = {"kind": "denoise", "luminance": 60, "colour": 80}


def on_the_bench(page: Page, address: str, folder: Path, settled: Callable[[], None], whole: bool) -> None:
    """Every row of the table, the first once ``settled`` returns; ``whole`` delivers the large picture as well: minutes."""
    hand = Hand(page, address)
    job = hand.send("post", "/jobs", {"title": "Speed", "client": "Tern Sands kite workshop"})["id"]
    picture = hand.adds(job, photograph(folder / "large.jpg", 6000, 4000))

    rows: list[Row] = []

    def row(what: str, seconds: float, networks: float = 0) -> None:
        rows.append(Row(what, seconds, networks))
        print(rows[-1].told(), flush=True)

    def opened() -> None:
        page.get_by_label("Open large.jpg on the bench").click(no_wait_after=True)
        page.locator(".area[data-busy]").wait_for()
        page.evaluate(WATCH)

    # At first nothing is made before it is asked for: what is measured is what has to be computed then.
    hand.send("put", "/defaults", hand.get("/defaults") | {"ahead": False})
    page.goto(f"{address}/jobs/{job}")
    settled()
    alone, slower = Looks.at(992, 672), slower_now()
    row("open at fit", hand.takes(opened))
    row("100 %", hand.takes(lambda: page.keyboard.press("2")), alone.enlarged)
    row("100 % of the same place again", hand.takes(lambda: (page.keyboard.press("0"), page.keyboard.press("2"))))
    page.get_by_role("button", name="add a step").click()
    # What opens is not part of what is measured.
    page.wait_for_timeout(1000)
    denoise = page.get_by_role("listitem").filter(has_text="denoise").first
    row("add denoise", hand.takes(lambda: denoise.click()), alone.enlarged + alone.denoised)
    field = page.get_by_label("Luminance", exact=True).and_(page.locator("input[inputmode]"))

    def moved(value: int) -> Callable[[], object]:
        return lambda: (field.fill(str(value)), field.press("Enter"))

    row("move luminance", hand.takes(moved(45)), alone.enlarged)
    row("undo", hand.takes(lambda: page.keyboard.press("Control+z")))
    row("redo", hand.takes(lambda: page.keyboard.press("Control+Shift+z")))
    row("switch denoise off", hand.takes(lambda: page.keyboard.press(".")))
    row("switch denoise on", hand.takes(lambda: page.keyboard.press(".")))
    row("fit with denoise", hand.takes(lambda: page.keyboard.press("0")), alone.denoised_at_fit)
    page.keyboard.press("2")
    hand.send("put", "/defaults", hand.get("/defaults") | {"ahead": True})
    page.goto(f"{address}/jobs/{job}")
    hand.takes(opened)
    for what, key in (("100 %, made ahead", "2"), ("fit with denoise, made ahead", "0")):
        page.wait_for_timeout(_LOOKED_AT_MILLISECONDS)
        row(what, hand.takes(lambda key=key: page.keyboard.press(key)))  # type: ignore[misc]
    print(_against_what_is_wanted(rows, statistics.fmean([slower, slower_now()])), flush=True)
    _deliveries(hand, job, picture if whole else None, folder, settled)


def _against_what_is_wanted(rows: list[Row], slower: float) -> str:
    """Each row beside what is wanted at the speed that networks have now: in a slow hour everything takes longer."""
    lines = [f"networks take {slower:.2f} times as long as when the wanted figures were told; wanted at this speed:"]
    for row in rows:
        if (wanted := row.wanted(slower)) is not None:
            lines.append(
                f"  {row.what:40} {row.seconds:7.2f} of {wanted:.2f} s{'' if row.seconds <= wanted else ': not held'}"
            )
    return "\n".join(lines)


def _deliveries(hand: Hand, job: str, large: dict[str, Any] | None, folder: Path, settled: Callable[[], None]) -> None:
    """Of a picture of 6 megapixels, once it has been read, and of the large one if there is time."""
    small = hand.adds(job, photograph(folder / "small.jpg", 3000, 2000))
    settled()
    for what, steps, networks in (
        ("deliver 6 MP, denoise", [DENOISE], {"denoised": 6.0}),
        ("deliver 6 MP, ×2", [ENLARGE], {"enlarged": 6.0}),
    ):
        before = network_seconds(**networks)
        seconds, expected = hand.delivers(hand.sets(small, steps))
        # What is measured of it afterwards, for the ledger, is no part of it.
        settled()
        told = Row(what, seconds, (before + network_seconds(**networks)) / 2).told()
        print(told, f"expected {expected:.1f} s", flush=True)
    if large:
        networks = {"enlarged": 24.0, "denoised": 24.0}
        before = network_seconds(**networks)
        seconds, expected = hand.delivers(hand.sets(large, [DENOISE, ENLARGE]))
        told = Row("deliver 24 MP, denoise and ×2", seconds, (before + network_seconds(**networks)) / 2).told()
        print(told, f"expected {expected:.1f} s", flush=True)
