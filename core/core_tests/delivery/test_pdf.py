"""Print PDFs: read by another program, their boxes, their colours, and the pixels inside."""

from __future__ import annotations

import re
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase, mock

import numpy as np
import pypdfium2
import pypdfium2.raw as pdfium

from core_tests.pictures import random_samples, write
from kitecore.delivery import pdf
from kitecore.delivery.layout import Layout
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.errors import OutputError
from kitecore.files.source import Source
from kitecore.takes.plan import plan
from kitecore.takes.take import Take

MILLIMETRE = 72 / 25.4


class PdfTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def delivered(self, samples: np.ndarray, **spec: object) -> Path:
        given, path = self.folder / "in.png", self.folder / "Poster.pdf"
        write(given, samples)
        with Source(given, self.folder) as source:
            write_result(plan(Take(), source.size), source, OutputSpec(format="pdf", **spec), path)
        return path

    def picture_in(self, path: Path) -> tuple[np.ndarray, tuple[float, float, float, float]]:
        """The page's only picture as another program decodes it, and where it lies on the page."""
        page = pypdfium2.PdfDocument(path)[0]
        (inside,) = page.get_objects(filter=[pdfium.FPDF_PAGEOBJ_IMAGE])
        return inside.get_bitmap(render=False).to_numpy()[..., ::-1], inside.get_bounds()

    def test_lossless_pixels_come_out_as_they_went_in(self) -> None:
        samples = random_samples(40, 61, 3)
        path = self.delivered(samples, lossless=True, depth=8, ppi=144)
        pixels, place = self.picture_in(path)
        np.testing.assert_array_equal(pixels, samples)
        np.testing.assert_allclose(place, (0, 0, 30.5, 20), atol=0.01)

    def test_sixteen_bits_are_kept(self) -> None:
        samples = random_samples(30, 20, 3, 16)
        path = self.delivered(samples, lossless=True, depth=16)
        self.assertIn(b"/BitsPerComponent 16", path.read_bytes())
        pixels, _ = self.picture_in(path)
        np.testing.assert_allclose(pixels, samples / 257, atol=1)

    def test_jpeg_inside_is_near_and_much_smaller(self) -> None:
        ramp = np.linspace(20, 220, 200 * 150 * 3).reshape(150, 200, 3).astype(np.uint8)
        path = self.delivered(ramp, quality=95)
        pixels, _ = self.picture_in(path)
        self.assertLess(np.abs(pixels.astype(float) - ramp).mean(), 2)
        self.assertLess(path.stat().st_size, ramp.nbytes / 4)

    def test_boxes_tell_where_to_cut(self) -> None:
        layout = Layout(border_mm=4, bleed_mm=3, marks=True)
        path = self.delivered(random_samples(254, 508, 3), ppi=254, layout=layout)
        page = pypdfium2.PdfDocument(path)[0]
        margin = 7 * MILLIMETRE
        width, height = page.get_width(), page.get_height()
        np.testing.assert_allclose(page.get_bleedbox(), (margin, margin, width - margin, height - margin), atol=0.05)
        trim = margin + 3 * MILLIMETRE
        np.testing.assert_allclose(page.get_trimbox(), (trim, trim, width - trim, height - trim), atol=0.05)
        # The face of 2×1 inch and its border are what remains after the cut.
        np.testing.assert_allclose(width - 2 * trim, 2 * 72 + 8 * MILLIMETRE, atol=0.05)

    def test_panels_have_bleed_outside_only(self) -> None:
        layout = Layout(bleed_mm=5, panels_across=2, panel=1)
        path = self.delivered(random_samples(254, 508, 3), ppi=254, layout=layout)
        page = pypdfium2.PdfDocument(path)[0]
        left, _, right, _ = page.get_trimbox()
        np.testing.assert_allclose((left, right), (5 * MILLIMETRE, page.get_width()), atol=0.05)

    def test_it_tells_what_a_printer_asks_for(self) -> None:
        path = self.delivered(random_samples(30, 20, 3), profile="a98-rgb")
        document = pypdfium2.PdfDocument(path)
        self.assertEqual(document.get_metadata_dict()["Title"], "Poster")
        content = path.read_bytes()
        for told in (
            b"/GTS_PDFX",
            b"/DestOutputProfile",
            b"<pdfxid:GTS_PDFXVersion>PDF/X-4<",
            b"/Trapped /False",
            b"/ID [",
        ):
            self.assertIn(told, content)
        self.assertIn("A98 RGB".encode("utf-16-be").hex().upper().encode(), content)

    def test_a_file_that_was_written_wrong_is_not_kept(self) -> None:
        whole = pdf._Objects.raw

        def damaged(out: pdf._Objects, content: bytes) -> None:
            whole(out, content.replace(b"\xff\xd9", b"\xff\xd8"))

        with mock.patch.object(pdf._Objects, "raw", damaged), self.assertRaisesRegex(OutputError, "read back"):
            self.delivered(random_samples(30, 20, 3))
        self.assertEqual([path.name for path in self.folder.iterdir()], ["in.png"])

    def test_the_table_tells_where_every_object_begins(self) -> None:
        content = self.delivered(random_samples(30, 20, 3)).read_bytes()
        begin = int(content.rsplit(b"startxref\n", 1)[1].split(b"\n")[0])
        table = content[begin:]
        self.assertTrue(table.startswith(b"xref\n0 10\n"))
        for number, place in enumerate(re.findall(rb"(\d{10}) 00000 n", table), 1):
            self.assertTrue(content[int(place) :].startswith(f"{number} 0 obj".encode()))

    def test_grey_stays_grey_and_what_is_transparent_lies_on_white(self) -> None:
        grey = random_samples(20, 30, 1)
        path = self.delivered(grey, lossless=True, depth=8)
        self.assertIn(b"/N 1 ", path.read_bytes())
        pixels, _ = self.picture_in(path)
        np.testing.assert_array_equal(pixels[..., 0], grey[..., 0])
        clear = np.zeros((20, 30, 4), np.uint8)
        pixels, _ = self.picture_in(self.delivered(clear, lossless=True, depth=8))
        self.assertEqual(pixels.min(), 255)

    def test_a_page_longer_than_five_metres_has_a_larger_unit(self) -> None:
        path = self.delivered(random_samples(16, 4000, 3), ppi=10)
        (unit,) = re.findall(rb"/UserUnit ([\d.]+)", path.read_bytes())
        width = pypdfium2.PdfDocument(path)[0].get_width()
        self.assertAlmostEqual(float(unit) * 14_400 / 72, 400, delta=1)
        self.assertLessEqual(width, 14_401)
