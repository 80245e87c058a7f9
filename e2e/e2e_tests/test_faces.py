"""Faces: found, restored each as far as is wanted, drawn by hand, delivered and told of."""

from __future__ import annotations

import io
import json
import re
import zipfile
from pathlib import Path

import numpy as np

from e2e_tests.base import BrowserTestCase, expect
from e2e_tests.pixels import on_screen


class FacesTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_job("Tern Sands: people")

    def add(self, title: str) -> None:
        self.page.get_by_role("button", name="add a step").click()
        self.page.get_by_role("option", name=title).or_(self.page.get_by_text(title, exact=True)).first.click()

    def test_two_far_faces_are_found_one_left_alone_and_the_other_told_of(self) -> None:
        expect(self.page.get_by_text("2 faces", exact=False).first).to_be_visible(timeout=90_000)
        self.open_bench("Beach, two far faces.jpg")
        self.add("faces")
        steps = self.page.get_by_label("Steps")
        rows = steps.get_by_label("Faces", exact=True).get_by_role("listitem")
        expect(rows).to_have_count(2)
        for cell in rows.nth(0).locator(".cell").all():
            expect(cell).to_have_attribute("data-state", "there", timeout=60_000)
        before, after = (on_screen(self.page, cell).astype(float) for cell in rows.nth(0).locator(".cell").all())
        self.assertGreater(float(np.abs(before - after).mean()), 0.1)

        rows.nth(1).get_by_role("checkbox").uncheck()
        expect(steps.get_by_text("1 of 2 faces", exact=False)).to_be_visible()
        rows.nth(0).get_by_label("Settings of face 1").click()
        strength = rows.nth(0).get_by_label("Its strength").and_(self.page.locator("input"))
        strength.fill("30")
        strength.press("Enter")
        expect(rows.nth(0).get_by_text("at 30")).to_be_visible()
        told = rows.nth(0).get_by_label("Face 1 departs from the source")
        expect(told).to_have_text(re.compile("^± "), timeout=60_000)
        departed = float(told.inner_text().removeprefix("± "))
        freedom = rows.nth(0).get_by_label("Its freedom").and_(self.page.locator("input"))
        freedom.fill("0")
        freedom.press("Enter")
        expect(told).not_to_have_text(f"± {departed:g}", timeout=60_000)
        held = told.inner_text()
        self.assertLess(0.0 if "equals" in held else float(held.removeprefix("± ")), departed)
        self.page.keyboard.press("Control+z")
        rows.nth(0).get_by_label("Look at face 1").click()
        self.wait_until_computed()
        self.page.keyboard.press("Shift+F")
        self.page.keyboard.press("Shift+F")
        self.page.keyboard.press("Control+ArrowUp")
        expect(rows.nth(0).get_by_text("at 35")).to_be_visible()
        self.page.keyboard.press("Control+ArrowDown")
        expect(rows.nth(0).get_by_text("at 30")).to_be_visible()

        steps.get_by_label("Pin every face").click()
        board = self.page.get_by_label("Check board")
        expect(board.get_by_text("face 1").first).to_be_visible()
        expect(board.get_by_text("face 2").first).to_be_visible()

        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="Deliver", exact=True).click()
        expect(dialog.get_by_role("link", name="Download")).to_be_visible(timeout=90_000)
        dialog.get_by_role("button", name="Back to the bench").click()
        self.page.goto(self.page.url.split("/pictures/")[0])
        with self.page.expect_download() as downloading:
            self.page.get_by_role("link", name="Bundle with ledger").click()
        with zipfile.ZipFile(io.BytesIO(Path(downloading.value.path()).read_bytes())) as bundle:
            ledger = json.loads(next(bundle.read(name) for name in bundle.namelist() if name.endswith("ledger.json")))
        told = [step["did"] for step in ledger["files"][0]["steps"]]
        self.assertTrue(
            any("1 face restored by" in did and "at 30 %" in did and "1 left as it was" in did for did in told)
        )

    def test_another_picture_lends_its_detail_and_both_eyes_look_the_same_way(self) -> None:
        expect(self.page.get_by_text("2 faces", exact=False).first).to_be_visible(timeout=90_000)
        self.open_bench("Beach, two far faces.jpg")
        self.add("faces")
        steps = self.page.get_by_label("Steps")
        row = steps.get_by_label("Faces", exact=True).get_by_role("listitem").nth(0)
        row.get_by_label("Settings of face 1").click()
        reference = row.get_by_role("group", name="Reference of face 1")
        reference.get_by_role("button", name="Detail from another picture").click()
        reference.get_by_label("Picture that lends detail").select_option(label="Wren at the loft.tif")
        with self.page.expect_response(lambda answer: answer.request.method == "PUT"):
            reference.get_by_label("Take face 1 of that picture").click()
        expect(reference.get_by_text("from Wren at the loft.tif")).to_be_visible()
        expect(reference.get_by_label("Detail lent").first).to_be_visible()
        gaze = row.get_by_label("Its gaze").and_(self.page.locator("input"))
        with self.page.expect_response(lambda answer: answer.request.method == "PUT") as saved:
            gaze.fill("80")
            gaze.press("Enter")
        face = next(step for step in saved.value.json()["steps"] if step["kind"] == "faces")["faces"][0]
        self.assertEqual((face["gaze"], face["reference"]["name"]), (80, "Wren at the loft.tif"))
        self.wait_until_computed()
        reference.get_by_role("button", name="Lend no detail").click()
        expect(reference.get_by_text("from Wren at the loft.tif")).to_have_count(0)

    def test_a_face_that_was_missed_is_drawn(self) -> None:
        self.open_bench("Wren at the loft.tif")
        self.add("faces")
        steps = self.page.get_by_label("Steps")
        rows = steps.get_by_label("Faces", exact=True).get_by_role("listitem")
        expect(rows).to_have_count(1)
        rows.nth(0).get_by_label("Settings of face 1").click()
        rows.nth(0).get_by_role("button", name="Take off").click()
        expect(rows).to_have_count(0)
        expect(steps.get_by_text("no face yet")).to_be_visible()
        steps.get_by_role("button", name="Draw a face").click()
        self.drag_on("Draw a face", (380, 220), (520, 400))
        expect(rows).to_have_count(1)
        self.page.keyboard.press("Control+z")
        expect(rows).to_have_count(0)
        steps.get_by_role("button", name="Take the 1 found").click()
        expect(rows).to_have_count(1)
