"""Forces along a path agree with the single cut wherever both are defined, and follow what the stock leaves."""

import unittest
from dataclasses import replace

import numpy as np

from lesna.document.edits import with_tool
from lesna.model.resolve import parts_of
from lesna.physics.edge.along import along
from lesna.physics.edge.turn import turn_of
from lesna.planning.cut.setup import setup_of
from tests.support import LIBRARY, job


def setup(key: str):  # type: ignore[no-untyped-def]
    return setup_of(parts_of(with_tool(job(), 0, key, LIBRARY), 0, LIBRARY))


def one(a: float, b: float, depth: float):  # type: ignore[no-untyped-def]
    found = np.zeros((1, 6, 4))
    found[0, 0] = a, b, depth, 0.0
    return np.array([1]), found


class AgainstTheSingleCut(unittest.TestCase):
    def test_peaks_means_and_chips(self) -> None:
        for key, runout in (("sq-d12-z4", 0.0), ("sq-d12-z4", 8.0), ("al-d12-r2-z3", 5.0)):
            s = setup(key)
            cutter = replace(s.cutter, eccentricity=runout / 2000.0)
            tables = along(cutter, s.law, 20.0, (0.02, 0.3))
            errors = []
            for ae in (1.2, 4.0, 9.0, 12.0):
                for ap in (1.0, 12.0, 20.0):
                    for direction in ("down", "up"):
                        turn = turn_of(cutter, s.law, 0.08, ae, ap, direction=direction)
                        w = np.arccos(1 - ae / 6)
                        loads = tables.loads(
                            *one(*((np.pi - w, np.pi) if direction == "down" else (0, w)), ap), np.array([0.08])
                        )
                        got = (loads.fxy_peak, loads.torque, loads.torque_peak, loads.fx, loads.fy, loads.hex, loads.height,
                               loads.axial_max, loads.axial_min)  # fmt: skip
                        want = (turn.fxy.max(), turn.means[3], turn.torque.max(), turn.means[0], turn.means[1], turn.chips.max(),
                                turn.height, max(turn.fz.max(), 0), min(turn.fz.min(), 0))  # fmt: skip
                        scale = turn.fxy.max() / 5
                        errors.append([abs(g[0] - w) / max(abs(w), scale if k in (3, 4, 7, 8) else 1e-9)
                                       for k, (g, w) in enumerate(zip(got, want, strict=True))])  # fmt: skip
            with self.subTest(tool=key, runout=runout):
                self.assertLess(np.median(errors, axis=0).max(), 0.005)

                self.assertLess(np.max(errors), 0.07)

    def test_ball_and_lead_angle(self) -> None:
        for key in (next(k for k in LIBRARY.tools if LIBRARY.tools[k].kind == kind) for kind in ("ball", "high_feed")):
            s = setup(key)
            R = s.shape.DC / 2
            tables = along(s.cutter, s.law, 0.2 * R, (0.02, 0.6))
            turn = turn_of(s.cutter, s.law, 0.15, 0.4 * R, 0.2 * R)
            w = np.arccos(1 - 0.4)
            loads = tables.loads(*one(np.pi - w, np.pi, 0.2 * R), np.array([0.15]))
            with self.subTest(tool=key):
                self.assertAlmostEqual(loads.fxy_peak[0] / turn.fxy.max(), 1.0, delta=0.04)
                self.assertAlmostEqual(loads.torque[0] / turn.means[3], 1.0, delta=0.03)


class AlongAPath(unittest.TestCase):
    def setUp(self) -> None:
        self.s = setup("sq-d12-z4")
        self.tables = along(self.s.cutter, self.s.law, 20.0, (0.02, 0.3))

    def test_power_is_specific_force_times_removal(self) -> None:
        # the small corner of a square end is a longer edge than its height
        for a, b in ((0.3, 1.2), (1.0, 2.6), (0.0, np.pi)):
            for fz in (0.03, 0.1, 0.25):
                loads = self.tables.loads(*one(a, b, 10.0), np.array([fz]))
                phi = np.linspace(a, b, 20001)
                force = self.s.law.per_edge(fz * np.sin(phi))
                mean = 10.0 * 4 / (2 * np.pi) * np.trapezoid(force, phi)
                self.assertAlmostEqual(loads.torque[0], mean * 6.0 / 1000.0, delta=4e-3 * loads.torque[0])

    def test_two_intervals_are_both_counted_and_depths_are_their_own(self) -> None:
        counts, found = one(0.4, 0.9, 8.0)
        first = self.tables.loads(counts, found, np.array([0.08]))
        second = self.tables.loads(*one(2.0, 2.8, 3.0), np.array([0.08]))
        found[0, 1] = 2.0, 2.8, 3.0, 0.0
        both = self.tables.loads(np.array([2]), found, np.array([0.08]))
        for name in ("torque", "fx", "fy"):
            self.assertAlmostEqual(getattr(both, name)[0], getattr(first, name)[0] + getattr(second, name)[0],
                                   delta=3e-3 * abs(getattr(both, name)[0]))  # fmt: skip

    def test_force_rises_with_feed_and_between_the_tables_it_lies_on_the_curve(self) -> None:
        feeds = np.geomspace(0.02, 0.3, 400)
        n = len(feeds)
        found = np.zeros((n, 6, 4))
        found[:, 0] = 2.0, np.pi, 12.0, 0.0
        peak = self.tables.loads(np.ones(n, dtype=np.int64), found, feeds).fxy_peak
        self.assertTrue((np.diff(peak) > 0).all())
        for k in (37, 180, 333):
            turn = turn_of(self.s.cutter, self.s.law, float(feeds[k]), 6 * (1 + np.cos(2.0)), 12.0)
            self.assertAlmostEqual(peak[k] / turn.fxy.max(), 1.0, delta=0.01)

    def test_feeds_tried_on_the_same_steps_are_those_of_the_tables(self) -> None:
        chance = np.random.default_rng(5)
        for key in ("sq-d12-z4", "al-d12-r2-z3"):
            s = setup(key)
            cutter = replace(s.cutter, eccentricity=0.002 * (key == "sq-d12-z4"))
            tables = along(cutter, s.law, 20.0, (0.02, 0.3))
            n = 60
            counts, found = chance.integers(0, 3, n), np.zeros((n, 6, 4))
            found[:, :2, :2] = np.sort(chance.uniform(0.0, np.pi, (n, 2, 2)), axis=2)
            found[:, :2, 2] = chance.uniform(0.5, 20.0, (n, 2))
            tried = tables.at_nodes(counts, found)
            for fz in (
                chance.uniform(0.0, 0.4, n),
                tables.nodes[chance.integers(0, len(tables.nodes), n)],
                np.zeros(n),
            ):
                for name, values in vars(tables.loads(counts, found, fz)).items():
                    got = getattr(tried.loads(fz), name)
                    np.testing.assert_allclose(got, values, rtol=1e-9, atol=1e-9, err_msg=f"{key}, {name}")

    def test_nothing_engaged_is_nothing(self) -> None:
        loads = self.tables.loads(np.array([0, 1]), np.zeros((2, 6, 3)), np.array([0.1, 0.0]))
        self.assertTrue(all(not values.any() for values in vars(loads).values()))
