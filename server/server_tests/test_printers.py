"""Printers: the one that ships, one that is brought, and proofs of a take for both."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyvips

from kitecore.colour.icc import srgb_profile
from kitecore.colour.soft_proof import MADE_UP, Proof, printer_of, proof_image
from server_tests.base import CommittedTestCase, plain, png_bytes


def flat_png(*halves: tuple[int, int, int]) -> bytes:
    """A PNG of 40×20 px for each colour, side by side."""
    samples = np.concatenate([np.full((20, 40, 3), one, np.uint8) for one in halves], axis=1)
    image = pyvips.Image.new_from_memory(samples.tobytes(), samples.shape[1], 20, 3, "uchar")
    content: bytes = image.copy(interpretation="srgb").pngsave_buffer()
    return content


class PrintersTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        _, self.take = self.picture_and_take(flat_png((128, 128, 128), (0, 255, 0)), [plain(1)])

    def bring(self, content: bytes) -> Any:
        return self.client.generic("POST", "/api/printers", content, content_type="application/octet-stream")

    def tile(self, **show: object) -> np.ndarray:
        query = "&".join(f"{name}={value}" for name, value in show.items())
        chain = self.take.plan().chain
        answer = self.client.get(f"/api/takes/{self.take.id}/tiles/{chain}/0/0_0.png?{query}")
        self.assertEqual(answer.status_code, 200, answer.content)
        return np.asarray(pyvips.Image.new_from_buffer(answer.content, "").numpy())

    def test_a_proof_shows_what_the_core_computes(self) -> None:
        printer = printer_of(MADE_UP.read_bytes())
        pixels = np.concatenate([np.full((20, 40, 3), one, np.float32) for one in (128 / 255, (0, 1, 0))], axis=1)
        for intent, paper, warn in (("relative", False, False), ("perceptual", True, False), ("relative", False, True)):
            expected = proof_image(pixels, None, printer, Proof(intent, True, paper, warn)).numpy()
            shown = self.tile(show="proof", printer="made-up", intent=intent, paper=paper, warn=warn)
            np.testing.assert_array_equal(shown, expected)

    def test_the_share_outside_the_gamut(self) -> None:
        answer = self.client.get(f"/api/takes/{self.take.id}/gamut?printer=made-up").json()
        self.assertEqual(answer, {"outside": 0.5})

    def test_a_brought_printer_is_its_owners_alone(self) -> None:
        made = self.bring(MADE_UP.read_bytes()).json()
        self.assertEqual((made["name"], made["channels"]), ("Matte cotton, a made-up printer", 4))
        self.assertEqual(self.bring(MADE_UP.read_bytes()).json()["id"], made["id"])
        self.assertEqual([one["id"] for one in self.client.get("/api/printers").json()], ["made-up", made["id"]])
        answer = self.client.get(f"/api/takes/{self.take.id}/gamut?printer={made['id']}")
        self.assertEqual(answer.json(), {"outside": 0.5})
        stranger = self.as_stranger()
        self.assertEqual([one["id"] for one in stranger.get("/api/printers").json()], ["made-up"])
        self.assertEqual(stranger.delete(f"/api/printers/{made['id']}").status_code, 404)
        self.assertEqual(self.client.delete(f"/api/printers/{made['id']}").status_code, 204)
        gone = self.client.get(f"/api/takes/{self.take.id}/gamut?printer={made['id']}")
        self.assertEqual(gone.status_code, 404)
        self.assertEqual(self.bring(MADE_UP.read_bytes()).json()["id"], made["id"], "and it can come back")

    def test_what_is_no_printer_is_refused_with_a_sentence(self) -> None:
        for content in (png_bytes(), srgb_profile()):
            answer = self.bring(content)
            self.assertEqual(answer.status_code, 422)
            self.assertIn("profile", answer.json()["message"])
        answer = self.client.get(f"/api/takes/{self.take.id}/gamut?printer=nothing")
        self.assertEqual(answer.status_code, 400)
