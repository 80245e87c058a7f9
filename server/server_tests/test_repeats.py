"""How textures repeat, told through the server, and what is made of it."""

from __future__ import annotations

import numpy as np
import pyvips

from core_tests.filters.test_seamless import HEIGHT, WIDTH, cloth, gravel, lit
from server_tests.base import CommittedTestCase


def png(texture: np.ndarray) -> bytes:
    content: bytes = pyvips.Image.new_from_array(np.rint(255 * texture).astype(np.uint8)).pngsave_buffer()
    return content


class RepeatsTest(CommittedTestCase):
    def test_a_period_is_told_and_what_does_not_repeat_is_laid_over_itself(self) -> None:
        steps = [{"kind": "frame"}, {"kind": "seamless"}]
        _, woven = self.picture_and_take(png(lit(cloth(23.4, 17.7))), steps=steps)
        found = self.send("get", f"/takes/{woven.id}/steps/1/repeats").json()
        self.assertLess(abs(found["across"]["period"] - 23.4), 0.1)
        self.assertLess(abs(found["down"]["period"] - 17.7), 0.1)
        self.assertLessEqual(found["across"]["whole"], WIDTH)
        _, stones = self.picture_and_take(png(gravel()), steps=steps)
        told = self.send("get", f"/takes/{stones.id}/steps/1/repeats").json()
        self.assertEqual((told["across"]["period"], told["down"]["whole"]), (None, HEIGHT))
        over = {"across": told["across"]["overlap"], "down": told["down"]["overlap"]}
        saved = self.send("put", f"/takes/{stones.id}", {"steps": [steps[0], {**steps[1], **over}]}).json()
        self.assertEqual(saved["plan"]["size"]["width"], WIDTH - round(WIDTH * over["across"] / 100))

    def test_what_is_not_there_and_what_is_not_ones_own(self) -> None:
        _, take = self.picture_and_take(steps=[{"kind": "frame"}])
        path = f"/takes/{take.id}/steps/3/repeats"
        self.assertEqual(self.send("get", path).status_code, 400)
        self.assertEqual(self.send("get", path, None, self.as_stranger()).status_code, 404)
