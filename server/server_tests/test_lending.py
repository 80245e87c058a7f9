"""Faces that can lend their detail: those the reading found, cut out upright, for whom the picture belongs to."""

from __future__ import annotations

import pyvips
import skimage.data

from kitecore.faces.mesh import mesh_of
from kitecore.faces.reference import square_of
from kitecore.faces.square import FaceSquare
from kitecore.pipeline.geometry import Place
from kitecore.steps.base import history
from readings.tasks import read
from server_tests.base import CommittedTestCase, png_bytes
from takes.models import Take


def portrait() -> bytes:
    content: bytes = pyvips.Image.new_from_array(skimage.data.astronaut()[0:300, 80:380]).pngsave_buffer()
    return content


class LendingTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(portrait(), [])
        self.path = f"/pictures/{self.picture['id']}/faces"

    def test_faces_are_told_once_the_picture_has_been_read(self) -> None:
        self.assertEqual(self.send("get", self.path).json(), {"read": False, "faces": []})
        read.func(self.picture["sha256"])
        told = self.send("get", self.path).json()
        self.assertTrue(told["read"])
        self.assertEqual(len(told["faces"]), 1)
        square = square_of(told["faces"][0]["square"])
        middle = FaceSquare(Place(square.shape[0] / 2, square.shape[0] / 2), square.shape[0], 0.0)
        self.assertGreater(mesh_of(square, middle).sure, 0.9)
        step = {
            "kind": "faces",
            "faces": [{
                "eyes": [[130, 100], [160, 100]], "mouth": [145, 135],
                "reference": {"square": told["faces"][0]["square"], "name": "Wren.png"},
            }],
        }  # fmt: skip
        saved = self.send("put", f"/takes/{self.take.id}", {"steps": [step]})
        self.assertEqual(saved.status_code, 200)
        self.assertIn("taken from “Wren.png”", " ".join(history(list(Take.objects.get(id=self.take.id).core.steps))))

    def test_a_picture_without_faces_has_none_and_strangers_are_told_nothing(self) -> None:
        wall, _ = self.picture_and_take(png_bytes(200, 150), [])
        read.func(wall["sha256"])
        self.assertEqual(self.send("get", f"/pictures/{wall['id']}/faces").json(), {"read": True, "faces": []})
        self.assertEqual(self.send("get", self.path, client=self.as_stranger()).status_code, 404)

    def test_what_is_no_square_is_refused_in_words(self) -> None:
        face = {"eyes": [[1, 1], [9, 1]], "mouth": [5, 9], "reference": {"square": "aGVsbG8=", "name": "x"}}
        answer = self.send("put", f"/takes/{self.take.id}", {"steps": [{"kind": "faces", "faces": [face]}]})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("JPEG", answer.json()["message"])
