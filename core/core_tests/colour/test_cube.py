"""Look-up tables against the functions they were made of, and files with every fault."""

from __future__ import annotations

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from core_tests.pictures import random_samples
from kitecore.colour.cube import CubeTable, TableError, read_cube, table_id
from kitecore.colour.spaces import profile_of
from kitecore.colour.transfer import SRGB
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Table
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage


def cube(function: object, size: int = 5, low: float = 0.0, high: float = 1.0, extra: str = "") -> bytes:
    """A .cube file of a function of H×3 colours; red runs fastest."""
    axis = np.linspace(low, high, size)
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")
    made = function(np.stack([red, green, blue], -1).reshape(-1, 3))  # type: ignore[operator]
    rows = "\n".join(" ".join(f"{value:.7f}" for value in row) for row in made)
    domain = f"DOMAIN_MIN {low} {low} {low}\nDOMAIN_MAX {high} {high} {high}\n"
    return f'# made by a test\nTITLE "One"\n{extra}LUT_3D_SIZE {size}\n{domain}{rows}\n'.encode()


def turned(colours: np.ndarray) -> np.ndarray:
    return colours @ np.array([[0.7, 0.2, 0.0], [0.2, 0.7, 0.3], [0.1, 0.1, 0.6]]) + 0.05


COLOURS = np.random.default_rng(1).random((9, 11, 3)).astype(np.float32)


class ReadTest(unittest.TestCase):
    def test_what_is_linear_is_given_exactly(self) -> None:
        for size in (2, 5, 17):
            np.testing.assert_allclose(read_cube(cube(turned, size)).apply(COLOURS), turned(COLOURS), atol=2e-6)

    def test_points_of_the_table_and_its_grey_axis_are_exact(self) -> None:
        table = read_cube(cube(lambda colours: colours**2, 9))
        points = (np.random.default_rng(2).integers(0, 9, (20, 20, 3)) / 8).astype(np.float32)
        np.testing.assert_allclose(table.apply(points), points**2, atol=2e-6)
        grey = np.linspace(0, 1, 50, dtype=np.float32)[None, :, None].repeat(3, 2)
        made = table.apply(grey)
        np.testing.assert_array_equal(made[..., 0], made[..., 1])

    def test_between_them_it_is_near_another_interpolation(self) -> None:
        table = read_cube(cube(lambda colours: np.sin(colours * 2) ** 2, 17))
        axis = np.linspace(0, 1, 17)
        assert table.three is not None
        other = RegularGridInterpolator((axis, axis, axis), table.three.transpose(2, 1, 0, 3))
        np.testing.assert_allclose(table.apply(COLOURS), other(COLOURS), atol=4e-3)

    def test_any_domain_and_what_lies_beyond_it(self) -> None:
        table = read_cube(cube(turned, 4, -1, 3))
        wide = COLOURS * 3.5 - 0.5
        np.testing.assert_allclose(table.apply(wide), turned(wide), atol=5e-6)
        table = read_cube(cube(lambda colours: colours * 0.5, 3))
        np.testing.assert_allclose(table.apply(np.full((1, 1, 3), 1.4, np.float32)), 0.9, atol=1e-6)

    def test_one_dimension(self) -> None:
        rows = "\n".join(f"{value**2:.6f} {value:.6f} {1 - value:.6f}" for value in np.linspace(0, 1, 1001))
        made = read_cube(f"LUT_1D_SIZE 1001\n{rows}".encode()).apply(COLOURS)
        np.testing.assert_allclose(made[..., 0], COLOURS[..., 0] ** 2, atol=1e-5)
        np.testing.assert_allclose(made[..., 2], 1 - COLOURS[..., 2], atol=1e-5)

    def test_every_fault_has_a_sentence(self) -> None:
        good = cube(turned, 2).decode()
        faults = {
            b"": "neither",
            b"\xff\xfe\x00": "not text",
            good.replace("LUT_3D_SIZE 2", "LUT_3D_SIZE 200").encode(): "Line 3",
            good.replace("LUT_3D_SIZE 2", "LUT_3D_SIZE two").encode(): "not “two”",
            good.replace("DOMAIN_MAX 1.0 1.0", "DOMAIN_MAX 0.0 1.0").encode(): "domain",
            good.replace("TITLE", "PICTURE").encode(): "Line 2",
            "\n".join(good.splitlines()[:-1]).encode(): "has 7",
            (good + "0.1 nan 0.2").encode(): "3 numbers",
            (good + "0.1 0.2").encode(): "3 numbers",
        }
        for content, part in faults.items():
            with self.subTest(part), self.assertRaises(TableError) as caught:
                read_cube(content)
            self.assertIn(part, str(caught.exception))
            self.assertTrue(str(caught.exception).endswith("."))

    def test_its_title_is_read(self) -> None:
        self.assertEqual(read_cube(cube(turned, 2)).title, "One")
        self.assertIsInstance(read_cube(cube(turned, 2)), CubeTable)


class TableStepTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        content = cube(turned, 3)
        self.name = table_id(content)
        self.file = Path(folder.name) / f"{self.name}.cube"
        self.file.write_bytes(content)
        patched = mock.patch.dict(os.environ, {"KITE_TABLES": folder.name})
        patched.start()
        self.addCleanup(patched.stop)

    def test_it_is_applied_at_its_strength(self) -> None:
        made = render_array(COLOURS, [Table(table=self.name, strength=40)])
        np.testing.assert_allclose(made, COLOURS * 0.6 + turned(COLOURS) * 0.4, atol=5e-6)
        np.testing.assert_array_equal(render_array(COLOURS, [Table(table=self.name, strength=0)]), COLOURS)

    def test_wide_colours_go_there_and_back(self) -> None:
        """The same colour in two spaces becomes the same colour."""
        wide = profile_of("display-p3")
        from kitecore.colour.primaries import primaries_of
        from kitecore.colour.transfer import transfer_of

        inside = COLOURS * 0.5 + 0.25
        back = np.linalg.solve(primaries_of(wide), primaries_of(None))
        moved = transfer_of(wide).coded((SRGB.light(inside) @ back.T).astype(np.float32))
        steps = [Table(table=self.name)]
        resolved = plan_of_steps(steps, SampleStage(moved).size)
        made = result_stage(resolved, SampleStage(moved, wide)).render(resolved.size.region, Run())
        expected = transfer_of(wide).coded((SRGB.light(render_array(inside, steps)) @ back.T).astype(np.float32))
        np.testing.assert_allclose(made, expected, atol=2e-4)

    def test_tiles_fit_and_grey_files_stay_grey(self) -> None:
        source = SampleStage(random_samples(30, 40, 4, bits=16))
        resolved = plan_of_steps([Table(table=self.name)], source.size)
        stage = result_stage(resolved, source)
        whole = stage.render(source.size.region, Run())
        part = Region(7, 9, 13, 11)
        np.testing.assert_array_equal(stage.render(part, Run()), whole[part.slices(source.size.region)])
        grey = random_samples(10, 12, 1).astype(np.float32) / 255
        expected = turned(np.repeat(grey, 3, axis=2)) @ [0.299, 0.587, 0.114]
        np.testing.assert_allclose(render_array(grey, [Table(table=self.name)])[..., 0], expected, atol=1e-5)

    def test_a_table_that_is_gone_is_said(self) -> None:
        self.file.unlink()
        with self.assertRaisesRegex(TableError, "not on the shelf any more"):
            plan_of_steps([Table(table=self.name)], SampleStage(COLOURS).size).chain  # noqa: B018

    def test_it_is_told(self) -> None:
        self.assertEqual(Table(table=self.name, name="Dusk").did(), "look-up table “Dusk” applied at 100 %")
        self.assertEqual(Table().did(), "")


if __name__ == "__main__":
    unittest.main()
