"""Painting where a step works: the mask lies where the hand went, the step works there alone, and it can be taken back."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Response

from e2e_tests.base import BrowserTestCase, expect
from e2e_tests.pixels import on_screen


def was_looked_for(answer: Response) -> bool:
    """Whether it answers a search; how far one is, is asked at the same address."""
    return answer.url.endswith("/found") and answer.request.method == "POST"


class MasksTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("2")
        self.settled()

    def settled(self) -> None:
        self.page.wait_for_timeout(500)
        expect(self.page.get_by_text("saved", exact=True)).to_be_visible()
        self.wait_until_computed()

    def screen(self) -> np.ndarray:
        self.page.mouse.move(640, 20)
        self.page.wait_for_timeout(300)
        return on_screen(self.page, self.page.locator(".view")).astype(np.int16)

    def test_grain_is_painted_taken_back_and_inverted(self) -> None:
        before = self.screen()
        self.page.keyboard.press("u")
        steps = self.page.get_by_label("Steps")
        steps.get_by_label("Amount, of 255").fill("30")
        steps.get_by_label("Amount, of 255").press("Enter")
        self.settled()
        everywhere = np.abs(self.screen() - before).max(axis=2)
        self.assertGreater((everywhere[100:600, 100:600] > 3).mean(), 0.5)

        self.page.keyboard.press("q")
        expect(steps.get_by_text("Nothing is painted yet")).to_be_visible()
        steps.get_by_label("Show the mask").click()
        view = self.page.locator(".view").bounding_box()
        assert view
        self.page.mouse.move(view["x"] + 300, view["y"] + 250)
        self.page.mouse.down()
        self.page.mouse.move(view["x"] + 420, view["y"] + 250, steps=8)
        self.page.mouse.up()
        self.settled()
        self.page.keyboard.press("q")
        self.settled()
        painted = np.abs(self.screen() - before).max(axis=2) > 3
        self.assertGreater(painted[245:255, 310:410].mean(), 0.5, "painted")
        # At this zoom the brush of 60 source pixels reaches some 180 px of the screen; far from it, and below the
        # navigator, which draws the take anew, nothing has changed.
        self.assertLess(painted[130:640, 700:960].mean(), 0.002)

        self.page.keyboard.press("Control+z")
        expect(steps.get_by_text("Nothing is painted yet")).to_be_visible()
        steps.get_by_label("Invert the mask").click()
        self.settled()
        inverted = np.abs(self.screen() - before).max(axis=2)
        self.assertGreater((inverted[100:600, 100:600] > 3).mean(), 0.5)
        steps.get_by_role("button", name="work everywhere again").click()
        expect(steps.get_by_text("works everywhere")).to_be_visible()

    def test_the_original_is_given_back_where_it_is_painted(self) -> None:
        self.page.keyboard.press("z")
        steps = self.page.get_by_label("Steps")
        expect(steps.get_by_text("original · nowhere yet")).to_be_visible()
        self.page.keyboard.press("q")
        self.page.mouse.click(700, 350)
        expect(steps.get_by_text("original · 1 stroke")).to_be_visible()
        self.settled()
        self.page.reload()
        expect(self.page.get_by_label("Steps").get_by_text("original · 1 stroke")).to_be_visible()

    def test_the_edge_mask_of_a_sharpening_is_shown_while_it_is_dragged(self) -> None:
        self.page.keyboard.press("s")
        self.settled()
        steps = self.page.get_by_label("Steps")
        thumb = steps.get_by_role("slider", name="Edges alone").bounding_box()
        assert thumb
        self.page.mouse.move(thumb["x"] + thumb["width"] / 2, thumb["y"] + thumb["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(thumb["x"] + 80, thumb["y"] + 5, steps=4)
        expect(self.page.get_by_text("where the step works")).to_be_visible()
        self.page.mouse.up()
        expect(self.page.get_by_text("where the step works")).to_have_count(0)
        steps.get_by_role("button", name="Lines").click()
        expect(steps.get_by_text("amount 120 %")).to_be_visible()

    def test_strokes_say_what_the_subject_is(self) -> None:
        self.page.keyboard.press("0")
        self.page.keyboard.press("u")
        steps = self.page.get_by_label("Steps")
        steps.get_by_label("Add a part to the mask").click()
        self.page.get_by_text("Subject", exact=True).click()
        expect(steps.get_by_text("Not found yet")).to_have_count(0, timeout=60_000)
        steps.get_by_role("button", name="Strokes").click()
        for way, start, end, left_out in (
            ("This is it", (170, 135), (250, 150), False),
            ("This is not", (400, 60), (700, 80), True),
        ):
            steps.get_by_label("Strokes say").get_by_text(way).click()
            with self.page.expect_response(was_looked_for, timeout=60_000) as found:
                self.drag_on("Paint the mask", start, end)
            self.assertEqual(found.value.request.post_data_json["hints"][-1]["erase"], left_out)
            self.assertTrue(found.value.json()["plane"])
            self.settled()
        steps.get_by_role("button", name="Last stroke back").click()
        self.settled()
        steps.get_by_role("slider", name="Hair").focus()
        with self.page.expect_response(was_looked_for, timeout=60_000) as found:
            for _ in range(4):
                self.page.keyboard.press("ArrowRight")
        self.assertEqual(found.value.request.post_data_json["hair"], 2, "asked once, for what it came to")
        self.assertTrue(found.value.json()["plane"])
        self.settled()
        steps.get_by_text("no strokes").click()
        expect(steps.get_by_text("no strokes")).to_have_count(0)
