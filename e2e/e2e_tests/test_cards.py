"""From the reading to a suggested take, from a take to a card, from a card to other pictures; and what is usually wanted."""

from __future__ import annotations

import json
from pathlib import Path

from playwright.sync_api import Route

from e2e_tests.base import BrowserTestCase, expect


class CardsTest(BrowserTestCase):
    def test_one_bad_row_blanks_no_page(self) -> None:
        def spoiled(route: Route) -> None:
            pictures = route.fetch().json()
            pictures[0]["facts"] = None
            route.fulfill(json=pictures)

        self.page.route("**/api/jobs/*/pictures", spoiled)
        self.open_job("Tern Sands: exhibition")
        rows = self.page.get_by_label("Pictures", exact=True).get_by_role("listitem")
        expect(
            self.page.get_by_role("alert").filter(has_text="could not be shown; everything else goes on")
        ).to_have_count(1)
        expect(rows.first).to_be_visible()
        expect(self.page.get_by_role("heading", name="Tern Sands: exhibition")).to_be_visible()

    def test_a_reading_is_suggested_from_kept_as_a_card_and_used_on_others(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        steps = self.page.get_by_label("Steps")
        self.page.keyboard.press("l")
        reading = steps.get_by_label("Reading", exact=True)
        expect(reading.get_by_text("JPEG quality 28")).to_be_visible()
        expect(reading.get_by_text("Repair, at 100 of 100: the file was compressed")).to_be_visible()
        # Nothing has been applied by itself.
        expect(self.page.get_by_label("Take", exact=True)).to_have_text("take A ▾")
        expect(steps.get_by_role("button", name="repair on")).to_have_count(0)
        reading.get_by_role("button", name="Make it a take").click()
        expect(self.page.get_by_label("Take", exact=True)).to_have_text("take Suggested ▾")
        expect(steps.get_by_role("button", name="repair on")).to_be_visible()

        self.page.get_by_label("Cards", exact=True).click()
        self.page.get_by_text("Save as a card").click()
        self.page.get_by_label("Name of the card").fill("Web pictures")
        self.page.get_by_role("button", name="Save", exact=True).click()
        expect(self.page.get_by_text("Card Web pictures is saved.")).to_be_visible()

        self.page.get_by_title("Back to Tern Sands: exhibition").click()
        self.page.get_by_label("More about this job").click()
        self.page.get_by_text("Use a card on the pictures").click()
        dialog = self.page.get_by_label("Use a card")
        dialog.get_by_label("Festival 2003 web.jpg").uncheck()
        dialog.get_by_label("Strength, %").fill("50")
        dialog.get_by_label("Strength, %").press("Enter")
        dialog.get_by_role("button", name="Make 2 takes").click()
        expect(self.page.get_by_text("A take Web pictures on 2 pictures.")).to_be_visible()
        self.open_bench("Workshop at night.jpg")
        self.page.get_by_label("Take", exact=True).click()
        self.page.get_by_text("take Web pictures", exact=True).click()
        expect(steps.get_by_text("strength 50")).to_be_visible()
        expect(steps.get_by_text("quality 93")).to_be_visible()

    def test_a_card_goes_out_as_a_file_and_comes_back(self) -> None:
        self.page.get_by_role("link", name="Cards").click()
        content = {
            "kite_glass_card": 1, "name": "Yarn and cloth", "note": "soft skin",
            "steps": [{"kind": "denoise", "luminance": 40, "colour": 90}],
        }  # fmt: skip
        files = self.page.get_by_label("Card files")
        files.set_input_files(
            {"name": "card.json", "mimeType": "application/json", "buffer": json.dumps(content).encode()}
        )
        expect(self.page.get_by_label("Name of card Yarn and cloth")).to_have_value("Yarn and cloth")
        expect(self.page.get_by_text("denoise: luminance 40 · colour 90")).to_be_visible()
        files.set_input_files({"name": "broken.json", "mimeType": "application/json", "buffer": b"no card"})
        expect(self.page.get_by_text("This is not a card")).to_be_visible()
        with self.page.expect_download() as download:
            self.page.get_by_label("Export card Yarn and cloth").click()
        back = json.loads(Path(download.value.path()).read_text())
        self.assertEqual((back["name"], back["note"], len(back["steps"])), ("Yarn and cloth", "soft skin", 1))
        self.page.get_by_label("Put card Yarn and cloth away").click()
        expect(self.page.get_by_label("Name of card Yarn and cloth")).to_have_count(0)
        self.page.get_by_role("button", name="Bring back").click()
        expect(self.page.get_by_label("Name of card Yarn and cloth")).to_be_visible()

    def test_what_is_usually_wanted_is_where_deliveries_start(self) -> None:
        self.page.get_by_role("link", name="Settings").click()
        self.page.get_by_label("Format").first.click(force=True)
        self.page.get_by_role("option", name="PNG").click()
        self.page.get_by_label("Name of a file").fill("{picture} {engine} {mood}")
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_text("“{mood}” is not known in names")).to_be_visible()
        self.page.get_by_label("Name of a file").fill("{picture} {engine} {factor}")
        expect(self.page.get_by_text("Harbour wall 1988 faithful 3.7x.png")).to_be_visible()
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_text("Saved. New takes and deliveries start from this")).to_be_visible()
        self.page.get_by_role("link", name="Jobs", exact=True).click()
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("d")
        expect(
            self.page.get_by_label("Deliver", exact=True).get_by_text("Festival 2003 web faithful 5.91x.png")
        ).to_be_visible()
