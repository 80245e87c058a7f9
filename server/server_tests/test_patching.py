"""Patches through the server: where they take from, and what they make."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
import pyvips

from server_tests.base import CommittedTestCase


def repeating() -> bytes:
    """A texture that comes again every 40 px, spoilt in one place, as PNG."""
    random = np.random.default_rng(3)
    samples = np.tile(random.integers(60, 200, (40, 40, 3)), (5, 6, 1)).astype(np.uint8)
    samples[98:104, 118:124] = 255
    content: bytes = pyvips.Image.new_from_array(samples).pngsave_buffer()
    return content


STROKE = {"points": [[121, 101]], "size": 12, "softness": 10}


class PatchingTest(CommittedTestCase):
    def source_of(self, take: Any, stroke: dict[str, Any], index: int = 1, client: Any = None) -> Any:
        return self.send("post", f"/takes/{take.id}/steps/{index}/patch-source", {"stroke": stroke}, client)

    def test_the_nearest_place_that_is_alike_is_found_under_any_frame(self) -> None:
        for frame in ({"kind": "frame"}, {"kind": "frame", "turns": 1, "flip": True}):
            with self.subTest(frame):
                _, take = self.picture_and_take(repeating(), steps=[frame, {"kind": "patch"}])
                found = self.source_of(take, STROKE).json()
                self.assertTrue(found["alike"])
                self.assertEqual(sorted((abs(found["x"]), abs(found["y"]))), [0, 40])
                patch = {"stroke": STROKE, "x": found["x"], "y": found["y"]}
                saved = self.send("put", f"/takes/{take.id}", {"steps": [frame, {"kind": "patch", "patches": [patch]}]})
                self.assertEqual(saved.status_code, 200, saved.content)

    def test_it_takes_from_nothing_that_is_spoilt_as_well(self) -> None:
        others = [{"stroke": {**STROKE, "points": [[x, 101]]}} for x in (81, 161)]
        _, take = self.picture_and_take(repeating(), steps=[{"kind": "frame"}, {"kind": "patch", "patches": others}])
        found = self.source_of(take, STROKE).json()
        self.assertEqual((found["x"], abs(found["y"])), (0, 40))

    def test_where_nothing_is_alike_it_lies_beside(self) -> None:
        _, take = self.picture_and_take(steps=[{"kind": "frame"}, {"kind": "patch"}])
        all_of_it = {"points": [[0, 0], [59, 39]], "size": 90, "softness": 0}
        self.assertEqual(self.source_of(take, all_of_it).json(), {"x": 135, "y": 0, "alike": False})

    def test_what_cannot_be_is_refused(self) -> None:
        _, take = self.picture_and_take(repeating(), steps=[{"kind": "frame"}, {"kind": "patch"}])
        self.assertIn("patches nothing", self.source_of(take, STROKE, 0).json()["message"])
        outside = self.source_of(take, {**STROKE, "points": [[-500, 3]]})
        self.assertIn("outside", outside.json()["message"])
        self.assertEqual(self.source_of(take, STROKE, client=self.as_stranger()).status_code, 404)


def dusty() -> bytes:
    """A calm picture with a bright speck and a dark scratch on it, as PNG."""
    random = np.random.default_rng(5)
    samples = cv2.GaussianBlur(random.uniform(60, 190, (240, 320, 3)).astype(np.float32), (0, 0), 14)
    samples = 120 + 4 * (samples - samples.mean()) + random.normal(0, 2, samples.shape)
    cv2.ellipse(samples, (80, 60), (4, 3), 20, 0, 360, (250, 250, 245), -1)
    cv2.line(samples, (180, 60), (260, 190), (15, 15, 15), 2, cv2.LINE_AA)
    content: bytes = pyvips.Image.new_from_array(np.clip(samples, 0, 255).astype(np.uint8)).pngsave_buffer()
    return content


class BlemishesTest(CommittedTestCase):
    def find(self, take: Any, client: Any = None, index: int = 1) -> Any:
        return self.send("post", f"/takes/{take.id}/steps/{index}/blemishes", client=client)

    def test_dust_is_proposed_in_places_of_the_source_and_taken_as_it_is(self) -> None:
        for frame in (
            {"kind": "frame"},
            {"kind": "frame", "turns": 1, "crop": {"x": 10, "y": 20, "width": 220, "height": 290}},
        ):
            with self.subTest(frame):
                _, take = self.picture_and_take(dusty(), steps=[frame, {"kind": "patch"}])
                found = self.find(take).json()
                middles = [np.mean(one["patch"]["stroke"]["points"], axis=0) for one in found]
                for place in ((80, 60), (220, 125)):
                    self.assertLess(min(np.hypot(*(middle - place)) for middle in middles), 25, (place, middles))
                self.assertEqual([one["sure"] for one in found], sorted((one["sure"] for one in found), reverse=True))
                patches = [one["patch"] for one in found]
                saved = self.send("put", f"/takes/{take.id}", {"steps": [frame, {"kind": "patch", "patches": patches}]})
                self.assertEqual(saved.status_code, 200, saved.content)
                # What is covered is not proposed again.
                take.refresh_from_db()
                self.assertEqual(self.find(take).json(), [])

    def test_only_a_step_that_patches_looks_for_it_and_only_for_its_owner(self) -> None:
        _, take = self.picture_and_take(dusty(), steps=[{"kind": "frame"}, {"kind": "patch"}])
        self.assertIn("patches nothing", self.find(take, index=0).json()["message"])
        self.assertEqual(self.find(take, self.as_stranger()).status_code, 404)
        self.assertIsNone(self.send("get", f"/takes/{take.id}/steps/1/blemishes").json()["share"])
