"""Places of a grid in an area, by rows, against each place asked on its own."""

import unittest

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from lesna.geometry.raster import within


def areas(seed: int) -> BaseGeometry:
    """Stars, with holes, in several parts, and with straight edges."""
    chance = np.random.default_rng(seed)
    angle, count = np.linspace(0, 2 * np.pi, 24, endpoint=False), 24
    radius = chance.uniform(3.0, 20.0, count)
    area = shapely.Polygon(np.stack((radius * np.cos(angle), radius * np.sin(angle)), axis=1)).buffer(0)
    if seed % 2:
        area = area.difference(shapely.Point(*chance.uniform(-4, 4, 2)).buffer(chance.uniform(0.5, 3)))
    if seed % 3 == 0:
        area = area.union(shapely.box(-5.0, -9.5, 2.0, 7.5)).difference(shapely.box(-2.0, -2.0, 0.5, 7.5))
    return area.union(shapely.box(24.0, 0.0, 30.0, 5.0)) if seed % 5 == 0 else area


class Within(unittest.TestCase):
    def test_each_place_is_told_as_if_asked_alone(self) -> None:
        for seed in range(30):
            for across, up in ((0.5, 0.25), (0.377, 0.5)):
                area, x, y = areas(seed), np.arange(-22.01, 32.0, across), np.arange(-21.01, 22.0, up)
                with self.subTest(seed=seed, across=across):
                    alone = shapely.contains_xy(area, *np.meshgrid(x, y))
                    self.assertTrue(0 < alone.sum() < alone.size)
                    np.testing.assert_array_equal(within(area, x, y), alone)

    def test_edges_and_corners_on_the_grid_are_outside(self) -> None:
        x = y = np.arange(-3.0, 4.0)
        square = shapely.box(-2.0, -2.0, 2.0, 2.0)
        self.assertEqual(int(within(square, x, y).sum()), 9)
        notched = square.difference(shapely.box(0.0, 0.0, 2.0, 2.0))
        np.testing.assert_array_equal(within(notched, x, y), shapely.contains_xy(notched, *np.meshgrid(x, y)))
        self.assertFalse(within(shapely.Polygon(), x, y).any())


if __name__ == "__main__":
    unittest.main()
