"""Saved outputs, several sizes at once, and folders on the server that files come from and go to."""

from __future__ import annotations

import os
import shutil
import time
from pathlib import Path

import numpy as np
import pypdfium2
import tifffile
from PIL import Image

from e2e_tests.base import REPOSITORY, BrowserTestCase, expect


class OutputsTest(BrowserTestCase):
    def test_one_take_goes_out_in_several_sizes(self) -> None:
        self.open_job("Tern Sands: catalogue and banner")
        self.open_bench("Kite days poster.png")
        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="PDF", exact=True).click()
        dialog.get_by_label("Save these as").fill("proof sheet")
        dialog.get_by_role("button", name="Save", exact=True).click()
        expect(dialog.get_by_label("Make proof sheet as well")).to_be_visible()
        dialog.get_by_role("button", name="JPEG", exact=True).click()
        dialog.get_by_label("Longest side at most").fill("200")
        expect(dialog.get_by_text("141 × 200 px", exact=False)).to_be_visible()
        dialog.get_by_label("Make proof sheet as well").check()
        dialog.get_by_role("button", name="Deliver 2").click()
        rows = self.page.get_by_label("Deliveries", exact=True).get_by_role("listitem")
        expect(rows).to_have_count(2)
        for row in rows.all():
            expect(row).to_have_attribute("data-state", "done", timeout=90_000)
        small, page = (self.downloaded(name) for name in ("141x200", "proof sheet"))
        with Image.open(small) as picture:
            self.assertEqual((picture.format, picture.size), ("JPEG", (141, 200)))
        self.assertEqual(len(pypdfium2.PdfDocument(page)), 1)

    def test_what_lies_beyond_white_is_told_brought_in_and_delivered(self) -> None:
        samples = np.full((120, 160, 3), 0.4, np.float32)
        samples[40:80, 60:100] = 3
        source = self.application.home / "lamp.tif"
        tifffile.imwrite(source, samples, photometric="rgb")
        self.open_job("Tern Sands: exhibition")
        self.page.locator("input[type=file]").first.set_input_files(str(source))
        expect(self.page.get_by_text("Its values go from 0.4 to 3", exact=False)).to_be_visible(timeout=30_000)
        self.page.get_by_role("link", name="lamp.tif", exact=True).click()
        self.page.get_by_role("button", name="source").click()
        self.page.get_by_role("button", name="Bring it in by exposure").click()
        expect(self.page.get_by_role("button", name="Bring it in by exposure")).to_have_count(0)
        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("combobox", name="Depth").press("Enter")
        self.page.get_by_role("option", name="32 bit float").click()
        dialog.get_by_role("button", name="Deliver", exact=True).click()
        finished = dialog.get_by_role("link", name="Download")
        expect(finished).to_be_visible(timeout=60_000)
        with self.page.expect_download() as downloading:
            finished.click()
        made = tifffile.imread(downloading.value.path())
        self.assertEqual(made.dtype, np.float32)
        self.assertAlmostEqual(float(made[made.shape[0] // 2, made.shape[1] // 2].mean()), 1.0, delta=0.02)

    def downloaded(self, name: str) -> Path:
        row = self.page.get_by_label("Deliveries", exact=True).get_by_role("listitem").filter(has_text=name)
        with self.page.expect_download() as downloading:
            row.get_by_role("link", name="Download").click()
        return Path(downloading.value.path())

    def test_a_saved_output_is_filled_in_and_can_be_had_back(self) -> None:
        self.open_job("Tern Sands: catalogue and banner")
        self.open_bench("Kite days poster.png")
        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="web", exact=False).first.click()
        expect(dialog.get_by_label("Longest side at most")).to_have_value("2048")
        expect(dialog.get_by_label("Keep where it was taken")).not_to_be_checked()
        dialog.get_by_label("Remove web").click()
        expect(dialog.get_by_label("Make web as well")).to_have_count(0)
        self.page.get_by_role("button", name="Undo").filter(has_text="Undo").click()
        expect(dialog.get_by_label("Make web as well")).to_be_visible()

    def test_a_folder_is_handed_off(self) -> None:
        folders = self.application.home / "folders"
        inbox, outbox = folders / "boathouse scans", folders / "boathouse finished"
        self.open_job("Tern Sands: catalogue and banner")
        self.page.get_by_label("More about this job").click()
        self.page.get_by_text("Folders on the server").click()
        dialog = self.page.get_by_label("Folders", exact=True)
        for field, folder in (("Files come from", inbox), ("Finished files go to", outbox)):
            dialog.get_by_role("textbox", name=field).click()
            choice = self.page.get_by_label(field, exact=True).last
            for name in ("folders", folder.name):
                choice.get_by_role("button", name=name).last.click()
            choice.get_by_role("button", name="Use this folder").click()
            expect(dialog.get_by_role("textbox", name=field)).to_have_value(str(folder.resolve()))
        dialog.get_by_role("button", name="Suggested").click()
        dialog.get_by_role("button", name="Watch the folder").click()
        told = dialog.get_by_label(f"Folder {inbox.resolve()}").get_by_role("status")
        expect(told).to_contain_text("0 came in")
        shutil.copy(REPOSITORY / "demo" / "pictures" / "Festival 2003 web.jpg", inbox / "Beach 2003.jpg")
        self.addCleanup((inbox / "Beach 2003.jpg").unlink)
        (inbox / "list.txt").write_text("yarn, sticks")
        self.addCleanup((inbox / "list.txt").unlink)
        os.utime(inbox / "list.txt", (time.time() - 60,) * 2)
        expect(told).to_contain_text("1 came in · 1 went out · 1 could not be used", timeout=90_000)
        (made,) = outbox.iterdir()
        self.addCleanup(made.unlink)
        with Image.open(made) as picture:
            self.assertEqual(picture.size, (1280, 960))
        dialog.get_by_role("button", name="Close").click()
        expect(self.page.get_by_label("Open Beach 2003.jpg on the bench")).to_be_visible()
