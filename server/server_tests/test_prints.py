"""The print planner over the API: the framed picture counts, other people's does not."""

from __future__ import annotations

from server_tests.base import ServerTestCase, plain, png_bytes

FRAME = {"kind": "frame", "crop": {"x": 0, "y": 0, "width": 200, "height": 300}}


class PrintsTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        _, self.take = self.picture_and_take(png_bytes(400, 300), [FRAME, plain(2)])

    def test_sizes_are_told_for_what_is_inside_the_frame(self) -> None:
        told = self.send("get", f"/takes/{self.take.id}/prints?paper=matte&distance_cm=50").json()
        self.assertEqual((told["width"], told["height"]), (200, 300))
        self.assertIsNone(told["free"])
        four = next(one for one in told["standard"] if one["size"]["name"] == "A4")
        self.assertEqual(four["distance_cm"], 50)
        self.assertLess(four["size"]["width"], four["size"]["height"], "upright as the crop is")
        self.assertEqual(four["verdict"], "with ×8")
        self.assertIn("canvas", [paper["name"] for paper in told["papers"]])

    def test_a_free_size_in_inches(self) -> None:
        told = self.send("get", f"/takes/{self.take.id}/prints?width=3&height=2&unit=in&distance_cm=100").json()
        self.assertEqual((told["free"]["size"]["width"], told["free"]["size"]["height"]), (2, 3))
        self.assertEqual(told["free"]["verdict"], "as it stands")

    def test_what_cannot_be_is_refused_with_a_sentence(self) -> None:
        border = self.send("get", f"/takes/{self.take.id}/prints?width=3&height=2&border_mm=20")
        self.assertEqual(border.status_code, 422)
        self.assertIn("leaves nothing", border.json()["message"])
        paper = self.send("get", f"/takes/{self.take.id}/prints?paper=silk")
        self.assertEqual(paper.status_code, 422)
        other = self.send("get", f"/takes/{self.take.id}/prints", client=self.as_stranger())
        self.assertEqual(other.status_code, 404)

    def test_the_papers_sharpening_is_a_step(self) -> None:
        matte, gloss = (
            self.send("get", f"/paper-sharpening?paper={paper}&ppi=300").json() for paper in ("matte", "gloss")
        )
        self.assertEqual(matte["kind"], "sharpen")
        self.assertGreater(matte["amount"], gloss["amount"])
        saved = self.send("put", f"/takes/{self.take.id}", {"steps": [FRAME, plain(2), matte]})
        self.assertEqual(saved.status_code, 200)
