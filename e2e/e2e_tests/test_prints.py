"""The print planner: every size at once, one made the take's own, sharpened for its paper, undone in one go."""

from __future__ import annotations

import io

from PIL import Image

from e2e_tests.base import BrowserTestCase, expect


class PrintsTest(BrowserTestCase):
    def test_a_print_is_planned_and_becomes_the_takes_size(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        before = self.page.get_by_test_id("result-size").inner_text()
        self.page.keyboard.press("j")
        planner = self.page.get_by_label("Print planner")
        sizes = planner.get_by_label("Sizes")
        small = sizes.get_by_role("button", name="15 × 10 cm")
        expect(small).to_contain_text("with ×4")
        # Seen from far away nothing has to be enlarged; from near by more than from its diagonal.
        planner.get_by_label("Seen from, cm").fill("300")
        expect(small).to_contain_text("as it stands")
        planner.get_by_label("Seen from, cm").fill("50")
        sizes.get_by_role("button", name="30 × 20 cm").click()
        told = planner.get_by_label("Chosen size")
        expect(told).to_contain_text("seen from 50 cm: good with 2067 × 1378 px (175 ppi)")
        planner.get_by_role("button", name="Make this print").click()
        expect(planner).to_have_count(0)
        # 640 × 480 px are cropped to the shape of 30 × 20 cm, and what was said to be good is made.
        expect(self.page.get_by_test_id("result-size")).to_have_text("2067 × 1378 px")
        steps = self.page.get_by_label("Steps")
        expect(steps.get_by_role("button", name="sharpen on")).to_be_visible()
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_test_id("result-size")).to_have_text(before)

    def test_a_planned_border_is_around_the_file(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("j")
        planner = self.page.get_by_label("Print planner")
        planner.get_by_label("Border, mm").fill("10")
        planner.get_by_label("Sizes").get_by_role("button", name="15 × 10 cm").click()
        planner.get_by_role("button", name="Make this print").click()
        expect(planner).to_have_count(0)
        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="Border, canvas wrap", exact=False).click()
        expect(dialog.get_by_label("Border, mm")).to_have_value("10")

    def test_borders_that_leave_nothing_are_told(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.get_by_title("Print planner (J)").click()
        planner = self.page.get_by_label("Print planner")
        planner.get_by_label("Width", exact=True).fill("10")
        planner.get_by_label("Height", exact=True).fill("15")
        expect(planner.get_by_label("Chosen size")).to_contain_text("15 × 10 cm")
        planner.get_by_label("Border, mm").fill("60")
        expect(planner.get_by_text("leaves nothing", exact=False)).to_be_visible()

    def test_a_print_is_seen_at_its_true_size_and_from_its_distance(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Harbour wall 1988.jpg")
        self.page.get_by_label("As the print").click()
        self.page.get_by_role("button", name="Measure this screen").click()
        ruler = self.page.get_by_label("Measure this screen", exact=True)
        card = ruler.get_by_label("Card", exact=True)
        self.assertAlmostEqual(card.evaluate("card => card.offsetWidth") / 85.6, 96 / 25.4, delta=0.05)
        slider = ruler.get_by_role("slider")
        for _ in range(10):
            slider.press("Shift+ArrowRight")
        fineness = 96 / 25.4 + 1
        self.assertAlmostEqual(card.evaluate("card => card.offsetWidth") / 85.6, fineness, delta=0.05)
        ruler.get_by_role("button", name="They match").click()
        self.page.keyboard.press("6")
        # 240 pixels of the print are an inch.
        zoom = self.page.get_by_label("Zoom in percent")
        true_size = fineness * 25.4 / 240 * 100
        expect(zoom).to_have_value(str(round(true_size)))
        self.page.reload()
        self.wait_until_computed()
        self.page.get_by_label("As the print").click()
        self.page.get_by_label("The print is seen from, cm").fill("120")
        self.page.get_by_label("I sit from the screen, cm").fill("60")
        self.page.get_by_role("button", name="From its distance").click()
        expect(zoom).to_have_value(str(round(true_size / 2)))

    def test_a_picture_is_placed_on_a_page(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Harbour wall 1988.jpg")
        self.page.keyboard.press("8")
        dialog = self.page.get_by_label("On a page or slide", exact=True)
        sheet, picture = dialog.get_by_label("Page", exact=True).last, dialog.get_by_label("Picture on the page")

        def share() -> float:
            whole, part = sheet.bounding_box(), picture.bounding_box()
            assert whole and part
            return part["width"] / whole["width"]

        self.assertAlmostEqual(share(), 0.8, delta=0.01)
        width = dialog.get_by_label("Picture’s width, cm")
        width.fill("10,5")
        width.press("Enter")
        # 2835 px on 10.5 cm.
        expect(dialog.get_by_text("686 ppi on 21 × 29.7 cm")).to_be_visible()
        self.assertAlmostEqual(share(), 0.5, delta=0.01)
        before = picture.bounding_box()
        picture.press("Shift+ArrowDown")
        after = picture.bounding_box()
        assert before and after
        self.assertGreater(after["y"], before["y"] + 5)
        dialog.get_by_role("combobox", name="Page").click(force=True)
        self.page.get_by_role("option", name="Slide 16:9").click()
        expect(dialog.get_by_text("33.9 × 19.1 cm", exact=False)).to_be_visible()
        expect(picture.locator("img").first).to_have_js_property("complete", True)

    def test_a_soft_proof_tells_what_cannot_be_printed(self) -> None:
        self.open_job("Tern Sands: catalogue and banner")
        self.open_bench("Kite days poster.png")
        view = self.page.get_by_label("Picture", exact=True).or_(self.page.locator(".area")).first

        def colours() -> set[tuple[int, int, int]]:
            shot = Image.open(io.BytesIO(view.screenshot())).convert("RGB")
            return {colour for count, colour in shot.getcolors(1 << 24) or [] if count > 2000}

        self.assertNotIn((128, 128, 128), colours())
        self.page.keyboard.press("Shift+J")
        card = self.page.get_by_label("Soft proof", exact=True)
        expect(card.get_by_role("status")).to_contain_text("% of the picture cannot be printed")
        self.wait_until_computed()
        self.assertIn((128, 128, 128), colours())
        card.get_by_label("gamut warning").uncheck()
        self.wait_until_computed()
        self.assertNotIn((128, 128, 128), colours())
        with self.subTest("what is no printer's profile is refused"):
            card.get_by_label("Printer profile").set_input_files(
                {"name": "none.icc", "mimeType": "application/octet-stream", "buffer": b"nothing"}
            )
            expect(self.page.get_by_text("This file is no ICC profile", exact=False)).to_be_visible()
        card.get_by_label("Close the soft proof").click()
        expect(card).to_have_count(0)
