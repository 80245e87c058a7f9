"""The whole application with its demo, and a browser to drive it like a person."""

from __future__ import annotations

import shutil
from typing import Any
from unittest import TestCase

from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

from e2e_tests.demo import PERSON, DemoApplication, demo_application
from launch.application import REPOSITORY

#: The machine may be busy; what takes longer than this has failed.
expect.set_options(timeout=20_000)

#: Without these Chromium looks for the world outside, and as root it needs to be told not to use its sandbox.
CHROMIUM_OPTIONS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--force-color-profile=srgb",
]  # fmt: skip
WINDOW = {"width": 1280, "height": 800}


def chromium() -> str:
    """Debian's Chromium. Its absence is a failure: no test is skipped for it."""
    program = shutil.which("chromium")
    if not program:
        raise AssertionError("Chromium is not installed; bin/test installs it.")
    return program


class BrowserTestCase(TestCase):
    """One application for all tests, one browser for those of a class, the demo as it was and a fresh page for each."""

    #: Whether the first page is that of somebody who has signed in before.
    arrives_signed_in = True
    application: DemoApplication
    _playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        cls.application = demo_application()
        cls._playwright = sync_playwright().start()
        cls.addClassCleanup(cls._playwright.stop)
        cls.browser = cls._playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_OPTIONS)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        self.application.reset()
        context = self.browser.new_context(viewport=WINDOW, accept_downloads=True)
        self.addCleanup(context.close)
        context.set_default_timeout(30_000)
        if self.arrives_signed_in:
            context.add_cookies([{"name": name, "value": value, "url": self.application.address}
                                 for name, value in self.application.cookies.items()])  # fmt: skip
        self.page: Page = context.new_page()
        self.faults: list[str] = []
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))
        self.page.on("request", self._stays_here)
        self.page.on("response", self._is_no_crash)
        self.page.on("console", self._is_no_false_alarm)
        self.page.goto(self.application.address)

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [], "no script or server fails and nothing is fetched from elsewhere")

    def _stays_here(self, request: Any) -> None:
        if not request.url.startswith((self.application.address, "data:", "blob:")):
            self.faults.append(f"fetched {request.url}")

    def _is_no_crash(self, response: Any) -> None:
        if response.status == 500:
            self.faults.append(f"the server failed at {response.url}")

    def _is_no_false_alarm(self, message: Any) -> None:
        # A tile that nobody waits for any more is no fault.
        if message.type == "error" and "outdated" in message.text:
            self.faults.append(f"told of as a fault: {message.text}")

    def sign_in(self) -> None:
        self.page.get_by_label("Name").fill(PERSON["name"])
        self.page.get_by_label("Password").fill(PERSON["password"])
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("heading", name="Jobs")).to_be_visible()

    def open_job(self, title: str) -> None:
        self.page.get_by_role("heading", name=title).click()
        expect(self.page.get_by_role("button", name="Add pictures")).to_be_visible()

    def open_bench(self, picture: str) -> None:
        self.page.get_by_label(f"Open {picture} on the bench").click()
        expect(self.page.get_by_label("Steps")).to_be_visible()
        self.wait_until_computed()

    def drag_on(self, layer: str, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Press, move and let go between two places of what is called ``layer``."""
        box = self.page.get_by_label(layer).bounding_box()
        assert box
        self.page.mouse.move(box["x"] + start[0], box["y"] + start[1])
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + end[0], box["y"] + end[1], steps=4)
        self.page.mouse.up()

    def wait_until_computed(self) -> None:
        """Until every pane shows all its pixels: what is missing is known once a frame was drawn."""
        self.page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
        expect(self.page.locator(".area[data-busy='false']")).to_be_visible(timeout=90_000)


__all__ = ["REPOSITORY", "BrowserTestCase", "Page", "expect"]
