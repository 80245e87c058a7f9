"""How long the pointer ever has to wait while four zoomed panes are stepped through: the longest gap between frames."""

from __future__ import annotations

import statistics
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Page, sync_playwright

from e2e_tests.base import CHROMIUM_OPTIONS, WINDOW, chromium
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


def main() -> None:
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
