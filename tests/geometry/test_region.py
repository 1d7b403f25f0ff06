"""Floors of features: their walls and open sides, and what no path can be made for."""

import unittest

import numpy as np

from lesna.geometry.region import region_of
from lesna.model.errors import InputError
from lesna.model.job import Feature


def feature(**values):  # type: ignore[no-untyped-def]
    return Feature.read({"kind": "pocket", "length_mm": 60.0, "width_mm": 40.0, "depth_mm": 8.0, **values})


class Regions(unittest.TestCase):
    def test_a_pocket_lies_about_the_work_zero_with_its_corners(self) -> None:
        found = region_of(feature(corner_radius_mm=8.0))
        np.testing.assert_allclose(found.floor.bounds, (-30, -20, 30, 20))
        self.assertAlmostEqual(found.floor.area, 2400 - (4 - np.pi) * 64, delta=0.1)
        self.assertTrue(found.is_closed)
        self.assertEqual(found.bounds(10.0), found.floor.bounds)

    def test_open_sides(self) -> None:
        face, shelf, slot = (region_of(feature(kind=kind)) for kind in ("face", "shelf", "slot"))
        self.assertEqual(len(face.walls), 0)
        # walls go straight on where the side beside them is open
        self.assertEqual((shelf.walls[:, 0].max(), shelf.walls[:, 3].max()), (1030.0, 1020.0))
        self.assertEqual(sorted(set(slot.walls[:, 1].tolist())), [-20.0, 20.0])
        self.assertEqual(shelf.bounds(5.0), (-30.0, -20.0, 35.0, 25.0))
        self.assertTrue(region_of(feature(kind="slot", closed=True)).is_closed)

    def test_how_far_places_lie_beyond_open_sides(self) -> None:
        shelf = region_of(feature(kind="shelf"))
        x, y = np.array([0.0, 33.0, 33.0, 0.0]), np.array([0.0, 0.0, 24.0, 30.0])
        np.testing.assert_allclose(np.diagonal(shelf.outside(x, y)), [-20.0, 3.0, 5.0, 10.0])
        self.assertLess(region_of(feature()).outside(x, y).max(), -1000)

    def test_islands_stay_standing(self) -> None:
        outline = ((0.0, 0.0), (60.0, 0.0), (60.0, 40.0), (0.0, 40.0))
        island = ((20.0, 10.0), (30.0, 10.0), (30.0, 20.0), (20.0, 20.0))
        found = region_of(feature(profile_mm=outline, islands_mm=(island,)))
        self.assertAlmostEqual(found.floor.area, 2300.0)
        self.assertEqual(len(found.walls), 8)

    def test_refusals(self) -> None:
        bow = ((0.0, 0.0), (10.0, 10.0), (10.0, 0.0), (0.0, 10.0))
        square = ((0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0))
        away = ((20.0, 20.0), (25.0, 20.0), (25.0, 25.0))
        across = ((-1.0, 4.0), (11.0, 4.0), (11.0, 5.0), (-1.0, 5.0))
        for values, words in (({"profile_mm": bow}, "crosses itself .*5 5"),
                              ({"profile_mm": square, "islands_mm": (away,)}, "island 1 at x"),
                              ({"profile_mm": square, "islands_mm": (across,)}, "island 1"),
                              ({"profile_mm": ((0.0, 0.0), (1e6, 0.0), (1e6, 9.0))}, "move the part to its zero"),
                              ({"length_mm": None}, "length and a width")):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                region_of(feature(**values))


if __name__ == "__main__":
    unittest.main()
