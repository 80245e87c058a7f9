"""A take made elsewhere: aligned, shown pixel for pixel, a row like any other, without steps; another picture is refused."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from PIL import Image

from pictures.models import Original, Picture
from reports.models import Report
from reports.tasks import report
from server_tests.base import CommittedTestCase, Fixture, ServerTestCase, plain
from takes.models import Take


def scene(seed: int = 3) -> Image.Image:
    """Blobs and strokes at random places: something that can be recognised."""
    random = np.random.default_rng(seed)
    samples = np.full((150, 200, 3), 120.0)
    y, x = np.mgrid[0:150, 0:200]
    for _ in range(70):
        middle, reach = random.uniform(0, 1, 2) * (150, 200), random.uniform(2, 9)
        inside = (y - middle[0]) ** 2 + (x - middle[1]) ** 2 * random.uniform(0.4, 2) < reach**2
        samples[inside] = random.uniform(0, 255, 3)
    return Image.fromarray(samples.astype(np.uint8))


def png(image: Image.Image) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, "PNG")
    return buffer.getvalue()


class _WithPicture(Fixture):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(png(scene()), steps=[plain(2)])
        self.large = scene().resize((600, 450), Image.Resampling.BICUBIC)

    def bring(self, content: bytes, name: str = "from the lab.png", client: Any = None) -> Any:
        return (client or self.client).generic(
            "POST", f"/api/pictures/{self.picture['id']}/outside?name={name}", content, "application/octet-stream"
        )

    def brought(self) -> dict[str, Any]:
        answer = self.bring(png(self.large))
        self.assertEqual(answer.status_code, 201, answer.content)
        made: dict[str, Any] = answer.json()
        return made


class OutsideTest(_WithPicture, ServerTestCase):
    def test_its_fidelity_is_measured(self) -> None:
        made = self.brought()
        self.send("post", f"/takes/{made['id']}/report")
        report.func(str(Report.objects.get().id))
        told = self.send("get", f"/takes/{made['id']}/report").json()
        self.assertEqual((told["state"], told["message"]), ("done", ""))

    def test_it_has_no_steps_to_change_and_nothing_to_deliver(self) -> None:
        made = self.brought()
        for method, path, body in (
            ("put", f"/takes/{made['id']}", {"steps": [plain(2)]}),
            ("post", f"/takes/{made['id']}/deliveries", {"spec": {"format": "png"}}),
            ("post", f"/takes/{made['id']}/engines", {"engines": ["plain"]}),
        ):
            answer = self.send(method, path, body)
            self.assertEqual(answer.status_code, 400, path)
            self.assertTrue(answer.json()["message"])
        self.assertEqual(self.send("get", f"/takes/{made['id']}").json()["steps"], [])

    def test_another_picture_is_refused_and_nothing_of_it_remains(self) -> None:
        answer = self.bring(png(scene(8).resize((600, 450))), "other.png")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("other.png does not show the same picture as wall.png", answer.json()["message"])
        self.assertEqual(self.bring(b"no picture at all", "notes.txt").status_code, 422)
        self.assertEqual(Take.objects.count(), 1)
        self.assertEqual(Original.objects.count(), 1)
        self.assertEqual(len(self.files("originals")), 1)
        self.assertEqual(self.files("incoming"), [])

    def test_it_is_discarded_and_brought_back(self) -> None:
        made = self.brought()
        self.send("delete", f"/takes/{made['id']}")
        self.assertEqual(len(self.send("get", f"/pictures/{self.picture['id']}/takes").json()), 1)
        self.assertEqual(self.send("post", f"/takes/{made['id']}/restore").json()["outside"], "from the lab.png")

    def test_others_cannot_bring_one(self) -> None:
        self.assertEqual(self.bring(png(self.large), client=self.as_stranger()).status_code, 404)
        self.assertEqual(Picture.objects.count(), 1)


class OutsideSeenTest(_WithPicture, CommittedTestCase):
    def test_it_is_a_row_with_its_own_pixels(self) -> None:
        made = self.brought()
        self.assertEqual((made["name"], made["outside"], made["steps"]), ("from the lab", "from the lab.png", []))
        self.assertEqual(made["plan"]["size"], {"width": 600, "height": 450})
        rows = self.send("get", f"/pictures/{self.picture['id']}/takes").json()
        self.assertEqual([row["name"] for row in rows], ["A", "from the lab"])
        chain = made["plan"]["chain"]
        cut = self.client.get(f"/api/takes/{made['id']}/cuts/{chain}/40_30_200_160.png")
        shown = np.asarray(Image.open(io.BytesIO(cut.content)).convert("RGB"))
        np.testing.assert_array_equal(shown, np.asarray(self.large)[30:190, 40:240])

    def test_spots_difference_and_pixels_are_told_in_it(self) -> None:
        made = self.brought()
        spots = self.send("post", f"/pictures/{self.picture['id']}/spots", {"x": 50, "y": 40}).json()
        self.assertEqual(spots[0]["places"][made["id"]], {"x": 150.0, "y": 120.0})
        chain = made["plan"]["chain"]
        address = f"/api/takes/{made['id']}/tiles/{chain}/0/0_0.png?show=difference&against={self.take.id}"
        self.assertEqual(self.client.get(address).status_code, 200)
        pixel = self.send("get", f"/takes/{made['id']}/pixel?x=100&y=90").json()
        self.assertEqual([round(value / 257) for value in pixel["result"]], list(self.large.getpixel((100, 90))))
