from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kitecore.errors import TakeError
from kitecore.lengths import MILLIMETRES, Unit, parse_length, parse_print, pixels_for

lengths = st.integers(1, 99_999).map(lambda value: value / 10)
units: st.SearchStrategy[Unit] = st.sampled_from(["mm", "cm", "in"])


class LengthsTest(TestCase):
    @given(lengths, lengths, units, st.sampled_from(["x", " × ", "*"]))
    def test_a_print_size_is_read_as_it_is_written(self, width: float, height: float, unit: Unit, between: str) -> None:
        self.assertEqual(parse_print(f" {width}{between}{height} {unit}"), (width, height, unit))
        self.assertEqual(parse_print(f"{width}{unit.upper()}"), (width, None, unit))
        self.assertEqual(parse_print(f"x{height}{unit}"), (None, height, unit))

    def test_commas_and_inch_marks(self) -> None:
        self.assertEqual(parse_print('8,5x11"'), (8.5, 11, "in"))

    def test_what_is_no_size_is_refused_with_an_example(self) -> None:
        for text in ("", "cm", "60x90", "60 x x 90cm", "-3cm", "60cm high"):
            with self.subTest(text), self.assertRaisesRegex(TakeError, "write it like 60x90cm"):
                parse_print(text)

    @given(lengths, units, st.floats(10, 1200))
    def test_pixels_are_the_same_in_every_unit(self, length: float, unit: Unit, ppi: float) -> None:
        pixels = pixels_for(length, unit, ppi)
        self.assertAlmostEqual(pixels_for(length * MILLIMETRES[unit], "mm", ppi), pixels, places=4)
        self.assertAlmostEqual(pixels_for(25.4, "mm", ppi), ppi)

    def test_a_distance_is_told_in_millimetres(self) -> None:
        for text, millimetres in (("8mm", 8), ("100 cm", 1000), ("1.5m", 1500), ("1,5 M", 1500), ("40in", 1016)):
            self.assertAlmostEqual(parse_length(text), millimetres)
        with self.assertRaisesRegex(TakeError, "is not a length"):
            parse_length("far")
