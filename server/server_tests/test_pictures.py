import hashlib
import os
from unittest import mock
from urllib.parse import quote

from django.test import override_settings

from common.names import safe_name
from jobs.models import Job
from pictures.models import Original, Picture
from rendering.sources import sources
from server_tests.base import ServerTestCase, png_bytes


class UploadTest(ServerTestCase):
    def test_the_original_is_kept_byte_for_byte(self) -> None:
        content = png_bytes(bits=16)
        picture = self.upload(content).json()
        self.assertEqual(picture["sha256"], hashlib.sha256(content).hexdigest())
        self.assertEqual(
            (picture["facts"]["width"], picture["facts"]["height"], picture["facts"]["bits"]), (60, 40, 16)
        )
        (path,) = self.files("originals")
        self.assertEqual(path.read_bytes(), content)
        self.assertEqual(path.stat().st_mode & 0o222, 0, "nobody may write to it")
        self.assertEqual(self.files("incoming"), [])
        self.assertEqual(len(picture["takes"]), 1)

    def test_the_same_bytes_are_stored_once(self) -> None:
        other = Job.objects.create(owner=self.owner, title="Other")
        content = png_bytes()
        names = [self.upload(content, "a.png").json()["id"], self.upload(content, "b.png", other).json()["id"]]
        self.assertEqual(len(set(names)), 2)
        self.assertEqual((Original.objects.count(), Picture.objects.count()), (1, 2))
        self.assertEqual(len(self.files("originals")), 1)

    def test_what_cannot_be_used_gets_a_sentence_and_leaves_nothing(self) -> None:
        whole = png_bytes(200, 200)
        with mock.patch.dict(os.environ, {"KITE_MOST_MEGAPIXELS": "0.03"}):
            self.assertRegex(self.refused(whole, "huge.png", 413), "huge.png says it has 200 × 200 pixels")
        for content, name, said in (
            (b"", "empty.jpg", "empty.jpg is empty"),
            (b"<html></html>", "page.jpg", "page.jpg is not a picture"),
            (whole[: len(whole) // 2], "half.png", "half.png is damaged: it breaks off"),
            (whole[:30], "head.png", "head.png"),
        ):
            self.assertRegex(self.refused(content, name, 422), said)

    def test_a_damaged_file_is_taken_in_on_somebodys_word_and_is_called_so_ever_after(self) -> None:
        whole = png_bytes(200, 200)
        half = whole[: len(whole) * 2 // 3]
        answer = self.upload(half, "half.png")
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "damaged"))
        self.assertEqual(Picture.objects.count(), 0)
        answer = self.upload(half, "half.png", damaged=True)
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertRegex(answer.json()["facts"]["damaged"], "breaks off")
        picture = Picture.objects.get()
        with sources.of(picture) as source:
            self.assertRegex(source.facts.damaged or "", "breaks off")
            self.assertEqual(source.size.height, 200)

    def refused(self, content: bytes, name: str, status: int) -> str:
        answer = self.upload(content, name)
        self.assertEqual(answer.status_code, status, answer.content)
        self.assertEqual((Original.objects.count(), Picture.objects.count()), (0, 0))
        self.assertEqual([path for folder in ("incoming", "originals", "previews") for path in self.files(folder)], [])
        return answer.json()["message"]

    def test_names_lose_their_folders_and_nothing_else(self) -> None:
        for given, kept in (
            ("../../etc/passwd.png", "passwd.png"),
            ("C:\\kites\\wall.png", "wall.png"),
            ("Wände & Möwen.png", "Wände & Möwen.png"),
            ("a\x00b\n.png", "ab.png"),
            ("....", "picture"),
            ("/", "picture"),
            ("x" * 300 + ".png", "x" * 197 + ".png"),
        ):
            with self.subTest(given=given):
                self.assertEqual(safe_name(given, "picture"), kept)
                self.assertEqual(self.upload(png_bytes(), quote(given)).json()["name"], kept)

    @override_settings(MOST_UPLOAD_BYTES=1000)
    def test_more_bytes_than_allowed(self) -> None:
        self.assertIn("larger than", self.refused(png_bytes(), "big.png", 413))

    def test_a_full_disk(self) -> None:
        with mock.patch("intake.receiving.os.fsync", side_effect=OSError(28, "No space left on device")):
            self.assertIn(
                "The disk is full; wall.png could not be taken in", self.refused(png_bytes(), "wall.png", 507)
            )

    def test_taken_out_and_brought_back(self) -> None:
        picture = self.upload(png_bytes()).json()
        self.assertEqual(self.send("delete", f"/pictures/{picture['id']}").status_code, 204)
        self.assertEqual(self.send("get", f"/jobs/{self.job.id}/pictures").json(), [])
        self.assertEqual(len(self.files("originals")), 1, "the original stays")
        self.send("post", f"/pictures/{picture['id']}/restore")
        self.assertEqual(len(self.send("get", f"/jobs/{self.job.id}/pictures").json()), 1)

    def test_preview_is_small_and_shown_only_to_its_owner(self) -> None:
        picture = self.upload(png_bytes(1500, 900)).json()
        answer = self.client.get(f"/api/pictures/{picture['id']}/preview")
        import pyvips

        image = pyvips.Image.new_from_buffer(answer.content, "")
        self.assertEqual((image.width, image.height), (640, 384))
