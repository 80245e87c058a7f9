from typing import Any
from unittest import mock

import numpy as np
import pyvips

from cards.models import Card
from kitecore.masks.found import plane_of
from kitecore.masks.parts import Found
from kitecore.pipeline.run import Run
from kitecore.takes.finding import Look
from server_tests.base import CommittedTestCase
from takes.models import Take


def seaside() -> bytes:
    """A pale sky above rough ground, as PNG."""
    random = np.random.default_rng(2)
    picture = np.full((90, 120, 3), (120, 160, 210), np.float64) + random.normal(0, 1.5, (90, 120, 3))
    picture[55:] = np.add((30, 90, 60), random.normal(0, 24, (35, 120, 1)))
    content: bytes = pyvips.Image.new_from_array(np.clip(picture, 0, 255).astype(np.uint8)).pngsave_buffer()
    return content


class MasksTest(CommittedTestCase):
    """What parts of masks are about, found for people, and again where their cards are used."""

    def find(self, picture: dict[str, Any], **part: Any) -> Any:
        return self.send("post", f"/pictures/{picture['id']}/found", {"by": "found", **part})

    def test_a_sky_is_found_and_what_is_not_there_is_said(self) -> None:
        picture, _ = self.picture_and_take(seaside())
        found = self.find(picture, what="sky").json()
        plane = plane_of(found["plane"])
        rows = plane.mean(axis=1)
        self.assertGreater(rows[: int(0.55 * len(rows))].mean(), 0.95)
        self.assertLess(rows[int(0.68 * len(rows)) :].mean(), 0.05)
        answer = self.find(picture, what="skin")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Pick its colour", answer.json()["message"])
        stranger = self.send("post", f"/pictures/{picture['id']}/found", {"by": "found"}, self.as_stranger())
        self.assertEqual(stranger.status_code, 404)

    def test_how_far_a_search_is_can_be_asked_by_who_searches(self) -> None:
        picture, _ = self.picture_and_take(seaside())
        told: list[Any] = []

        def asked_half_way(look: Look, part: Found, run: Run) -> Found:
            run.progress(0.5)
            told.append(self.send("get", f"/pictures/{picture['id']}/found").json()["share"])
            told.append(self.send("get", f"/pictures/{picture['id']}/found", None, self.as_stranger()).json()["share"])
            return find(look, part, run)

        find = Look.find
        with mock.patch.object(Look, "find", asked_half_way):
            self.assertEqual(self.find(picture, what="sky").status_code, 200)
        self.assertEqual(told, [0.5, None])
        self.assertIsNone(self.send("get", f"/pictures/{picture['id']}/found").json()["share"])

    def test_single_hairs_along_a_rim_are_told_apart(self) -> None:
        truth = np.zeros((200, 200), np.float32)
        truth[60:, 50:150] = 1
        # Above a head, hairs thinner than a pixel with wall between them.
        truth[48:60, 50:150] = np.tile([0.6, 0.6, 0, 0], 25)
        random = np.random.default_rng(4)
        picture = (40 + 150 * (1 - truth[..., None]) + random.normal(0, 2, (200, 200, 1))) * np.ones(3)
        content: bytes = pyvips.Image.new_from_array(np.clip(picture, 0, 255).astype(np.uint8)).pngsave_buffer()
        made, _ = self.picture_and_take(content)
        strokes = [{"points": [[100, 190], [100, 90]], "size": 20, "softness": 0, "strength": 100, "erase": False}]
        errors = []
        for hair in (0, 6):
            answer = self.find(made, what="subject", box=[0.2, 0.15, 0.8, 1], hair=hair, hints=strokes)
            self.assertEqual(answer.status_code, 200, answer.content)
            plane = plane_of(answer.json()["plane"])
            self.assertEqual(plane.shape, truth.shape)
            errors.append(float(np.abs(plane - truth)[48:60, 50:150].mean()))
        self.assertLess(errors[1], 0.5 * errors[0])

    def test_a_card_finds_it_again_in_every_picture(self) -> None:
        _, take = self.picture_and_take(seaside())
        other, _ = self.picture_and_take(seaside())
        part = self.find({"id": str(take.picture_id)}, what="sky").json()
        step = {"kind": "tone", "ev": -1, "mask": {"parts": [part, {"by": "linear", "how": "meet"}]}}
        take.save_steps([step])
        card = self.send("post", "/cards", {"name": "darker sky", "take_id": str(take.id)}).json()
        kept = Card.objects.get(id=card["id"]).steps[0]["mask"]["parts"][0]
        self.assertEqual((kept["what"], kept["plane"]), ("sky", ""))
        made = self.send("post", f"/cards/{card['id']}/apply", {"pictures": [other["id"]], "strength": 60}).json()[0]
        tone = Take.objects.get(id=made["take_id"]).core.steps[-1]
        assert tone.mask is not None
        self.assertEqual(tone.model_dump()["ev"], -0.6)
        self.assertTrue(tone.mask.parts[0].model_dump()["plane"])
