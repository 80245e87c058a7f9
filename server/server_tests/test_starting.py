from typing import Any

import numpy as np
import pyvips

from server_tests.base import CommittedTestCase


class StartingTest(CommittedTestCase):
    """What a step would begin with, by what it is given."""

    def on(self, *steps: dict[str, Any]) -> str:
        _, take = self.picture_and_take(steps=list(steps))
        return f"/takes/{take.id}/steps"

    def start(self, address: str, index: int, place: dict[str, float] | None = None) -> Any:
        return self.send("post", f"{address}/{index}/start", {"place": place})

    def test_a_flat_picture_is_given_black_and_white(self) -> None:
        # Levels before it take black and white away.
        flat = {"kind": "curves", "darkest": 0.2, "lightest": 0.7}
        address = self.on(flat, {"kind": "tone", "ev": 0.5}, {"kind": "curves"})
        answer = self.start(address, 2).json()
        self.assertEqual(answer["step"]["kind"], "curves")
        self.assertGreater(answer["step"]["black"], 0.19)
        self.assertLess(self.start(address, 1).json()["step"]["black"], -60)
        self.assertIn("instead of black", " ".join(self.start(address, 1).json()["reasons"]))

    def test_a_place_that_should_be_grey_becomes_grey(self) -> None:
        yellowish = np.full((40, 60, 3), (150, 140, 100), np.uint8)
        content = pyvips.Image.new_from_array(yellowish).pngsave_buffer()
        _, take = self.picture_and_take(content, [{"kind": "tone", "ev": 0.3}, {"kind": "colour"}])
        found = self.start(f"/takes/{take.id}/steps", 1, {"x": 20, "y": 20}).json()["step"]
        self.assertLess(found["temperature"], -10)
        self.send("put", f"/takes/{take.id}", {"steps": [{"kind": "tone", "ev": 0.3}, found]})
        pixel = self.client.get(f"/api/takes/{take.id}/pixel?x=20&y=20").json()["result"]
        # Settings are kept to a tenth.
        self.assertLess(np.ptp(pixel), 60)

    def test_the_colour_of_a_place_is_told(self) -> None:
        red = pyvips.Image.new_from_array(np.full((40, 60, 3), (255, 0, 0), np.uint8)).pngsave_buffer()
        _, take = self.picture_and_take(red, [{"kind": "colour", "saturation": -100}, {"kind": "colour"}])
        address = f"/api/takes/{take.id}/steps/1/colour?x=9&y=9"
        np.testing.assert_allclose(self.client.get(f"{address}&original=true").json()["hue"], 29.2, atol=0.5)
        grey = self.client.get(address).json()["oklab"]
        np.testing.assert_allclose(grey, [0.628, 0, 0], atol=2e-3)

    def test_tones_are_those_that_the_step_is_given(self) -> None:
        address = self.on({"kind": "tone", "ev": -3}, {"kind": "curves"}, {"kind": "tone", "ev": 3})
        before = self.client.get(f"/api{address}/0/tones").json()["counts"][0]
        given = self.client.get(f"/api{address}/1/tones").json()["counts"][0]
        self.assertGreater(sum(given[:100]), sum(before[:100]))

    def test_how_far_faces_depart_is_told_of_those_that_are_restored(self) -> None:
        face = {"eyes": [[24, 24], [36, 24]], "mouth": [30, 38]}
        step = {"kind": "faces", "strength": 100, "faces": [face, {**face, "on": False}]}
        address = self.on({"kind": "tone", "on": False}, step, {"kind": "grain"})
        departed, left = self.client.get(f"/api{address}/1/departures").json()
        self.assertGreater(departed, 0)
        self.assertIsNone(left)
        refused = self.client.get(f"/api{address}/2/departures")
        self.assertEqual((refused.status_code, refused.json()["message"]), (400, "This step has no faces."))
        self.assertEqual(self.as_stranger().get(f"/api{address}/1/departures").status_code, 404)

    def test_what_cannot_be_is_said(self) -> None:
        address = self.on({"kind": "tone"}, {"kind": "grain"})
        for index, place in ((1, None), (0, {"x": 3, "y": 3}), (7, None)):
            answer = self.start(address, index, place)
            self.assertEqual(answer.status_code, 400, answer.content)
            self.assertTrue(answer.json()["message"].endswith("."))
        self.assertEqual(self.as_stranger().get(f"/api{address}/0/tones").status_code, 404)

    def test_a_place_that_was_cut_off_is_refused(self) -> None:
        crop = {"x": 0, "y": 0, "width": 20, "height": 20}
        address = self.on({"kind": "frame", "crop": crop}, {"kind": "colour"})
        self.assertIn("cut off", self.start(address, 1, {"x": 30, "y": 30}).json()["message"])

    def test_what_is_dragged_is_seen_whole_and_small(self) -> None:
        grey = pyvips.Image.new_from_array(np.full((900, 1400, 3), 100, np.uint8)).pngsave_buffer()
        _, take = self.picture_and_take(grey, [])

        def live(*steps: dict[str, Any], **wanted: Any) -> Any:
            return self.send("post", f"/takes/{take.id}/live", {"steps": list(steps), **wanted})

        seen = pyvips.Image.new_from_buffer(live({"kind": "tone", "ev": 1}).content, "").numpy()
        # A third: the first level that fits.
        self.assertEqual(seen.shape[:2], (300, 467))
        np.testing.assert_allclose(seen, 138, atol=2)
        white = live({"kind": "curves", "white": 0.3}, stripes=True)
        striped = pyvips.Image.new_from_buffer(white.content, "").numpy()[..., 0]
        self.assertEqual(set(np.unique(striped).tolist()), {0, 255})
        self.assertEqual(take.core.steps, [])
        stranger = self.send("post", f"/takes/{take.id}/live", {"steps": []}, self.as_stranger())
        self.assertEqual(stranger.status_code, 404)
