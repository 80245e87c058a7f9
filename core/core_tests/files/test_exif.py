import struct
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
import tifffile
from hypothesis import given
from hypothesis import strategies as st

from core_tests.pictures import random_samples
from kitecore.files.exif import Entry, Exif, add_to_tiff, from_block, from_tiff, to_block

_MODEL, _ISO, _EXPOSURE, _MAKER_NOTE, _LATITUDE, _SOFTWARE = 272, 0x8827, 0x829A, 0x927C, 2, 305


def text(value: str) -> Entry:
    data = value.encode() + b"\0"
    return Entry(2, len(data), data)


def ratios(*pairs: tuple[int, int]) -> Entry:
    return Entry(5, len(pairs), b"".join(struct.pack("<II", *pair) for pair in pairs))


EXIF = Exif(
    {_MODEL: text("Kestrel 3"), _SOFTWARE: text("x")},
    {_ISO: Entry(3, 1, struct.pack("<H", 800)), _EXPOSURE: ratios((1, 250))},
    {_LATITUDE: ratios((54, 1), (30, 1), (1234, 100))},
)
entries = st.one_of(
    st.builds(text, st.text(st.characters(min_codepoint=32, max_codepoint=126), max_size=40)),
    st.builds(ratios, st.tuples(st.integers(0, 2**32 - 1), st.integers(0, 2**32 - 1))),
    st.binary(min_size=1, max_size=30).map(lambda data: Entry(7, len(data), data)),
    st.lists(st.integers(0, 65535), min_size=1, max_size=9).map(
        lambda values: Entry(3, len(values), struct.pack(f"<{len(values)}H", *values))
    ),
)


class ExifTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "out.tif"

    def test_values_are_read_as_what_they_are(self) -> None:
        self.assertEqual(EXIF.main[_MODEL].value, "Kestrel 3")
        self.assertEqual(EXIF.photo[_ISO].value, 800)
        self.assertEqual(EXIF.photo[_EXPOSURE].value, 1 / 250)
        self.assertEqual(EXIF.place[_LATITUDE].value, [54, 30, 12.34])
        self.assertEqual(ratios((1, 0)).value, 0)
        self.assertIsNone(Entry(7, 3, b"abc").value)

    def test_a_block_comes_back_whole(self) -> None:
        self.assertEqual(from_block(to_block(EXIF)), EXIF)
        self.assertEqual(from_block(to_block(EXIF)[6:]), EXIF, "without its prefix")

    @given(st.dictionaries(st.integers(0x9000, 0x9100), entries, max_size=8))
    def test_whatever_is_in_it(self, photo: dict[int, Entry]) -> None:
        given_ = Exif({_MODEL: text("m")}, {tag: one for tag, one in photo.items() if one.data}, {})
        self.assertEqual(from_block(to_block(given_)), given_)

    def test_the_other_byte_order_is_the_same(self) -> None:
        directory = struct.pack(">H", 1) + struct.pack(">HHI", _MODEL, 2, 4) + b"abc\0" + struct.pack(">I", 0)
        self.assertEqual(from_block(b"MM\0*" + struct.pack(">I", 8) + directory).main[_MODEL].value, "abc")
        count = struct.pack(">H", 1) + struct.pack(">HHI", 305, 3, 2) + struct.pack(">HH", 1, 258) + bytes(4)
        self.assertEqual(from_block(b"MM\0*" + struct.pack(">I", 8) + count).main[305].value, [1, 258])

    def test_broken_blocks_give_none(self) -> None:
        block = to_block(EXIF)
        for broken in (b"", b"Exif\0\0", b"Exif\0\0XX", b"\xff" * 40):
            self.assertFalse(from_block(broken))
        for length in range(0, len(block), 7):
            from_block(block[:length])

    def test_a_maker_note_that_is_too_long_for_jpeg_is_left_out_and_nothing_else(self) -> None:
        note = {**EXIF.photo, _MAKER_NOTE: Entry(7, 70_000, bytes(70_000))}
        self.assertEqual(from_block(to_block(Exif(EXIF.main, note, EXIF.place))), EXIF)
        short = {**EXIF.photo, _MAKER_NOTE: Entry(7, 700, bytes(700))}
        self.assertIn(_MAKER_NOTE, from_block(to_block(Exif(EXIF.main, short, EXIF.place))).photo)

    def test_a_tiff_file_keeps_its_pixels_and_gains_it(self) -> None:
        samples = random_samples(9, 7, bits=16)
        for big in (False, True):
            tifffile.imwrite(self.path, samples, photometric="rgb", bigtiff=big, byteorder="<", software=False)
            add_to_tiff(self.path, EXIF)
            found = from_tiff(self.path)
            self.assertEqual(found.main[_MODEL], EXIF.main[_MODEL])
            self.assertEqual((found.photo, found.place), (EXIF.photo, EXIF.place))
            np.testing.assert_array_equal(tifffile.imread(self.path), samples)

    def test_a_tiff_file_of_the_other_byte_order_is_left_alone(self) -> None:
        tifffile.imwrite(self.path, random_samples(4, 4), photometric="rgb", byteorder=">")
        before = self.path.read_bytes()
        with self.assertRaisesRegex(ValueError, "little-endian"):
            add_to_tiff(self.path, EXIF)
        self.assertEqual(self.path.read_bytes(), before)
