import io
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from core_tests.pictures import smooth, write
from kitecore.files.jpeg_quality import quality_of_file, quality_of_table, table


class JpegQualityTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.samples = (smooth(24, 24) * 255).astype(np.uint8)

    def test_tables_are_those_an_encoder_writes(self) -> None:
        for quality in (5, 30, 50, 75, 95):
            content = io.BytesIO()
            Image.fromarray(self.samples).save(content, "JPEG", quality=quality)
            written = Image.open(io.BytesIO(content.getvalue())).quantization[0]
            np.testing.assert_array_equal(np.sort(table(quality).ravel()), np.sort(written))

    @given(st.integers(1, 100))
    def test_a_table_is_that_of_its_quality(self, quality: int) -> None:
        # The lowest qualities clip all their steps and share one table.
        found = quality_of_table(table(quality))
        np.testing.assert_array_equal(table(found), table(quality))

    @given(st.integers(2, 100))
    def test_better_quality_never_has_coarser_steps(self, quality: int) -> None:
        self.assertTrue((table(quality) <= table(quality - 1)).all())

    def test_a_file_tells_the_quality_it_was_written_at(self) -> None:
        for quality in (12, 40, 66, 90, 100):
            path = write(self.folder / f"{quality}.jpg", self.samples, Q=quality)
            self.assertEqual(quality_of_file(path), quality)

    def test_other_files_have_none(self) -> None:
        self.assertIsNone(quality_of_file(write(self.folder / "in.png", self.samples)))
        text = self.folder / "in.txt"
        text.write_text("no picture")
        self.assertIsNone(quality_of_file(text))
        self.assertIsNone(quality_of_file(self.folder / "missing.jpg"))
