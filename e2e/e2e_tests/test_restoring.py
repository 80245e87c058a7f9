"""Denoise, repair and deblur as people set them: along the frontier, by a drawn line, by a marked area."""

from __future__ import annotations

import cv2
import numpy as np

from e2e_tests.base import REPOSITORY, BrowserTestCase, expect
from e2e_tests.pixels import on_screen
from kitecore.filters.psf import disc


class RestoringTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_job("Tern Sands: exhibition")

    def roughness(self, index: int) -> float:
        cell = self.page.get_by_label("Noise against detail").locator(".cell").nth(index)
        expect(cell).to_have_attribute("data-state", "there")
        pixels = on_screen(self.page, cell).astype(np.float32)
        return float(np.abs(np.diff(pixels, axis=1)).mean())

    def test_noise_is_traded_for_detail_with_both_ends_in_sight(self) -> None:
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("i")
        steps = self.page.get_by_label("Steps")
        expect(steps.get_by_text("The reading found σ", exact=False)).to_be_visible()
        self.assertLess(self.roughness(0), 0.6 * self.roughness(1))

        steps.get_by_role("button", name="most detailed").click()
        expect(steps.get_by_text("luminance 50 · colour 75 · detail 80")).to_be_visible()
        slider = steps.get_by_role("slider", name="From cleanest to most detailed")
        expect(slider).to_have_attribute("aria-valuenow", "100")
        for _ in range(5):
            slider.press("ArrowLeft")
        expect(steps.get_by_label("Luminance", exact=True).and_(self.page.locator("input"))).to_have_value("53")
        expect(slider).to_have_attribute("aria-valuenow", "95")
        steps.get_by_role("button", name="Strong").click()
        expect(steps.get_by_text("luminance 95 · colour 100", exact=True)).to_be_visible()

    def test_a_movement_is_drawn_and_an_area_is_read(self) -> None:
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("2")
        self.page.keyboard.press("b")
        steps = self.page.get_by_label("Steps")
        steps.get_by_role("button", name="Draw movement").click()
        self.drag_on("Draw the movement", (300, 300), (340, 260))
        # 57 px on the screen at 100 % of a result 3780 px wide are 15.6 px of the 1040 px before enlarging.
        expect(steps.get_by_text("movement 15.6 px at 45°")).to_be_visible()
        expect(self.page.get_by_label("Draw the movement")).to_have_count(0)

        self.page.keyboard.press("0")
        steps.get_by_role("button", name="Read an area").click()
        with self.page.expect_response(lambda answer: answer.url.endswith("/blur")) as answered:
            self.drag_on("Mark an area", (300, 300), (700, 560))
        self.assertIsNone(answered.value.json()["blur"])
        expect(self.page.get_by_text("No blur was found there", exact=False)).to_be_visible()
        expect(steps.get_by_text("movement 15.6 px at 45°")).to_be_visible()

    def test_missed_focus_is_set_as_it_was_read(self) -> None:
        sharp = cv2.imread(str(REPOSITORY / "demo" / "clean" / "festival.jpg"))[100:600, 200:800]
        soft = cv2.filter2D(sharp, -1, disc(3).astype(np.float32), borderType=cv2.BORDER_REFLECT_101)
        content = cv2.imencode(".png", soft)[1].tobytes()
        file = {"name": "Out of focus.png", "mimeType": "image/png", "buffer": content}
        self.page.get_by_label("Picture files").set_input_files(files=[file])
        self.open_bench("Out of focus.png")
        self.page.keyboard.press("b")
        steps = self.page.get_by_label("Steps")
        radius = steps.get_by_label("Radius, px")
        expect(steps.get_by_text("The reading found: focus", exact=False)).to_be_visible(timeout=60_000)
        steps.get_by_role("button", name="Use").click()
        self.assertAlmostEqual(float(radius.input_value()), 3, delta=0.4)

        radius.fill("1")
        radius.press("Enter")
        expect(radius).to_have_value("1")
        steps.get_by_role("button", name="Read an area").click()
        self.drag_on("Mark an area", (250, 150), (750, 550))
        expect(radius).not_to_have_value("1")
        self.assertAlmostEqual(float(radius.input_value()), 3, delta=0.5)

    def test_escape_stops_drawing_and_keeps_the_step_open(self) -> None:
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("b")
        self.page.get_by_role("button", name="Draw movement").click()
        expect(self.page.get_by_label("Draw the movement")).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_label("Draw the movement")).to_have_count(0)
        expect(self.page.get_by_role("button", name="Draw movement")).to_be_visible()
