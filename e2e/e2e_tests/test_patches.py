"""A blot is painted over, its patch moved, switched off, taken away and had back."""

from __future__ import annotations

import re

import cv2
import numpy as np

from e2e_tests.base import BrowserTestCase, expect


def blotted() -> bytes:
    """600×400 px of cloth with a white blot in the middle, as PNG."""
    random = np.random.default_rng(7)
    samples = cv2.GaussianBlur(random.uniform(40, 200, (400, 600, 3)), (0, 0), 2)
    cv2.circle(samples, (300, 200), 12, (255, 255, 255), -1)
    return cv2.imencode(".png", np.rint(samples).astype(np.uint8))[1].tobytes()


def dusty() -> bytes:
    """600×400 px of evening sky with three crumbs of dust on it, one in the middle, as PNG."""
    rows = np.linspace(90, 170, 400)[:, None, None]
    samples = np.repeat(rows, 600, axis=1) * [1.0, 0.85, 0.7] + np.random.default_rng(3).normal(0, 2, (400, 600, 3))
    for place in ((300, 200), (120, 90), (470, 310)):
        cover = np.zeros((1600, 2400), np.uint8)
        cv2.ellipse(cover, tuple(4 * side for side in place), (17, 11), 30, 0, 360, 255, -1)
        share = cv2.resize(cover, (600, 400), interpolation=cv2.INTER_AREA)[..., None] / 255
        samples += share * (245 - samples)
    return cv2.imencode(".png", np.clip(np.rint(samples), 0, 255).astype(np.uint8))[1].tobytes()


class PatchesTest(BrowserTestCase):
    def middle(self) -> float:
        """The mean of the middle of the take's result, of 255, as the server has it."""
        page = self.page
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
        picture = page.url.split("/pictures/")[1].split("/")[0].split("?")[0]
        (take,) = page.request.get(f"{self.application.address}/api/pictures/{picture}/takes").json()
        size, chain = take["plan"]["size"], take["plan"]["chain"]
        place = f"{size['width'] // 2 - 5}_{size['height'] // 2 - 5}_10_10"
        content = page.request.get(f"{self.application.address}/api/takes/{take['id']}/cuts/{chain}/{place}.png").body()
        return float(cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR).mean())

    def test_dust_is_found_some_of_it_refused_the_rest_taken(self) -> None:
        page = self.page
        self.open_job("Tern Sands: catalogue and banner")
        page.get_by_label("Picture files").set_input_files(
            {"name": "sky.png", "mimeType": "image/png", "buffer": dusty()}
        )
        self.open_bench("sky.png")
        self.assertGreater(self.middle(), 240)
        page.get_by_role("button", name="add a step").click()
        page.get_by_text("patch", exact=True).first.click()
        steps = page.get_by_label("Steps")
        steps.get_by_role("button", name="Find dust").click()
        found = steps.get_by_label("What was found")
        expect(found.get_by_role("status")).to_contain_text("3 specks", timeout=60_000)
        places = page.get_by_role("button", name=re.compile("^Found place"))
        expect(places).to_have_count(3)
        # Nothing is changed until it is taken; one is refused, then wanted again.
        self.assertGreater(self.middle(), 240)
        places.first.click()
        expect(found.get_by_role("button", name="Take 2")).to_be_visible()
        places.first.click()
        found.get_by_role("button", name="Take 3").click()
        expect(steps.get_by_text("3 places")).to_be_visible()
        self.assertLess(self.middle(), 170)
        # One of them is made wider, and all of that is undone.
        patches = steps.get_by_label("Patches")
        patches.get_by_role("button", name="1 filled").click()
        patches.get_by_label("Width, px").fill("40")
        patches.get_by_label("Width, px").press("Enter")
        expect(patches.get_by_role("button", name="1 filled, 40 px")).to_be_visible()
        page.get_by_label("Undo").click()
        page.get_by_label("Undo").click()
        expect(steps.get_by_text("nothing painted yet")).to_be_visible()

    def test_a_blot_is_painted_over(self) -> None:
        page = self.page
        self.open_job("Tern Sands: catalogue and banner")
        page.get_by_label("Picture files").set_input_files(
            {"name": "awning.png", "mimeType": "image/png", "buffer": blotted()}
        )
        self.open_bench("awning.png")
        self.assertGreater(self.middle(), 250)
        page.get_by_role("button", name="add a step").click()
        page.get_by_text("patch", exact=True).first.click()
        steps = page.get_by_label("Steps")
        steps.get_by_role("button", name="Paint over").click()
        box = page.get_by_label("Paint the mask").bounding_box()
        assert box
        self.drag_on(
            "Paint the mask",
            (box["width"] / 2 - 3, box["height"] / 2),
            (box["width"] / 2 + 3, box["height"] / 2),
        )
        patches = steps.get_by_label("Patches")
        expect(patches.get_by_role("listitem")).to_have_count(1)
        self.assertLess(self.middle(), 160)
        patches.get_by_label("Patch 1 on").uncheck()
        expect(steps.get_by_text("0 places · 1 off")).to_be_visible()
        self.assertGreater(self.middle(), 250)
        patches.get_by_label("Patch 1 on").check()
        expect(steps.get_by_text("1 place", exact=True)).to_be_visible()
        # It takes from where one clicks: here from the blot itself, cloned.
        patches.get_by_role("button", name="1 mended").click()
        patches.get_by_role("group", name="Way of patch 1").get_by_role("button", name="Clone", exact=True).click()
        page.get_by_label("Where patch 1 takes from").click()
        layer = page.get_by_label("Pick where the patch takes from")
        layer.click(position={"x": box["width"] / 2 - 3, "y": box["height"] / 2})
        expect(layer).to_have_count(0)
        self.assertGreater(self.middle(), 240)
        page.get_by_label("Remove patch 1").click()
        expect(steps.get_by_text("nothing painted yet")).to_be_visible()
        page.get_by_label("Undo").click()
        expect(patches.get_by_role("listitem")).to_have_count(1)
