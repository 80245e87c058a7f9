"""Tone, curves, colour and masks of parts, the way a night picture is treated, and the same on another one by a card."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import FilePayload

from e2e_tests.base import BrowserTestCase, expect
from e2e_tests.pixels import result_of

SIDE = 200


def night(name: str, x: int, y: int, radius: int) -> FilePayload:
    """A bright disc on a dark blue sky, as a PNG file."""
    rows, columns = np.mgrid[0:SIDE, 0:SIDE] + 0.5
    disc = np.clip(radius + 0.5 - np.hypot(columns - x, rows - y), 0, 1)[..., None]
    picture = disc * (225, 220, 205) + (1 - disc) * ((30, 40, 80) * (0.6 + 0.4 * rows / SIDE)[..., None])
    content = io.BytesIO()
    Image.fromarray(np.rint(picture).astype(np.uint8)).save(content, "png")
    return {"name": name, "mimeType": "image/png", "buffer": content.getvalue()}


class TonesTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_job("Tern Sands: exhibition")
        pictures = [night("Moon one.png", 120, 70, 30), night("Moon two.png", 60, 110, 22)]
        self.page.get_by_label("Picture files").set_input_files(files=pictures)
        expect(self.page.get_by_text("Moon two.png").first).to_be_visible()
        self.open_bench("Moon one.png")
        self.steps = self.page.get_by_label("Steps")

    def add(self, step: str) -> None:
        self.steps.get_by_role("button", name="add a step").click()
        self.page.locator(".v-list-item-title").get_by_text(step, exact=True).click()
        expect(self.steps.get_by_role("button", name=f"{step} on")).to_be_visible()

    def part(self, title: str) -> None:
        self.steps.get_by_role("button", name="Add a part to the mask").click()
        self.page.locator(".v-list-item-title").get_by_text(title, exact=True).click()

    def put(self, label: str, value: str) -> None:
        field = self.steps.get_by_label(label, exact=True).last
        field.fill(value)
        field.press("Enter")

    def result(self) -> np.ndarray:
        self.page.wait_for_timeout(400)
        expect(self.page.get_by_text("saved", exact=True)).to_be_visible()
        whole = result_of(self.page, self.application.address)
        factor = whole.shape[1] / SIDE
        places = ((np.arange(SIDE) + 0.5) * factor).astype(int)
        return whole[places][:, places].astype(int)

    def seen_at(self, x: float, y: float) -> tuple[float, float]:
        """Where on screen a place of the picture is, once the whole of it is in view."""
        view = self.page.locator(".view").bounding_box()
        assert view
        side = min(view["width"], view["height"])
        at = [view["x"] + view["width"] / 2 + (x / SIDE - 0.5) * side]
        at += [view["y"] + view["height"] / 2 + (y / SIDE - 0.5) * side]
        return at[0], at[1]

    def steps_now(self) -> list[dict[str, Any]]:
        take = self.page.url.rsplit("/", 1)[1]
        kept = self.page.request.get(f"{self.application.address}/api/takes/{take}").json()
        return list(kept["steps"])

    def test_disc_and_sky_are_treated_apart_and_the_card_does_it_again(self) -> None:
        before = self.result()
        # The disc alone, by its tones: its red lighter, its blue darker.
        self.add("curves")
        self.part("Tones")
        self.steps.get_by_role("group", name="Channel").get_by_role("button", name="Blue").click()
        square = self.steps.get_by_role("group", name="Curve of blue").bounding_box()
        assert square
        self.page.mouse.move(square["x"] + 0.8 * square["width"], square["y"] + 0.5 * square["height"])
        self.page.mouse.down()
        self.page.mouse.move(square["x"] + 0.8 * square["width"], square["y"] + 0.6 * square["height"], steps=3)
        self.page.mouse.up()
        expect(self.steps.get_by_role("group", name="Channel").get_by_role("button", name="Blue •")).to_be_visible()
        curved = self.result()
        self.assertLess(curved[70, 120, 2], before[70, 120, 2] - 30)
        np.testing.assert_array_equal(curved[150], before[150])
        self.assertEqual(curved[70, 120, 0], before[70, 120, 0])

        # The sky darker from above, but not the disc.
        self.add("tone")
        self.put("Light, EV", "-2")
        self.part("Linear gradient")
        self.part("Tones")
        self.steps.get_by_label("How Tones 60 to 100 % meets the parts above").select_option("without")
        expect(self.steps.get_by_text("in: Linear gradient without Tones 60 to 100 %")).to_be_visible()
        darker = self.result()
        self.assertLess(darker[10, 20].sum(), 0.75 * before[10, 20].sum())
        np.testing.assert_array_equal(darker[180], before[180])
        np.testing.assert_array_equal(darker[70, 120], curved[70, 120])

        self.page.get_by_label("Cards", exact=True).click()
        self.page.get_by_text("Save as a card").click()
        self.page.get_by_label("Name of the card").fill("Night")
        self.page.get_by_role("button", name="Save", exact=True).click()
        expect(self.page.get_by_text("Card Night is saved.")).to_be_visible()
        self.page.get_by_title("Back to Tern Sands: exhibition").click()
        self.page.get_by_label("More about this job").click()
        self.page.get_by_text("Use a card on the pictures").click()
        dialog = self.page.get_by_label("Use a card")
        for other in ("Festival 2003 web.jpg", "Harbour wall 1988.jpg", "Workshop at night.jpg", "Moon one.png"):
            dialog.get_by_label(other).uncheck()
        dialog.get_by_label("Strength, %").fill("60")
        dialog.get_by_label("Strength, %").press("Enter")
        dialog.get_by_role("button", name="Make a take").click()
        expect(self.page.get_by_text("A take Night on 1 picture.")).to_be_visible()
        self.open_bench("Moon two.png")
        first = self.result()
        self.page.get_by_label("Take", exact=True).click()
        self.page.get_by_text("take Night", exact=True).click()
        expect(self.steps.get_by_text("-1.2 EV")).to_be_visible()
        second = self.result()
        # Its own disc is found by its tones, at 60 % of the strength.
        self.assertLess(second[110, 60, 2], first[110, 60, 2] - 12)
        self.assertGreater(second[110, 60, 2], first[110, 60, 2] + (curved - before)[70, 120, 2])
        self.assertLess(second[10, 180].sum(), 0.9 * first[10, 180].sum())

    def test_the_picture_sets_a_step_and_a_grey_is_picked(self) -> None:
        self.add("tone")
        self.steps.get_by_role("button", name="From the picture").click()
        expect(self.page.get_by_text("Set from the picture:")).to_be_visible()
        expect(self.steps.get_by_text("nothing set")).to_have_count(0)
        self.add("colour")
        self.steps.get_by_role("button", name="Grey", exact=True).click()
        self.page.mouse.click(*self.seen_at(120, 70))
        expect(self.page.get_by_text("of red, green and blue light")).to_be_visible()
        after = self.result()
        self.assertLess(np.ptp(after[70, 120]), 4, f"{after[70, 120]} by {self.steps_now()}")

    def test_what_a_dragged_control_clips_is_striped(self) -> None:
        self.add("tone")
        self.page.wait_for_timeout(500)
        thumb = self.steps.get_by_role("slider", name="White point").bounding_box()
        assert thumb
        x, y = thumb["x"] + thumb["width"] / 2, thumb["y"] + thumb["height"] / 2
        with self.page.expect_response(lambda answer: "show=stripes" in answer.url and answer.ok):
            self.page.mouse.move(x, y)
            self.page.mouse.down()
            self.page.mouse.move(x + 90, y, steps=6)
        self.page.mouse.up()
        with self.page.expect_response(lambda answer: "/cuts/" in answer.url and "stripes" not in answer.url):
            self.page.keyboard.press("Control+z")

    def test_a_sky_is_found_its_gradient_pulled_and_its_mask_copied(self) -> None:
        self.page.get_by_title("Back to Tern Sands: exhibition").click()
        self.open_bench("Harbour wall 1988.jpg")
        self.add("tone")
        self.put("Light, EV", "-1")
        self.part("Sky")
        expect(self.steps.get_by_role("button", name="Find again")).to_be_visible()
        self.part("Linear gradient")
        handle = self.page.get_by_role("button", name="Up to here")
        box = handle.bounding_box()
        assert box
        before = self.result()
        self.page.mouse.move(box["x"] + 7, box["y"] + 7)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + 7, box["y"] - 120, steps=4)
        self.page.mouse.up()
        self.assertGreater(np.abs(self.result() - before).max(), 3)
        self.steps.get_by_label("Copy the mask").click()
        self.add("grain")
        self.steps.get_by_label("Put the copied mask here").click()
        expect(self.steps.get_by_text("in: Sky and Linear gradient")).to_have_count(2)

    def test_a_look_up_table_is_brought_and_taken_off(self) -> None:
        rows = "\n".join(
            f"{1 - red} {green} {blue}" for blue in (0, 1) for green in (0, 1) for red in (0, 1)
        )  # fmt: skip
        before = self.result()
        self.add("table")
        expect(self.steps.get_by_text("No look-up table is on the shelf yet")).to_be_visible()
        files = self.steps.get_by_label("Table file")
        files.set_input_files({"name": "half.cube", "mimeType": "text/plain", "buffer": b"LUT_3D_SIZE 2\n0 0 0\n"})
        expect(self.page.get_by_text("The table should have 8 rows")).to_be_visible()
        content = f'TITLE "Red turned"\nLUT_3D_SIZE 2\n{rows}\n'.encode()
        files.set_input_files({"name": "red.cube", "mimeType": "text/plain", "buffer": content})
        expect(self.steps.get_by_role("button", name="table", exact=False).get_by_text("Red turned")).to_be_visible()
        after = self.result()
        # Where enlarging went beyond white, the file ends and the table does not.
        self.assertLess((np.abs(after[..., 0] - 255 + before[..., 0]) > 1).mean(), 0.002)
        np.testing.assert_allclose(after[..., 1], before[..., 1], atol=1)
        self.steps.get_by_label("Take the table off the shelf").click()
        expect(self.steps.get_by_text("none chosen")).to_be_visible()

    def test_crops_are_suggested_for_the_order(self) -> None:
        self.page.get_by_title("Back to Tern Sands: exhibition").click()
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("f")
        self.steps.get_by_role("button", name="Suggest crops").click()
        crops = self.steps.get_by_label("Suggested crops").get_by_role("button")
        expect(crops.first).to_be_visible()
        self.assertEqual(crops.count(), 3)
        # The closest one would need more than can be enlarged.
        expect(crops.nth(1)).to_be_disabled()
        crops.nth(2).click()
        expect(crops.nth(2)).to_have_attribute("aria-pressed", "true")
        width = crops.nth(2).inner_text().split(" × ")[0].split()[-1]
        expect(self.steps.get_by_label("Width px")).to_have_value(width)
