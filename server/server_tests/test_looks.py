from typing import Any

import numpy as np
import pyvips

from server_tests.base import CommittedTestCase, plain
from takes.models import Take


def decoded(content: bytes) -> Any:
    return pyvips.Image.new_from_buffer(content, "").numpy()


class LooksTest(CommittedTestCase):
    """Ways of looking at a tile, against what they say they show."""

    def setUp(self) -> None:
        super().setUp()
        self.steps = [{"kind": "sharpen", "on": True}, {"kind": "grain", "on": True}]
        self.picture, self.take = self.picture_and_take(steps=self.steps)

    def tile(self, query: str = "", take: Take | None = None) -> Any:
        take = take or self.take
        return self.client.get(f"/api/takes/{take.id}/tiles/{take.plan().chain}/0/0_0.png{query}")

    def other(self, *steps: dict[str, Any]) -> Take:
        made = self.send("post", f"/pictures/{self.picture['id']}/takes", {"steps": steps}).json()
        return Take.objects.get(id=made["id"])

    def test_the_difference_from_the_same_steps_is_nothing(self) -> None:
        same = self.other(*self.steps)
        shown = decoded(self.tile(f"?show=difference&against={same.id}").content)
        self.assertEqual(len(np.unique(shown)), 1)
        changed = decoded(self.tile("?show=difference&against=original").content)
        self.assertGreater(len(np.unique(changed)), 10)

    def test_more_gain_shows_the_same_difference_stronger(self) -> None:
        spread = [decoded(self.tile(f"?show=difference&gain={gain}").content).std() for gain in (1, 4, 16)]
        self.assertEqual(spread, sorted(spread))
        self.assertGreater(spread[1], 1.5 * spread[0])

    def test_takes_that_are_framed_differently_are_not_laid_on_each_other(self) -> None:
        crop = {"x": 5, "y": 5, "width": 20, "height": 20}
        framed = self.other({"kind": "frame", "on": True, "crop": crop})
        answer = self.tile(f"?show=difference&against={framed.id}")
        self.assertEqual((answer.status_code, answer.json()["code"]), (400, "refused"))
        self.assertIn("framed differently", answer.json()["message"])

    def test_a_stranger_is_not_even_told_that_it_is_there(self) -> None:
        address = f"/api/takes/{self.take.id}/tiles/{self.take.plan().chain}/0/0_0.png"
        self.assertEqual(self.as_stranger().get(address).status_code, 404)

    def test_a_mask_of_a_step_that_is_not_there_is_not_found(self) -> None:
        self.assertEqual(self.tile("?show=mask&step=1").status_code, 200)
        self.assertEqual(self.tile("?show=mask&step=2").status_code, 404)
        earlier = self.take.plan().until(1).chain
        address = f"/api/takes/{self.take.id}/tiles/{earlier}/0/0_0.png?show=mask&step="
        self.assertEqual([self.client.get(f"{address}{step}").status_code for step in (0, 1)], [200, 404])

    def test_a_step_that_works_everywhere_has_an_even_mask(self) -> None:
        even = pyvips.Image.black(60, 40, bands=3) + 128
        _, take = self.picture_and_take(even.cast("uchar").pngsave_buffer(), [{"kind": "sharpen", "on": True}])
        masked = decoded(self.tile("?show=mask&step=0", take).content)
        self.assertEqual(len(np.unique(masked.reshape(-1, masked.shape[2]), axis=0)), 1)

    def test_clipping_leaves_what_is_not_clipped(self) -> None:
        _, take = self.picture_and_take(steps=[])
        shown = decoded(self.tile("?show=clipping", take).content)
        self.assertEqual(shown.shape[:2], (40, 60))

    def test_a_part_of_a_view_shows_what_its_tiles_show(self) -> None:
        _, take = self.picture_and_take(steps=self.steps)
        for query in ("", "?show=clipping", "?show=difference&gain=9", "?show=mask&step=1"):
            with self.subTest(query):
                address = f"/api/takes/{take.id}/cuts/{take.plan().chain}/16_8_40_24.png{query}"
                part = decoded(self.client.get(address).content)
                np.testing.assert_array_equal(part, decoded(self.tile(query, take).content)[8:32, 16:56])

    def test_what_cannot_be_asked_for_is_refused_in_words(self) -> None:
        for query in ("?show=thermal", "?show=difference&gain=900", "?show=mask&step=-1", "?show=difference&against=x"):
            with self.subTest(query):
                answer = self.tile(query)
                self.assertEqual(answer.status_code, 422)
                self.assertTrue(answer.json()["message"])

    def test_proofs_differ_by_what_is_asked_of_them(self) -> None:
        plainly = self.tile("?show=proof").content
        paper = self.tile("?show=proof&paper=true").content
        warned = self.tile("?show=proof&warn=true").content
        self.assertEqual(len({plainly, paper, warned}), 3)

    def test_a_printer_that_is_not_there_is_not_found(self) -> None:
        self.assertEqual(self.tile("?show=proof&printer=00000000-0000-0000-0000-000000000000").status_code, 404)

    def test_enlarged_the_original_is_enlarged_with_it(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        shown = decoded(self.tile("?show=difference", take).content)
        self.assertEqual(shown.shape[:2], (80, 120))
        self.assertEqual(len(np.unique(shown)), 1, "a plain enlargement differs from the plain enlargement by nothing")
