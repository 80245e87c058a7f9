"""The engine shelf, one's own engine, and what the bench does with engines."""

from __future__ import annotations

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from core_tests import networks
from e2e_tests.base import BrowserTestCase, expect


class EnginesTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def own_files(self, network: bytes, factor: int) -> list[Path]:
        manifest = {
            "name": "Plain repeat", "purpose": "Repeats every pixel.", "kind": "enlarge",
            "network": {"input": "picture", "outputs": {str(factor): "result"}, "reach": 0},
        }  # fmt: skip
        paths = [self.folder / f"repeat-{factor}-{len(network)}.{ending}" for ending in ("onnx", "json")]
        paths[0].write_bytes(network)
        paths[1].write_text(json.dumps(manifest))
        return paths

    def bring(self, network: bytes, factor: int) -> None:
        onnx, manifest = self.own_files(network, factor)
        self.page.get_by_label("Network file").set_input_files(onnx)
        self.page.get_by_label("Manifest file").set_input_files(manifest)
        self.page.get_by_role("button", name="Try it and add it").click()

    def take(self) -> Any:
        answer = self.page.request.get(f"{self.application.address}/api/takes/{self.page.url.rsplit('/', 1)[1]}")
        return json.loads(answer.body())

    def saved(self) -> None:
        expect(self.page.get_by_role("status").filter(has_text="saved")).to_be_visible()

    def test_the_shelf_shows_what_each_engine_does_and_how_fast(self) -> None:
        self.page.get_by_role("link", name="Engines").click()
        for name in ("Faithful", "Crisp", "Salvage", "Drawn", "Grainkeep", "Denoise", "Repair", "Deblur"):
            card = self.page.get_by_role("article", name=name, exact=True)
            card.scroll_into_view_if_needed()
            for side in card.get_by_role("img").all():
                side.evaluate("image => image.decode()")
            expect(card.get_by_text("megapixels a second")).to_be_visible(timeout=60_000)
            expect(card.get_by_role("row").first).to_be_hidden()
            card.get_by_text("Figures").click()
            expect(card.get_by_role("row").first).to_be_visible()

    def test_an_own_engine_is_refused_with_the_reason_and_taken_once_it_is_right(self) -> None:
        self.page.get_by_role("link", name="Engines").click()
        self.page.get_by_role("button", name="Bring your own").click()
        self.bring(networks.nearest(2), factor=3)
        expect(self.page.get_by_role("alert")).to_contain_text("should be", timeout=60_000)
        self.bring(networks.nearest(3), factor=3)
        card = self.page.get_by_role("article", name="Plain repeat")
        expect(card).to_be_visible(timeout=60_000)
        card.get_by_role("button", name="Take off the shelf").click()
        expect(card).to_be_hidden()
        self.page.get_by_role("button", name="Put back").click()
        expect(card).to_be_visible()

        self.page.get_by_role("link", name="Jobs", exact=True).click()
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("e")
        self.page.get_by_role("button", name="×3", exact=True).click()
        self.page.get_by_role("radio", name="Plain repeat").check()
        self.saved()
        self.wait_until_computed()
        self.assertEqual(self.take()["steps"][-1]["engine"], "plain-repeat")

    def test_blend_hold_and_repeat_change_the_take_and_the_drift_is_shown(self) -> None:
        self.open_job("Tern Sands: catalogue and banner")
        self.open_bench("Sail cloth, repeat.webp")
        before = self.take()["plan"]["chain"]
        self.page.keyboard.press("e")
        expect(self.page.get_by_label("Drift")).to_contain_text("ΔE", timeout=60_000)
        self.page.get_by_role("combobox", name="Blend with").press("Enter")
        self.page.get_by_role("option", name="Plain", exact=True).click()
        share = self.page.get_by_label("Share of the second, %")
        share.fill("25")
        share.press("Enter")
        hold = self.page.get_by_label("Hold tone and colour", exact=True).and_(self.page.locator("input[inputmode]"))
        hold.fill("80")
        hold.press("Enter")
        self.page.get_by_role("checkbox", name="Repeating texture").click()
        expect(self.page.get_by_role("button", name="repeating")).to_be_visible()
        self.saved()
        self.wait_until_computed()
        step = self.take()["steps"][-1]
        self.assertEqual((step["blend"], step["hold"], step["repeat"]), ({"engine": "plain", "weight": 25}, 80, True))
        self.assertNotEqual(self.take()["plan"]["chain"], before)
        expect(self.page.get_by_label("Drift")).to_contain_text("ΔE", timeout=60_000)

    def test_restoring_without_enlarging(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Workshop at night.jpg")
        self.page.keyboard.press("n")
        expect(self.page.get_by_role("button", name="Take", exact=True)).to_contain_text("take B")
        self.page.get_by_role("button", name="enlarge on").click()
        expect(self.page.get_by_test_id("result-size")).to_contain_text("1040 × 780")
        self.page.keyboard.press("i")
        luminance = self.page.get_by_label("Luminance", exact=True).and_(self.page.locator("input[inputmode]"))
        luminance.fill("45")
        luminance.press("Enter")
        self.page.keyboard.press("p")
        self.page.keyboard.press("b")
        self.page.get_by_role("button", name="Movement", exact=True).click()
        self.saved()
        self.wait_until_computed()
        steps = self.take()["steps"]
        self.assertEqual([step["kind"] for step in steps], ["frame", "denoise", "repair", "deblur", "enlarge"])
        self.assertEqual(steps[1]["luminance"], 45)
        self.assertEqual(steps[3]["blur"]["by"], "motion")
        self.assertEqual(self.take()["plan"]["size"], {"width": 1040, "height": 780})
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_role("button", name="deblur focus")).to_be_visible()
        self.assertEqual(self.take()["steps"][3]["blur"]["by"], "focus")
