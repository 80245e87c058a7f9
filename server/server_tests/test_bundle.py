"""A bundle holds every finished file, byte for byte, with checksums and a ledger that tells what was done."""

from __future__ import annotations

import hashlib
import io
import json
from zipfile import ZipFile

import pyvips
from asgiref.sync import async_to_sync
from django.conf import settings
from django.http import StreamingHttpResponse

from common.background import State
from deliveries.models import Delivery
from deliveries.tasks import deliver
from reports.models import Report
from reports.tasks import report
from server_tests.base import ServerTestCase, plain, png_bytes
from takes.models import Take


class BundleTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(png_bytes(64, 48))

    def delivered(self, *steps: dict, **spec: object) -> Delivery:
        self.take.save_steps(list(steps))
        made = self.send("post", f"/takes/{self.take.id}/deliveries", {"spec": spec}).json()
        deliver.func(made["id"])
        return Delivery.objects.get(id=made["id"])

    def bundle(self) -> ZipFile:
        answer = self.client.get(f"/api/jobs/{self.job.id}/bundle")
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(answer["Content-Disposition"], 'attachment; filename="Harbour.zip"')

        async def received(answer: StreamingHttpResponse) -> bytes:
            return b"".join([part async for part in answer.streaming_content])

        return ZipFile(io.BytesIO(async_to_sync(received)(answer)))

    def test_files_sums_and_ledger_agree(self) -> None:
        denoise = {"kind": "denoise", "luminance": 50, "colour": 80}
        first, second = self.delivered(denoise, plain(2)), self.delivered(plain(1), format="png", profile="display-p3")
        archive = self.bundle()
        self.assertIsNone(archive.testzip())
        self.assertEqual(set(archive.namelist()), {first.name, second.name, "SHA256SUMS", "ledger.html", "ledger.json"})
        for line in archive.read("SHA256SUMS").decode().splitlines():
            digest, name = line.split("  ")
            self.assertEqual(hashlib.sha256(archive.read(name)).hexdigest(), digest)
        ledger = json.loads(archive.read("ledger.json"))
        entry = next(one for one in ledger["files"] if one["file"] == first.name)
        self.assertEqual(entry["source_sha256"], hashlib.sha256(png_bytes(64, 48)).hexdigest())
        self.assertEqual([step["kind"] for step in entry["steps"]], ["denoise", "enlarge"])
        self.assertEqual(entry["steps"][0]["settings"]["luminance"], 50)
        self.assertRegex(entry["steps"][0]["engines"][0]["version"], "^[0-9a-f]{16}$")
        self.assertIsNone(entry["measured"])
        page = archive.read("ledger.html").decode()
        self.assertIn(first.name, page)
        self.assertIn("It is being measured", page)

    def test_it_holds_the_look_up_tables_that_were_used(self) -> None:
        content = b"LUT_1D_SIZE 2\n0 0 0\n0.5 0.5 0.5\n"
        name = hashlib.sha256(content).hexdigest()[:32]
        settings.TABLES.mkdir(exist_ok=True)
        path = settings.TABLES / f"{name}.cube"
        path.write_bytes(content)
        self.addCleanup(path.unlink)
        self.delivered({"kind": "table", "table": name, "name": "Half/light"}, plain(1))
        archive = self.bundle()
        (inside,) = [entry for entry in archive.namelist() if entry.startswith("tables/")]
        self.assertEqual(archive.read(inside), content)
        self.assertNotIn("..", inside)
        self.assertIn("Look-up table “Half/light” applied at 100 %", archive.read("ledger.html").decode())

    def test_what_was_measured_of_these_very_steps_is_told(self) -> None:
        delivery = self.delivered(plain(2))
        found = {"title": "Return", "value": 41.23456, "unit": "dB", "word": "fine", "says": "As good as the source."}
        chain = Take.objects.get(id=self.take.id).plan().chain
        Report.objects.filter(picture=delivery.picture, chain=chain).update(
            state=State.DONE, found={"findings": [found]}
        )
        archive = self.bundle()
        entry = json.loads(archive.read("ledger.json"))["files"][0]
        self.assertEqual(entry["measured"][0]["value"], 41.235)
        self.assertIn("As good as the source.", archive.read("ledger.html").decode())

    def test_every_delivery_is_measured_without_being_asked_for(self) -> None:
        self.delivered(plain(2))
        (row,) = Report.objects.all()
        report.func(str(row.id))
        entry = json.loads(self.bundle().read("ledger.json"))["files"][0]
        self.assertGreater(len(entry["measured"]), 2)
        self.assertIsNone(entry["unmeasured"])
        self.assertNotIn("being measured", self.bundle().read("ledger.html").decode())

    def test_every_departure_from_the_source_is_told(self) -> None:
        frame = {"kind": "frame", "turns": 1, "crop": {"x": 2, "y": 3, "width": 30, "height": 40}}
        mask = {"strokes": [{"points": [[10, 10]], "size": 20}], "inverted": True}
        layout = {"wrap_mm": 5, "border_mm": 3, "panels_across": 2, "overlap_mm": 1, "marks": True, "panel": 2}
        self.delivered(
            frame, {"kind": "denoise", "luminance": 50, "mask": mask}, plain(2), format="jpeg", chroma="half",
            profile="display-p3", longest_side=60, metadata=False, layout=layout, ppi=100,
        )  # fmt: skip
        page = self.bundle().read("ledger.html").decode()
        for told in (
            "Turned by 90° clockwise, cropped to 30 × 40 px from 2, 3", "everywhere but in 1 painted stroke",
            "Made smaller for this file, from 60 × 80 to 45 × 60 px", "Converted from", "to Display P3, relative intent",
            "Rounded to 8 bits a sample", "Compressed with loss at quality 92 with half its colour resolution",
            "Written without camera and caption data", "A border of 3 mm", "A canvas wrap of 5 mm laid around it, made of",
            "Panel 2 of 2 across and 1 down, sharing 1 mm", "Marks outside that tell where to cut",
        ):  # fmt: skip
            self.assertIn(told, page.replace("&#x27;", "'"))

    def test_what_was_changed_while_the_source_was_read_is_told(self) -> None:
        ink = pyvips.Image.black(40, 30, bands=4).linear([1] * 4, [20, 90, 10, 5]).cast("uchar")
        content = ink.copy(interpretation="cmyk").tiffsave_buffer()
        self.picture, self.take = self.picture_and_take(content, [plain(1)])
        self.delivered(plain(1))
        page = self.bundle().read("ledger.html").decode()
        self.assertIn("CMYK was converted to sRGB", page)

    def test_a_give_back_is_told_in_words_with_the_engines_inside_it(self) -> None:
        mask = {"strokes": [{"points": [[10, 10]], "size": 20}]}
        inside = [{"kind": "denoise", "luminance": 40}, plain(2) | {"engine": "crisp"}]
        self.delivered(plain(2), {"kind": "give-back", "of": "B", "steps": inside, "mask": mask})
        archive = self.bundle()
        page = archive.read("ledger.html").decode()
        for structure in ("{", "[", "&#x27;", "None", "kind", "no longer on the shelf"):
            self.assertNotIn(structure, page.split("</style>")[1])
        self.assertIn("Take B given back (noise taken away by Denoise: 40 % of the luminance noise", page)
        self.assertIn("in 1 painted stroke", page)
        entry = json.loads(archive.read("ledger.json"))["files"][0]
        self.assertEqual([one["engine"] for one in entry["steps"][1]["engines"]], ["denoise", "crisp"])
        self.assertTrue(all(one["version"] for one in entry["steps"][1]["engines"]))

    def test_an_engine_that_is_gone_is_said_to_be(self) -> None:
        delivery = self.delivered(plain(2))
        delivery.steps = [plain(2) | {"engine": "once-there"}]
        delivery.save()
        archive = self.bundle()
        self.assertIn("once-there is not on the shelf any more", archive.read("ledger.html").decode())

    def test_names_of_people_cannot_break_the_page(self) -> None:
        self.job.client = "<script>alert(1)</script>"
        self.job.save()
        self.delivered(plain(2))
        self.assertNotIn("<script>", self.bundle().read("ledger.html").decode())

    def test_nothing_delivered_and_strangers(self) -> None:
        nothing = self.client.get(f"/api/jobs/{self.job.id}/bundle")
        self.assertEqual(nothing.status_code, 409)
        self.assertIn("Nothing has been delivered", nothing.json()["message"])
        self.assertEqual(self.as_stranger().get(f"/api/jobs/{self.job.id}/bundle").status_code, 404)
