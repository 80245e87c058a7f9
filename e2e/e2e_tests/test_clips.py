"""Stills from a clip: looked through, its sharpest moment pulled, frames fused, both compared on the bench and delivered."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import tifffile

from e2e_tests.base import BrowserTestCase, expect

CLIP = "Kites in the wind.mp4"


class ClipsTest(BrowserTestCase):
    def enlarge_to_4k(self) -> None:
        factors = self.page.get_by_role("group", name="Factor")
        if not factors.is_visible():
            self.page.get_by_role("button", name="enlarge", exact=False).filter(has_text="faithful").click()
        factors.get_by_role("button", name="×6", exact=True).click()
        expect(self.page.get_by_test_id("result-size")).to_have_text("3840 × 2880 px")

    def test_a_clip_becomes_a_print(self) -> None:
        self.open_job("Tern Sands: catalogue and banner")
        self.page.get_by_label(f"Open {CLIP}").click()
        told = self.page.get_by_text("frame 1 of 30")
        expect(told).to_be_visible()
        for _ in range(3):
            self.page.keyboard.press("ArrowRight")
        expect(self.page.get_by_text("frame 4 of 30 · 00:00:00:03")).to_be_visible()
        stills = self.page.get_by_label("Stills")
        expect(stills.get_by_role("button", name="Pull", exact=True).first).to_be_visible(timeout=60_000)
        self.page.keyboard.press("[")
        for _ in range(6):
            self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("]")
        stills.get_by_role("button", name="Fuse frames 4 to 10").click()
        taken = stills.get_by_label("Taken")
        expect(taken.get_by_role("link")).to_have_count(1, timeout=60_000)
        self.page.keyboard.press("Home")
        expect(self.page.get_by_text("frame 1 of 30")).to_be_visible()
        stills.get_by_role("button", name="Pull this frame").click()
        expect(taken.get_by_role("link")).to_have_count(2, timeout=60_000)
        # The frame and the fused one on one board, each enlarged.
        stills.get_by_role("button", name="Compare the last two").click()
        board = self.page.get_by_label("Check board")
        row = board.get_by_role("row").filter(has_text="fused.tif")
        self.enlarge_to_4k()
        board.get_by_role("button", name="Propose spots").click()
        expect(row.get_by_role("img").first).to_be_visible()
        bench = self.page.url
        row.get_by_role("link").click()
        expect(self.page.get_by_role("strong").filter(has_text="fused.tif")).to_be_visible()
        self.enlarge_to_4k()
        expect(self.page.get_by_text("saved", exact=True)).to_be_visible()
        self.page.goto(bench)
        expect(self.page.get_by_label("Steps")).to_be_visible()
        self.page.keyboard.press("v")
        expect(row.get_by_role("img").first).to_be_visible()
        expect(board).to_have_attribute("data-missing", "0", timeout=120_000)
        shown = [board.get_by_role("row").nth(place).get_by_role("img").first.screenshot() for place in (1, 2, 3)]
        self.assertEqual(len(set(shown)), 3, "the original, the frame and the fused one are three pictures")
        row.get_by_role("link").click()
        self.wait_until_computed()
        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="Deliver", exact=True).click()
        finished = dialog.get_by_role("link", name="Download")
        expect(finished).to_be_visible(timeout=120_000)
        with self.page.expect_download() as download:
            finished.click()
        made = tifffile.imread(Path(download.value.path()))
        self.assertEqual((made.shape, made.dtype), ((2880, 3840, 3), np.uint16))

    def test_moments_in_which_somebody_looks_well_are_offered(self) -> None:
        self.open_job("Tern Sands: people")
        self.page.get_by_label("Open Wren in the workshop.mp4").click()
        moments = self.page.get_by_label("Faces", exact=True)
        first = moments.get_by_role("button").first
        expect(first).to_contain_text("eyes open, looking here", timeout=90_000)
        first.click()
        expect(first).to_have_attribute("aria-pressed", "true")
        expect(self.page.locator(".stage[data-exact='true']")).to_be_visible()
        self.page.keyboard.press("[")
        for _ in range(2):
            self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("]")
        stills = self.page.get_by_label("Stills")
        stills.get_by_role("button", name="Pull all 3 of them").click()
        expect(stills.get_by_label("Taken").get_by_role("link")).to_have_count(3, timeout=60_000)

    def test_a_clip_is_taken_out_and_had_back_and_a_broken_one_says_so(self) -> None:
        self.open_job("Tern Sands: catalogue and banner")
        self.page.get_by_label(f"Take out {CLIP}").click()
        expect(self.page.get_by_label(f"Open {CLIP}")).to_have_count(0)
        self.page.get_by_role("button", name="Undo").click()
        expect(self.page.get_by_label(f"Open {CLIP}")).to_be_visible()
        broken = self.application.home / "wind.mp4"
        broken.write_bytes(b"wind and string" * 100)
        self.page.locator("input[type=file]").first.set_input_files(str(broken))
        expect(self.page.get_by_text("wind.mp4 is a clip that cannot be used", exact=False)).to_be_visible()
