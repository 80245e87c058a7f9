"""What the bench shows is what is there: pixel by pixel, by pointer and by key."""

from __future__ import annotations

import time
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from playwright.sync_api import Route

from e2e_tests.base import BrowserTestCase, expect
from e2e_tests.pixels import found, on_screen, result_of

#: Notes when the large view first says that everything is computed.
NOTE_WHEN_COMPUTED = """() => {
  const area = document.querySelector('.area')
  window.computed = []
  new MutationObserver(() => {
    if (area.dataset.busy === 'false') window.computed.push(performance.now())
  }).observe(area, { attributes: true, attributeFilter: ['data-busy'] })
}"""
#: Those of them since the take was saved last, and when each part of full size came that was asked for until the first of these;
#: what is made ahead follows later.
WHEN_PARTS_CAME = """([take, chain]) => {
  const loaded = performance.getEntriesByType('resource')
  const saved = loaded.findLast(one => one.name.endsWith(`/api/takes/${take}`)).startTime
  const computed = window.computed.filter(when => when > saved)
  return [computed, loaded.filter(one => one.name.includes(`/cuts/${chain}/`) && one.startTime < computed[0])
    .map(one => one.responseEnd)]
}"""


class BenchTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_job("Tern Sands: exhibition")

    def shown(self) -> np.ndarray:
        """The pixels of the large view on screen."""
        return on_screen(self.page, self.page.locator(".view"))

    def test_at_full_size_and_above_the_screen_shows_the_files_own_pixels(self) -> None:
        self.open_bench("Festival 2003 web.jpg")
        whole = result_of(self.page, self.application.address)
        for key, scale in (("2", 1), ("3", 2), ("4", 4), ("5", 8)):
            self.page.keyboard.press(key)
            self.page.wait_for_timeout(300)
            self.wait_until_computed()
            self.page.wait_for_timeout(300)
            screen = self.shown()
            middle = screen[200 : 200 + 24 * scale, 300 : 300 + 24 * scale]
            # Find where picture pixels begin on screen, then every one must be a flat square of scale × scale.
            matches = 0
            for dy in range(scale):
                for dx in range(scale):
                    part = middle[dy : dy + 20 * scale, dx : dx + 20 * scale]
                    small = part[::scale, ::scale]
                    if np.array_equal(np.repeat(np.repeat(small, scale, 0), scale, 1), part) and found(small, whole):
                        matches += 1
            self.assertEqual(matches, 1, f"at {scale * 100} %")

    def test_the_wheel_zooms_at_the_pointer(self) -> None:
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("2")
        self.page.wait_for_timeout(400)
        view = self.page.locator(".view").bounding_box()
        assert view
        x, y = view["x"] + 700, view["y"] + 150

        def pixel() -> tuple[int, ...]:
            # The readout follows the pointer.
            self.page.mouse.move(x + 3, y)
            self.page.mouse.move(x, y)
            told = self.page.get_by_label("Pixel").inner_text().splitlines()[0]
            return tuple(int(number) for number in told.split(","))

        before = pixel()
        for way in (-100, -100, 100, 100):
            self.page.mouse.wheel(0, way)
            self.page.wait_for_timeout(300)
            self.assertLessEqual(max(abs(a - b) for a, b in zip(pixel(), before, strict=True)), 1)

    def test_long_controls_scroll_and_the_bars_stay(self) -> None:
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("e")
        expect(self.page.get_by_role("checkbox", name="Repeating texture")).to_be_attached()
        foot = self.page.get_by_role("group", name="Zoom").bounding_box()
        assert foot
        self.assertLess(foot["y"] + foot["height"], 800)
        # What the controls learn of the engine may make them longer: a trial click scrolls until it could be pressed.
        self.page.get_by_role("button", name="Remove").click(trial=True)
        expect(self.page.get_by_role("button", name="Deliver")).to_be_in_viewport()

    def test_lines_drawn_along_leaning_walls_become_upright(self) -> None:
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("f")
        width = self.page.get_by_label("Width px").input_value()
        fold = self.page.get_by_role("button", name="Perspective and distortion")
        if fold.get_attribute("aria-expanded") == "false":
            fold.click()
        self.page.get_by_role("button", name="Draw lines").click()
        surface = self.page.get_by_label("Guide lines")
        lean = self.page.get_by_label("Upright lines", exact=True).and_(self.page.locator("input[inputmode]"))
        for start, end in (((415, 200), (405, 470)), ((593, 200), (603, 470))):
            self.drag_on("Guide lines", start, end)
        expect(lean).not_to_have_value("0")
        self.page.get_by_role("button", name="Done", exact=True).click()
        expect(surface).to_be_hidden()
        expect(self.page.get_by_text("perspective undone")).to_be_visible()
        # All of the picture does not reach that far; and what it does not reach is white now.
        expect(self.page.get_by_label("Width px")).not_to_have_value(width)
        self.page.get_by_role("button", name="White", exact=True).click()
        expect(self.page.get_by_label("Width px")).to_have_value(width)
        self.page.keyboard.press("Escape")
        for _ in range(3):
            self.page.keyboard.press("Control+z")
        expect(self.page.get_by_text("perspective undone")).to_be_hidden()

    def test_the_original_is_seen_while_a_key_is_held(self) -> None:
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("3")
        self.page.wait_for_timeout(400)
        self.wait_until_computed()
        result = self.shown()
        self.page.keyboard.down("o")
        expect(self.page.locator(".area[data-showing=original]")).to_be_visible()
        self.page.wait_for_timeout(400)
        original = self.shown()
        self.assertGreater(np.mean(result[100:400, 200:700] != original[100:400, 200:700]), 0.3)
        self.page.keyboard.up("o")
        self.page.wait_for_timeout(400)
        again = self.shown()
        np.testing.assert_array_equal(again[100:400, 200:700], result[100:400, 200:700])

    def test_side_by_side_moves_together(self) -> None:
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("2")
        zoom = self.page.get_by_label("Zoom in percent")
        expect(zoom).to_have_value("100")
        # Every change of the panes keeps the place and the zoom that are looked at.
        for panes in ("two", "one", "two"):
            self.page.get_by_role("button", name=panes, exact=True).click()
            self.page.wait_for_timeout(400)
            expect(zoom).to_have_value("100")
        self.wait_until_computed()
        for _ in range(3):
            self.page.keyboard.press("ArrowLeft")
        self.page.mouse.move(1000, 400)
        self.page.mouse.down()
        self.page.mouse.move(900, 340, steps=4)
        self.page.mouse.up()
        self.page.wait_for_timeout(800)
        self.wait_until_computed()
        # Noise apart, the panes show the same place: blurred, they agree far better than when shifted. Drawn with the next frame.
        for _ in range(40):
            agreement, shifted = self._agreement()
            if agreement > 0.9:
                break
            self.page.wait_for_timeout(500)
        self.assertGreater(agreement, 0.9)
        self.assertGreater(agreement, shifted + 0.05)

    def _agreement(self) -> tuple[float, float]:
        """How the two panes agree, and how they would if one were shifted by 40 px."""
        screen = self.shown().astype(np.float32)
        half = screen.shape[1] // 2
        left = screen[40 : screen.shape[0] - 50, 20 : half - 20].mean(axis=2)
        right = screen[40 : screen.shape[0] - 50, half + 21 : half + 21 + left.shape[1]].mean(axis=2)
        width = min(left.shape[1], right.shape[1])
        left, right = (side[::8, :width] for side in (left, right))
        return (
            float(np.corrcoef(left[:, ::8].ravel(), right[:, ::8].ravel())[0, 1]),
            float(np.corrcoef(left[:, 40::8].ravel(), right[:, :-40:8].ravel())[0, 1]),
        )

    def test_pixels_are_read_out_in_the_source_depth(self) -> None:
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("4")
        self.page.mouse.move(700, 400)
        self.page.mouse.move(705, 404)
        readout = self.page.get_by_label("Pixel")
        expect(readout).to_contain_text("16 bit")
        expect(readout).to_contain_text("8 bit")

    def test_steps_are_switched_moved_removed_and_brought_back_by_key(self) -> None:
        self.open_bench("Workshop at night.jpg")
        size = self.page.get_by_test_id("result-size")
        before = size.inner_text()
        self.page.keyboard.press("e")
        self.page.keyboard.press(".")
        expect(size).to_have_text("1040 × 780 px")
        self.page.keyboard.press("Delete")
        expect(self.page.get_by_role("button", name="enlarge", exact=False)).to_have_count(0)
        self.page.keyboard.press("Control+z")
        self.page.keyboard.press("Control+z")
        expect(size).to_have_text(before)
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("heading", name="Keys on the bench")).to_be_visible()

    def test_a_late_answer_takes_no_later_change_back(self) -> None:
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("e")
        held: list[Route] = []

        def hold_the_first(route: Route) -> None:
            if route.request.method != "PUT" or held:
                route.continue_()
            else:
                held.append(route)

        self.page.route("**/api/takes/*", hold_the_first)
        factors = self.page.get_by_role("group", name="Factor")
        factors.get_by_role("button", name="×3", exact=True).click()
        factors.get_by_role("button", name="×4", exact=True).click()
        self.page.wait_for_timeout(300)
        held[0].continue_()
        expect(self.page.get_by_text("saved", exact=True)).to_be_visible()
        expect(factors.get_by_role("button", name="×4", exact=True)).to_have_attribute("aria-pressed", "true")
        expect(self.page.get_by_test_id("result-size")).to_have_text("4160 × 3120 px")

    def test_sizes_as_people_type_them(self) -> None:
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("e")
        field = self.page.get_by_label("Size", exact=True).and_(self.page.locator("input"))
        size = self.page.get_by_test_id("result-size")
        for typed, expected in (
            ("x1.5", "1560 × 1170 px"),
            ("200 %", "2080 × 1560 px"),
            ("3000px", "3000 × 2250 px"),
            ("1500 px high", "2000 × 1500 px"),
            ("40cm", "3780 × 2835 px"),
            # It lies as the picture does.
            ("20 × 30 cm", "2520 × 1890 px"),
            ("10in high", "3200 × 2400 px"),
        ):
            field.fill(typed)
            field.press("Enter")
            expect(size).to_have_text(expected)
        field.fill("rather big")
        field.press("Enter")
        expect(self.page.get_by_text("Write a size like")).to_be_visible()
        field.fill("x9")
        field.press("Enter")
        expect(self.page.get_by_text("is not usable")).to_be_visible()

    def test_files_that_cannot_be_used_say_why(self) -> None:
        with TemporaryDirectory() as folder:
            letter = Path(folder) / "letter.jpg"
            letter.write_text("Dear Wren")
            self.page.get_by_label("Picture files").set_input_files(letter)
            expect(self.page.get_by_text("letter.jpg is not a picture Kite Glass can read")).to_be_visible()
            self.page.get_by_label("Dismiss").click()
            expect(self.page.get_by_text("letter.jpg")).to_have_count(0)

    def test_a_delivery_is_called_off(self) -> None:
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("e")
        self.page.get_by_role("button", name="×8", exact=True).click()
        expect(self.page.get_by_test_id("result-size")).to_have_text("8320 × 6240 px")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="Deliver").click()
        self.page.get_by_role("button", name="Cancel delivery").click()
        expect(self.page.get_by_text("Cancelled; no file was made.")).to_be_visible(timeout=60_000)

    def test_the_take_before_does_not_pass_for_the_take_as_it_is(self) -> None:
        self.open_bench("Workshop at night.jpg")

        def slowly(route: Route) -> None:
            time.sleep(0.25)
            route.continue_()

        self.page.route("**/tiles/**", slowly)
        self.page.route("**/cuts/**", slowly)
        self.page.keyboard.press("2")
        self.page.wait_for_timeout(300)
        # The take changes while its pixels are on their way; those it has no more use for come to nothing.
        self.page.evaluate(NOTE_WHEN_COMPUTED)
        self.page.keyboard.press("e")
        with self.page.expect_response(lambda answer: answer.request.method == "PUT") as saved:
            self.page.get_by_role("group", name="Factor").get_by_role("button", name="×3", exact=True).click()
        self.wait_until_computed()
        self.page.wait_for_timeout(1500)
        take = self.page.url.rsplit("/", 1)[1]
        computed, parts = self.page.evaluate(WHEN_PARTS_CAME, [take, saved.value.json()["plan"]["chain"]])
        self.assertGreater(len(parts), 0)
        self.assertGreater(computed[0] + 5, max(parts))
