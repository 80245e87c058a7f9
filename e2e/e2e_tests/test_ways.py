"""Ways about the bench and the job: pulling the picture, fields and labels, from picture to picture, many at once."""

from __future__ import annotations

import re

from playwright.sync_api import Page

from e2e_tests.base import BrowserTestCase, expect

EXHIBITION = "Tern Sands: exhibition"


class HandTest(BrowserTestCase):
    def with_denoise(self) -> Page:
        """The bench with a noisy picture, a denoise step open on its line."""
        self.open_job(EXHIBITION)
        self.open_bench("Workshop at night.jpg")
        self.page.get_by_role("button", name="add a step").click()
        self.page.get_by_role("listitem").filter(has_text="denoise").first.click()
        return self.page

    def place(self) -> tuple[float, float]:
        """Where the view looks, by the frame in the small picture of the whole."""
        box = self.page.locator(".displayregion").first.bounding_box()
        assert box
        return box["x"], box["y"]

    def pixel(self) -> list[int]:
        """The pixel under the pointer."""
        told = self.page.get_by_label("Pixel", exact=True).inner_text()
        return [int(number) for number in re.findall(r"\d+", told)[:2]]

    def pulled(self, button: str = "left") -> None:
        self.page.mouse.down(button=button)
        self.page.mouse.move(560, 300, steps=4)
        self.page.mouse.up(button=button)

    def test_space_and_the_middle_button_pull_the_picture_also_while_painting(self) -> None:
        page = self.with_denoise()
        page.keyboard.press("q")
        paint = page.get_by_label("Paint the mask")
        expect(paint).to_be_visible()
        page.keyboard.press("3")
        before = self.place()
        page.mouse.move(760, 420)
        page.keyboard.down(" ")
        self.pulled()
        page.keyboard.up(" ")
        after = self.place()
        self.assertLess(before[0] - after[0], 0.5, "the picture follows the hand: the view goes the other way")
        self.assertGreater(abs(after[0] - before[0]) + abs(after[1] - before[1]), 3)
        page.mouse.move(760, 420)
        self.pulled("middle")
        self.assertGreater(abs(self.place()[0] - after[0]) + abs(self.place()[1] - after[1]), 3)
        expect(page.get_by_text("Nothing is painted yet")).to_be_visible()

    def test_the_wheel_zooms_at_the_pointer_while_painting(self) -> None:
        page = self.with_denoise()
        page.keyboard.press("2")
        page.mouse.move(900, 250)
        before = self.pixel()
        page.keyboard.press("q")
        page.mouse.move(900, 251)
        page.mouse.move(900, 250)
        page.mouse.wheel(0, -100)
        page.keyboard.press("q")
        page.mouse.move(900, 251)
        page.mouse.move(900, 250)
        for now, then in zip(self.pixel(), before, strict=True):
            self.assertLessEqual(abs(now - then), 2, "whole pixels are laid on whole pixels of the screen")


class FieldsTest(BrowserTestCase):
    def test_a_space_that_is_written_is_one_though_the_pointer_lies_over_the_picture(self) -> None:
        page = self.page
        self.open_job(EXHIBITION)
        self.open_bench("Workshop at night.jpg")
        page.keyboard.press("e")
        size = page.get_by_label("Size", exact=True).and_(page.locator("input"))
        size.fill("")
        page.mouse.move(760, 420)
        page.keyboard.type("20 x 30 cm")
        expect(size).to_have_value("20 x 30 cm")

    def test_fields_take_sums_and_keys_and_labels_go_back(self) -> None:
        page = self.page
        self.open_job(EXHIBITION)
        self.open_bench("Workshop at night.jpg")
        page.get_by_role("button", name="frame", exact=False).filter(has_text="px").click()
        width = page.get_by_label("Width px")
        width.fill("2*300")
        width.press("Enter")
        expect(page.get_by_label("Size", exact=True)).to_contain_text("600 × 780")
        width.press("ArrowUp")
        expect(width).to_have_value("601")
        width.press("Shift+ArrowDown")
        expect(width).to_have_value("591")
        # Back to what it was found with.
        page.get_by_label("Steps").locator(".v-field", has=width).locator("label").first.dblclick(force=True)
        expect(width).to_have_value("1040")
        expect(page.get_by_label("Size", exact=True)).to_contain_text("1040 × 780")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="add a step").click()
        page.get_by_role("listitem").filter(has_text="denoise").first.click()
        luminance = page.get_by_label("Luminance", exact=True).and_(page.locator("input[inputmode]"))
        usual = luminance.input_value()
        luminance.fill("7")
        luminance.press("Enter")
        page.get_by_role("button", name="Luminance", exact=True).dblclick()
        expect(luminance).to_have_value(usual)
        luminance.fill("9")
        luminance.press("Enter")
        page.get_by_role("button", name="Luminance", exact=True).press("Backspace")
        expect(luminance).to_have_value(usual)


class FromPictureToPictureTest(BrowserTestCase):
    def test_next_picture_its_own_delivery_and_steps_pasted(self) -> None:
        page = self.page
        self.open_job(EXHIBITION)
        self.open_bench("Harbour wall 1988.jpg")
        # The board of one picture does not hide the next, and a delivery begins anew.
        page.keyboard.press("v")
        page.keyboard.press("d")
        dialog = page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="WebP").click()
        dialog.get_by_role("combobox", name="Colour space").click(force=True)
        page.get_by_role("option", name="ProPhoto RGB", exact=False).click()
        expect(dialog.get_by_text("ProPhoto RGB spreads 8 bit", exact=False)).to_be_visible()
        dialog.get_by_role("button", name="Cancel").click()
        page.keyboard.press("Control+c")
        expect(page.get_by_text("The steps of A of Harbour wall 1988.jpg are copied", exact=False)).to_be_visible()

        page.keyboard.press("PageDown")
        expect(page.locator(".names strong")).to_have_text("Workshop at night.jpg")
        expect(page.locator("section.board.folded")).to_be_visible()
        self.wait_until_computed()
        page.keyboard.press("d")
        expect(dialog.get_by_role("combobox", name="Compression")).to_be_visible()
        dialog.get_by_role("button", name="Cancel").click()
        page.keyboard.press("Control+v")
        expect(page.get_by_role("button", name="Take", exact=True)).to_contain_text("A of Harbour wall 1988")
        expect(page.get_by_role("button", name="enlarge", exact=False).filter(has_text="30 × 40 cm")).to_be_visible()

        page.keyboard.press("Shift+P")
        page.get_by_label("Pictures of the job").get_by_role("link", name="Festival 2003 web.jpg").click()
        expect(page.locator(".names strong")).to_have_text("Festival 2003 web.jpg")

    def test_an_order_of_another_shape_is_filled_by_a_crop_that_can_be_moved(self) -> None:
        page = self.page
        self.open_job(EXHIBITION)
        self.open_bench("Workshop at night.jpg")
        size = page.get_by_label("Size", exact=True)
        expect(size).to_contain_text("40 × 30 cm")
        page.get_by_role("button", name="frame", exact=False).filter(has_text="px").click()
        page.get_by_label("Width px").fill("780")
        page.get_by_label("Width px").press("Enter")
        expect(size).to_contain_text("the rest stays white")
        page.get_by_role("button", name="crop to fill").click()
        expect(size).not_to_contain_text("the rest stays white")
        expect(page.locator("[data-grip=se]")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(size).to_contain_text("the rest stays white")


class ManyTest(BrowserTestCase):
    def test_pictures_are_searched_sorted_chosen_and_taken_out_together(self) -> None:
        page = self.page
        self.open_job(EXHIBITION)
        names = page.get_by_label("Pictures", exact=True).get_by_role("heading")
        expect(names).to_have_count(3)
        page.get_by_role("combobox", name="Order").click(force=True)
        page.get_by_role("option", name="By name").click()
        expect(names.first).to_contain_text("Festival 2003 web.jpg")
        page.get_by_role("textbox", name="Search").fill("wall")
        expect(names).to_have_count(1)
        page.get_by_role("textbox", name="Search").fill("nothing like that")
        expect(page.get_by_text("No picture of this job has", exact=False)).to_be_visible()
        page.get_by_role("textbox", name="Search").fill("")
        page.get_by_label("Choose Festival 2003 web.jpg").check()
        page.get_by_label("Choose Workshop at night.jpg").click(modifiers=["Shift"])
        expect(page.get_by_text("3 chosen")).to_be_visible()
        page.get_by_label("Choose Harbour wall 1988.jpg").uncheck()
        page.get_by_role("button", name="Deliver", exact=True).click()
        expect(page.get_by_label("Deliver many").get_by_text("2 of 2 chosen")).to_be_visible()
        page.get_by_label("Deliver many").get_by_role("button", name="None").click()
        expect(page.get_by_label("Deliver many").get_by_text("0 of 2 chosen")).to_be_visible()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Take out of the job", exact=True).click()
        expect(names).to_have_count(1)
        page.get_by_role("button", name="Undo").click()
        expect(names).to_have_count(3)
