"""The README's first five minutes, as a new user would follow them."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import tifffile

from e2e_tests.base import REPOSITORY, BrowserTestCase, expect


class FirstFiveMinutesTest(BrowserTestCase):
    arrives_signed_in = False

    def test_from_a_small_photograph_to_a_print_ready_file(self) -> None:
        self.sign_in()
        self.begin_a_job()
        self.crop_to_the_order()
        self.enlarge_and_compare()
        self.deliver_and_download()

    def begin_a_job(self) -> None:
        page = self.page
        page.get_by_role("button", name="New job").click()
        page.get_by_label("Title").fill("Boathouse")
        page.get_by_label("Client").fill("Tern Sands kite workshop")
        page.get_by_label("A print was ordered").check()
        page.get_by_label("Width").fill("24")
        page.get_by_label("Height").fill("30")
        page.get_by_label("ppi").fill("150")
        page.get_by_role("button", name="Begin job").click()
        expect(page.get_by_text("ordered: 24 × 30 cm at 150 ppi")).to_be_visible()

        page.get_by_label("Picture files").set_input_files(REPOSITORY / "demo" / "pictures" / "Harbour wall 1988.jpg")
        expect(page.get_by_text("378 × 504 px · 0.19 MP")).to_be_visible()
        expect(page.get_by_text("The picture was turned upright")).to_be_visible()
        self.open_bench("Harbour wall 1988.jpg")

    def crop_to_the_order(self) -> None:
        """Open the frame step, hold it to the order's shape, draw smaller by a corner."""
        page = self.page
        page.get_by_role("button", name="frame", exact=False).filter(has_text="px").click()
        page.get_by_role("combobox", name="Shape").click(force=True)
        page.get_by_text("The order, 24 × 30 cm").click()
        expect(page.get_by_label("Size", exact=True)).to_contain_text("378 × 473")
        corner = page.locator("[data-grip=se]").bounding_box()
        assert corner
        page.mouse.move(corner["x"] + 7, corner["y"] + 7)
        page.mouse.down()
        page.mouse.move(corner["x"] - 60, corner["y"] - 75, steps=5)
        page.mouse.up()
        page.keyboard.press("ArrowRight")
        page.get_by_label("Width px").fill("320")
        page.get_by_label("Left px").fill("30")
        page.get_by_label("Left px").press("Enter")
        expect(page.get_by_label("Size", exact=True)).to_contain_text("320 × 400")

    def enlarge_and_compare(self) -> None:
        """How large the print is, and with which engine; then at pixel level."""
        page = self.page
        page.get_by_role("button", name="enlarge", exact=False).filter(has_text="faithful").click()
        page.get_by_role("button", name="To the order").click()
        page.get_by_role("radio", name="Plain Lanczos").check()
        page.get_by_role("radio", name="Faithful").check()
        expect(page.get_by_test_id("result-size")).to_have_text("1417 × 1772 px")
        expect(page.get_by_text("ordered 24 × 30 cm gets 150 of 150 ppi: enough")).to_be_visible()

        self.wait_until_computed()
        page.get_by_role("button", name="100 %").click()
        self.wait_until_computed()
        expect(page.get_by_role("status").filter(has_text="exact")).to_be_visible()
        page.get_by_role("button", name="divider").click()
        expect(page.get_by_role("slider", name="Divider")).to_be_visible()

    def deliver_and_download(self) -> None:
        page = self.page
        page.get_by_role("button", name="Deliver").click()
        dialog = page.get_by_label("Deliver", exact=True)
        expect(dialog.get_by_text("Harbour wall 1988 1417x1772.tif")).to_be_visible()
        dialog.get_by_role("button", name="Deliver").click()
        expect(page.get_by_text("Done: 1417 × 1772 px")).to_be_visible(timeout=120_000)
        with TemporaryDirectory() as folder, page.expect_download() as download:
            page.get_by_role("link", name="Download").click()
            path = Path(folder) / download.value.suggested_filename
            download.value.save_as(path)
            self.assertEqual(path.name, "Harbour wall 1988 1417x1772.tif")
            with tifffile.TiffFile(path) as file:
                tiff = file.pages[0]
                self.assertEqual((tiff.shape, tiff.dtype), ((1772, 1417, 3), np.uint16))
                self.assertAlmostEqual(np.divide(*tiff.tags["XResolution"].value), 150, 2)
                self.assertGreater(len(np.unique(tiff.asarray()[::4, ::4])), 2000)

    def test_the_six_steps_of_the_readme_end_in_a_file(self) -> None:
        page = self.page
        self.sign_in()
        self.begin_a_job()
        page.get_by_role("button", name="crop to fill").click()
        expect(page.get_by_test_id("result-size")).to_have_text("1417 × 1772 px")
        page.keyboard.press("Escape")
        page.keyboard.press("2")
        self.wait_until_computed()
        self.deliver_and_download()

    def test_everything_is_there_again_after_a_reload(self) -> None:
        page = self.page
        self.sign_in()
        self.open_job("Tern Sands: catalogue and banner")
        self.open_bench("Kite days poster.png")
        page.get_by_role("button", name="enlarge", exact=False).filter(has_text="faithful").click()
        page.get_by_role("button", name="×3", exact=True).click()
        expect(page.get_by_test_id("result-size")).to_have_text("864 × 1224 px")
        page.get_by_role("button", name="×4", exact=True).click()
        expect(page.get_by_test_id("result-size")).to_have_text("1152 × 1632 px")
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.reload()
        expect(page.get_by_test_id("result-size")).to_have_text("1152 × 1632 px")
        page.get_by_label("Undo").click()
        expect(page.get_by_test_id("result-size")).to_have_text("864 × 1224 px")
        page.keyboard.press("Control+Shift+Z")
        expect(page.get_by_test_id("result-size")).to_have_text("1152 × 1632 px")
