"""Axes: places and values are inverses of each other, ticks are round, a view never leaves its chart."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, QRectF

from lesna.desktop.widgets.axes import Axes, Scale, View, round_below, round_step, round_values

PLOT = QRectF(50, 20, 400, 300)
moves = st.lists(st.tuples(st.floats(-2, 2), st.floats(-2, 2), st.floats(0.2, 5)), max_size=6)


class Places(unittest.TestCase):
    @given(moves, st.floats(0.01, 0.99), st.floats(0.01, 0.99), st.booleans())
    @settings(max_examples=60)
    def test_there_and_back(self, moved: list[tuple[float, float, float]], a: float, b: float, is_log: bool) -> None:
        view = View()
        for across, up, factor in moved:
            view.zoom_at(a, b, factor)
            view.move(across, up)
            self.assertGreaterEqual(view.zoom, 1.0)
            for start in (view.left, view.bottom):
                self.assertTrue(-1e-12 <= start <= 1 - 1 / view.zoom + 1e-12)
        axes = Axes(PLOT, Scale(100.0, 9000.0, is_log=is_log), Scale(0.0, 30.0), view)
        n, ap = axes.across.value(a), axes.up.value(b)
        again = axes.values_at(axes.at(n, ap))
        self.assertAlmostEqual(again[0] / n, 1.0, places=6)
        self.assertAlmostEqual(again[1], ap, places=6)
        line = axes.polygon(np.array([[n, ap]]))
        self.assertAlmostEqual(line[0].x(), axes.x(n), places=6)
        self.assertAlmostEqual(line[0].y(), axes.y(ap), places=6)

    def test_what_lies_under_the_pointer_stays_there_when_one_looks_closer(self) -> None:
        view = View()
        axes = Axes(PLOT, Scale(0.0, 10.0), Scale(0.0, 10.0), view)
        place = QPointF(150, 95)
        before = axes.values_at(place)
        view.zoom_at(*axes.shares_at(place), 3.0)
        for was, now in zip(before, axes.values_at(place), strict=True):
            self.assertAlmostEqual(was, now)
        self.assertAlmostEqual(np.ptp(axes.shown_across()), 10.0 / 3)
        view.reset()
        self.assertEqual(axes.shown_up(), (0.0, 10.0))


class Ticks(unittest.TestCase):
    def test_round_and_inside(self) -> None:
        self.assertEqual(round_values(0.0, 10.0, 5), [0, 2, 4, 6, 8, 10])
        self.assertEqual(round_values(103.0, 297.0, 5), [150, 200, 250])
        self.assertEqual(round_step(2.5, 6), 0.5)
        self.assertEqual([round_below(v) for v in (1.0, 1.9, 4.9, 99.0)], [1, 1, 2, 50])


if __name__ == "__main__":
    unittest.main()
