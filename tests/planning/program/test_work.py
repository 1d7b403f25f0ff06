"""What a program is judged with: stock of features, axes of machines, how finely it is looked at, and sums of a run."""

import unittest

import numpy as np

from lesna.model.resolve import parts_of
from lesna.planning.cut.axes import axes_of
from lesna.planning.program.places import lasting
from lesna.planning.program.stock import stock_for, stock_of_feature
from lesna.planning.program.summary import Summary, gain_of
from lesna.planning.program.told import clock
from lesna.planning.program.work import Look, Work
from tests.support import LIBRARY, job

PARTS = parts_of(job(), 0, LIBRARY)


def parts(**feature):  # type: ignore[no-untyped-def]
    return parts_of(job(feature=feature), 0, LIBRARY)


class Stocks(unittest.TestCase):
    def test_the_block_of_a_feature_lies_with_the_middle_of_its_top_at_zero(self) -> None:
        stock = stock_of_feature(parts(kind="pocket", length_mm=80.0, width_mm=50.0, depth_mm=12.0))
        self.assertEqual((stock.low, stock.high), ((-40.0, -25.0, -12.0), (40.0, 25.0, 0.0)))
        self.assertAlmostEqual(stock.height_map(0.5).volume / 13.0, 80 * 50, delta=1.0)

    def test_an_outline_is_pulled_up(self) -> None:
        outline = ((0.0, 0.0), (60.0, 0.0), (60.0, 30.0), (30.0, 30.0), (30.0, 15.0), (0.0, 15.0))
        stock = stock_of_feature(parts(kind="through", length_mm=60.0, width_mm=30.0, depth_mm=8.0, profile_mm=outline))
        self.assertEqual((stock.low, stock.high), ((0.0, 0.0, -8.0), (60.0, 30.0, 0.0)))
        self.assertAlmostEqual(stock.height_map(0.25).volume / 9.0, 60 * 15 + 30 * 15, delta=4.0)

    def test_cells_follow_the_cutter(self) -> None:
        stock = stock_for("block:0,0,-5,50,50,0", PARTS, None)
        self.assertAlmostEqual(Work(parts_of(job(), 0, LIBRARY), stock).cell, 0.2)
        self.assertEqual(Work(parts_of(job(), 0, LIBRARY), stock, Look(cell=0.5)).cell, 0.5)
        self.assertEqual(Look().step_for(12.0), 0.5)
        self.assertEqual(Look().step_for(1.0), 0.1)
        self.assertEqual(Look(step=0.3).step_for(12.0), 0.3)


class Machines(unittest.TestCase):
    def test_axes_take_what_the_row_gives_and_usual_figures_else(self) -> None:
        machine = LIBRARY.machines["vmc40-12k"]
        axes = axes_of(machine, 0.02)
        self.assertEqual(axes.tolerance, 0.02)
        self.assertAlmostEqual(axes.acceleration[0], 1000 * machine.accel_x_m_s2)
        bare = axes_of(machine.with_values(accel_x_m_s2=None, jerk_x_m_s3=None, jerk_y_m_s3=None, jerk_z_m_s3=None, rapid_x_mm_min=None,
                                           feed_max_x_mm_min=None, feed_max_y_mm_min=None, lookahead_blocks_s=None), 0.01)  # fmt: skip
        self.assertEqual((bare.acceleration[0], bare.jerk, bare.blocks), (3000.0, 40000.0, 500.0))
        self.assertAlmostEqual(bare.rapid[0], 20000.0 / 60)

    def test_the_cut_is_set_up_at_the_speed_of_the_program(self) -> None:
        work = Work(parts_of(job(), 0, LIBRARY), stock_for("block:0,0,-5,50,50,0", PARTS, None))
        self.assertEqual(work.setup_at(4321.0).parts.cut.n_rpm, 4321.0)
        self.assertGreater(work.holder_radius, work.radius)


class Sums(unittest.TestCase):
    def test_what_lasts(self) -> None:
        where = np.array([0, 1, 1, 0, 1, 1, 1, 1, 0, 1], dtype=bool)
        self.assertEqual(np.flatnonzero(lasting(where, np.full(10, 0.5), 1.5)).tolist(), [4, 5, 6, 7])
        self.assertFalse(lasting(np.zeros(4, dtype=bool), np.ones(4), 1.0).any())

    def test_gain(self) -> None:
        def of(time: float) -> Summary:
            return Summary(time, 1, 1, 1, 0, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, {}, {}, 1, None, 0, None, 1, ())

        gain = gain_of(of(100.0), of(80.0), 36, 50.0)
        self.assertEqual(
            (gain["saved_s"], gain["saved_pct"], gain["per_batch_h"], gain["per_batch_money"]), (20.0, 20.0, 0.2, 10.0)
        )
        self.assertNotIn("per_batch_money", gain_of(of(100.0), of(80.0), 36, None))
        self.assertEqual(clock(125.9), "2:05")
