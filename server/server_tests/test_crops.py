from typing import Any

import numpy as np
import pyvips

from server_tests.base import CommittedTestCase


def with_a_thing(x: int, y: int) -> bytes:
    """A soft field with one red patch, as PNG."""
    random = np.random.default_rng(1)
    picture = np.full((240, 360, 3), 130.0) + random.normal(0, 2, (240, 360, 1))
    picture[y - 20 : y + 20, x - 20 : x + 20] = np.add((200, 40, 30), random.normal(0, 12, (40, 40, 1)))
    content: bytes = pyvips.Image.new_from_array(np.clip(picture, 0, 255).astype(np.uint8)).pngsave_buffer()
    return content


class CropsTest(CommittedTestCase):
    """Crops that are suggested lie in the picture, have the shape that was asked for, and hold what matters."""

    def crops(self, take: Any, ratio: float | None = None) -> list[dict[str, int]]:
        return [one["crop"] for one in self.send("post", f"/takes/{take.id}/crops", {"ratio": ratio}).json()]

    def test_they_hold_the_thing_in_the_wanted_shape(self) -> None:
        _, take = self.picture_and_take(with_a_thing(250, 90), [])
        for ratio in (1.0, 0.8, 1.5):
            found = self.crops(take, ratio)
            self.assertGreater(len(found), 1)
            for crop in found:
                self.assertLess(abs(crop["width"] - ratio * crop["height"]), 2)
                self.assertTrue(crop["x"] <= 230 and crop["x"] + crop["width"] >= 270, crop)
                self.assertTrue(crop["y"] <= 70 and crop["y"] + crop["height"] >= 110, crop)

    def test_they_follow_the_frame_and_pinned_spots(self) -> None:
        picture, take = self.picture_and_take(with_a_thing(250, 90), [{"kind": "frame", "turns": 1}])
        # Turned clockwise, what was at 250, 90 is at 150, 250 of 240 × 360.
        for crop in self.crops(take, 1.0):
            self.assertTrue(crop["x"] <= 150 <= crop["x"] + crop["width"] <= 240)
            self.assertTrue(crop["y"] <= 250 <= crop["y"] + crop["height"] <= 360)
        self.send("post", f"/pictures/{picture['id']}/spots", {"x": 20, "y": 120, "take_id": str(take.id)})
        self.assertGreater(len(self.crops(take)), 0)

    def test_only_for_ones_own_takes(self) -> None:
        _, take = self.picture_and_take(with_a_thing(250, 90), [])
        answer = self.send("post", f"/takes/{take.id}/crops", {}, self.as_stranger())
        self.assertEqual(answer.status_code, 404)
