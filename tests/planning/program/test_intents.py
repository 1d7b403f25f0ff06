"""What moves of a program are for, as their comments say; and how far cells of a stock are from what stands."""

import unittest

import numpy as np
import shapely

from lesna.nc.read import read_program
from lesna.planning.program.intents import INTENTS, intents_of
from lesna.stock.field import away_from, block, extruded


class Intents(unittest.TestCase):
    def test_they_hold_until_the_next_comment(self) -> None:
        text = (
            "G21 G90\nT1 M6\nS900 M3\nG0 X0 Y0 Z5\n(entry)\nG1 Z-1 F100\n"
            "N40 (CUT, first)\nX5\nX6 (a remark)\n(said by the way)\nX7\n(link)\nX9\nM30\n"
        )
        program = read_program(text.encode())
        self.assertEqual([INTENTS[k] for k in intents_of(program)], ["entry", "cut", "cut", "", "link"])


class Standing(unittest.TestCase):
    def test_distances_are_those_of_the_walls_beside_them(self) -> None:
        cell = 0.3
        ring = shapely.box(0, 0, 40, 30).difference(shapely.Point(20, 15).buffer(9, quad_segs=64))
        stock = extruded(ring, 0.0, -10.0, cell)
        away = away_from(stock, -5.0)
        rows, columns = stock.height.shape
        x, y = stock.origin[0] + cell * np.arange(columns), stock.origin[1] + cell * np.arange(rows)
        places = shapely.points(*np.meshgrid(x, y))
        true = shapely.distance(ring.boundary, places) * np.where(shapely.contains(ring, places), -1.0, 1.0)
        near = np.abs(true) < 1.5 * cell
        self.assertLess(np.abs(away - true)[near].max(), 0.02)
        self.assertLess(np.abs(away - true)[np.abs(true) < 5].max(), cell)
        # a level on which nothing stands
        self.assertGreater(away_from(block((0, 0, -10), (9, 9, 0), cell), 1.0).min(), 1000)


if __name__ == "__main__":
    unittest.main()
