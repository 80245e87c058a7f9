"""Cloth of 600 px is made to meet itself, brought to 4000 px and delivered; opposite edges of the file meet."""

from __future__ import annotations

import re
from pathlib import Path

import cv2
import numpy as np
import tifffile

from e2e_tests.base import BrowserTestCase, expect


def cloth() -> bytes:
    """600 px of a weave under a lamp, as PNG."""
    rows, columns = np.mgrid[:600, :600].astype(np.float64)
    weave = 0.5 + 0.14 * np.sin(2 * np.pi * columns / 43.7) * np.sin(2 * np.pi * rows / 31.3)
    uneven = cv2.GaussianBlur(np.random.default_rng(4).normal(0, 1, (600, 600)), (0, 0), 2)
    lit = (weave + 0.2 * uneven)[..., None] * [0.9, 0.6, 0.5] * (1 - 0.25 * columns / 600 - 0.2 * rows / 600)[..., None]
    return cv2.imencode(".png", np.rint(255 * lit.clip(0, 1)).astype(np.uint8)[..., ::-1])[1].tobytes()


class TexturesTest(BrowserTestCase):
    def test_a_texture_is_made_to_meet_itself_and_delivered(self) -> None:
        page = self.page
        self.open_job("Tern Sands: catalogue and banner")
        page.get_by_label("Picture files").set_input_files(
            {"name": "awning.png", "mimeType": "image/png", "buffer": cloth()}
        )
        self.open_bench("awning.png")
        page.get_by_role("button", name="add a step").click()
        page.get_by_text("seamless", exact=True).first.click()
        steps = page.get_by_label("Steps")
        expect(steps.get_by_text("It comes again every 43.7 × 31.3 px.")).to_be_visible(timeout=30_000)
        steps.get_by_role("button", name="Whole periods").click()
        frame = steps.get_by_role("button", name="frame ", exact=False).last
        expect(frame).not_to_contain_text("600 × 600")
        for side, period in zip(re.findall(r"\d+", frame.inner_text()), (43.7, 31.3), strict=True):
            self.assertLess(abs(int(side) / period - round(int(side) / period)) * period, 0.8)
        # Undone in one go: cloth that is woven unevenly is rather laid over itself.
        page.get_by_label("Undo").click()
        expect(steps.get_by_text("600 × 600 px")).to_be_visible()
        steps.get_by_role("button", name="Best overlap").click()
        steps.get_by_role("button", name="Look at it laid").click()
        laid = page.get_by_label("Laid edge to edge")
        expect(laid.get_by_role("img", name="2 by 2")).to_be_visible()
        laid.get_by_role("button", name="Seam, 100 %").click()
        expect(laid.get_by_role("img", name="Where four of them meet").locator("img")).to_have_count(4)
        laid.get_by_label("Close what is laid").click()
        page.get_by_role("button", name="enlarge", exact=False).filter(has_text="faithful").click()
        field = page.get_by_label("Size", exact=True).and_(page.locator("input"))
        field.fill("4000px")
        field.press("Enter")
        page.get_by_label("Repeating texture", exact=False).check()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        page.get_by_role("button", name="Deliver").click()
        dialog = page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="Deliver", exact=True).click()
        finished = dialog.get_by_role("link", name="Download")
        expect(finished).to_be_visible(timeout=240_000)
        with page.expect_download() as download:
            finished.click()
        made = tifffile.imread(Path(download.value.path())).astype(np.float64) / 65535
        self.assertEqual(made.shape[1], 4000)
        for turned in (made, made.transpose(1, 0, 2)):
            # Threads make some columns steeper than others; a seam may be as steep as those, and no steeper.
            inside = np.abs(np.diff(turned, axis=1)).mean(axis=(0, 2))
            self.assertLessEqual(float(np.abs(turned[:, 0] - turned[:, -1]).mean()), float(np.quantile(inside, 0.98)))
