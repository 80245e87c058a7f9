from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kitecore.pipeline.geometry import Place, Region, Size, divisor, evenly_spread, grid, level_of, mirrored

sizes = st.builds(Size, st.integers(1, 60), st.integers(1, 60))
regions = st.builds(Region, st.integers(-20, 40), st.integers(-20, 40), st.integers(1, 40), st.integers(1, 40))
scales = st.floats(0.1, 9, allow_subnormal=False)


def pixels_of(region: Region) -> set[tuple[int, int]]:
    return {(x, y) for x in range(region.x, region.right) for y in range(region.y, region.bottom)}


class SizeTest(TestCase):
    @given(sizes, st.integers(0, 12))
    def test_halving_two_levels_down_is_halving_again(self, size: Size, level: int) -> None:
        self.assertEqual(size.reduced(level).reduced(1), size.reduced(level + 2 if level else 1))

    @given(st.floats(1, 5000))
    def test_the_level_of_a_divisor_is_the_deepest_that_is_no_coarser(self, most: float) -> None:
        level = level_of(most)
        self.assertLessEqual(divisor(level), most)
        self.assertGreater(divisor(level + 1), most)

    @given(sizes, st.integers(1, 4000))
    def test_as_few_halvings_as_it_takes(self, size: Size, pixels: int) -> None:
        level = size.halved_until(pixels)
        self.assertLessEqual(size.reduced(level).pixels, pixels)
        self.assertTrue(level == 0 or level % 2)
        if level:
            self.assertGreater(size.reduced(max(0, level - 2)).pixels, pixels)

    @given(sizes, st.integers(1, 400))
    def test_the_first_level_that_is_short_enough(self, size: Size, longest: int) -> None:
        level = size.level_within(longest)
        self.assertLessEqual(max(size.reduced(level).width, size.reduced(level).height), longest)
        if level:
            self.assertGreater(max(size.width, size.height), longest * divisor(level - 1))

    @given(sizes, st.floats(1, 100))
    def test_what_is_fitted_is_never_larger_than_it_was_nor_than_asked(self, size: Size, longest: float) -> None:
        fitted = size.fitted(longest)
        self.assertLessEqual(max(fitted.width, fitted.height), max(1, round(longest)))
        self.assertLessEqual(fitted.width, size.width)
        self.assertLessEqual(fitted.height, size.height)

    def test_a_place_on_the_far_edge_is_outside(self) -> None:
        size = Size(4, 3)
        self.assertTrue(Place(0, 0).inside(size))
        self.assertTrue(Place(3.99, 2.99).inside(size))
        self.assertFalse(Place(4, 0).inside(size))
        self.assertFalse(Place(0, -0.01).inside(size))


class RegionTest(TestCase):
    @given(regions, regions)
    def test_the_intersection_is_what_both_hold(self, one: Region, other: Region) -> None:
        common = one.intersection(other)
        self.assertEqual(pixels_of(common) if common else set(), pixels_of(one) & pixels_of(other))

    @given(regions, regions)
    def test_without_an_inner_region_the_rest_is_whole_and_nothing_twice(self, one: Region, other: Region) -> None:
        inner = one.intersection(other)
        if inner is None:
            return
        parts = one.without(inner)
        held = [pixel for part in parts for pixel in pixels_of(part)]
        self.assertEqual(len(held), len(set(held)))
        self.assertEqual(set(held) | pixels_of(inner), pixels_of(one))
        self.assertFalse(set(held) & pixels_of(inner))

    @given(regions, st.integers(1, 9))
    def test_an_aligned_region_is_the_smallest_one_on_the_stride(self, region: Region, stride: int) -> None:
        aligned = region.aligned(stride)
        for edge in (aligned.x, aligned.y, aligned.right, aligned.bottom):
            self.assertEqual(edge % stride, 0)
        self.assertEqual(aligned.intersection(region), region)
        self.assertLess(region.x - aligned.x, stride)
        self.assertLess(aligned.bottom - region.bottom, stride)

    @given(regions, scales, scales)
    def test_a_scaled_region_covers_what_it_became(self, region: Region, across: float, down: float) -> None:
        scaled = region.scaled(across, down)
        self.assertLessEqual(scaled.x, region.x * across)
        self.assertGreaterEqual(scaled.bottom, region.bottom * down)
        self.assertLessEqual(scaled.right, region.right * across + 1)
        self.assertGreaterEqual(scaled.y, region.y * down - 1)

    @given(regions, st.integers(0, 9))
    def test_grown_and_moved_back_it_is_found_in_its_array(self, region: Region, reach: int) -> None:
        around = region.grown(reach)
        rows, columns = np.mgrid[around.y : around.bottom, around.x : around.right]
        part = region.slices(around)
        self.assertEqual(rows[part].shape, (region.height, region.width))
        self.assertEqual((columns[part][0, 0], rows[part][0, 0]), (region.x, region.y))
        self.assertEqual(around.moved(reach, reach).x, region.x)

    @given(regions, sizes)
    def test_inside_is_where_every_pixel_is(self, region: Region, size: Size) -> None:
        self.assertEqual(region.inside(size), pixels_of(region) <= pixels_of(size.region))


class CoverTest(TestCase):
    @given(sizes, sizes)
    def test_a_grid_covers_every_pixel_once(self, size: Size, tile: Size) -> None:
        held = [pixel for region in grid(size, tile) for pixel in pixels_of(region)]
        self.assertEqual(len(held), size.pixels)
        self.assertEqual(set(held), pixels_of(size.region))

    @given(sizes, sizes, st.integers(1, 5), st.integers(1, 5))
    def test_spread_regions_lie_inside_and_reach_both_edges(
        self, size: Size, area: Size, columns: int, rows: int
    ) -> None:
        spread = evenly_spread(size, area, columns, rows)
        self.assertEqual(len(spread), columns * rows)
        self.assertTrue(all(region.inside(size) for region in spread))
        self.assertEqual((spread[0].x, spread[0].y), (0, 0))
        if columns > 1 and rows > 1:
            self.assertEqual((spread[-1].right, spread[-1].bottom), (size.width, size.height))

    @given(st.integers(1, 30), st.integers(-200, 200), st.integers(0, 100))
    def test_mirrors_are_those_of_numpy(self, length: int, start: int, count: int) -> None:
        expected = np.pad(np.arange(length), 320, "reflect")[start + 320 : start + count + 320]
        np.testing.assert_array_equal(mirrored(start, start + count, length), expected)
