"""What is seen of a stock from further away: the highest of each patch, whatever the size of the map."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.stock.field import HeightMap, seen


def heights(rows: int, columns: int, seed: int) -> HeightMap:
    cells = np.zeros((rows, columns, 5), np.float32)
    cells[..., 0] = np.random.default_rng(seed).normal(size=(rows, columns))
    return HeightMap(cells, (0.0, 0.0), 0.1, -10.0)


class Seen(unittest.TestCase):
    def test_a_small_map_is_seen_as_it_is(self) -> None:
        stock = heights(40, 320, 1)
        np.testing.assert_array_equal(seen(stock), stock.height)

    def test_it_is_no_part_of_the_map(self) -> None:
        stock = heights(20, 20, 2)
        before = stock.height.copy()
        seen(stock)[:] = 99.0
        np.testing.assert_array_equal(stock.height, before)

    @settings(max_examples=25, deadline=None)
    @given(st.integers(1, 1400), st.integers(1, 1400), st.integers(0, 99))
    def test_the_highest_of_each_patch(self, rows: int, columns: int, seed: int) -> None:
        stock = heights(rows, columns, seed)
        found = seen(stock)
        factor = max(-(-max(rows, columns) // 320), 1)
        self.assertEqual(found.shape, (rows // factor, columns // factor))
        for r in range(0, found.shape[0], 37):
            for c in range(0, found.shape[1], 41):
                patch = stock.height[r * factor : (r + 1) * factor, c * factor : (c + 1) * factor]
                self.assertEqual(found[r, c], patch.max())


if __name__ == "__main__":
    unittest.main()
