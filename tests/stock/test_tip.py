"""Cutters with a tip against the exact cross-section of what a pass takes off, and against the forces of the single cut."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.document.edits import with_tool
from lesna.geometry.motion import LINE
from lesna.model.resolve import parts_of
from lesna.physics.edge.along import along
from lesna.physics.edge.envelope import Envelope
from lesna.physics.edge.turn import turn_of
from lesna.planning.cut.setup import envelope_of, setup_of
from lesna.stock.body import Body, body_of
from lesna.stock.field import block
from lesna.stock.steps import steps_of
from lesna.stock.walk import walk
from tests.stock.gallery import motion, passes
from tests.support import LIBRARY, job

R = 6.0
BALL = body_of(Envelope("round", 12.0, 6.0, math.pi / 2, 12.0, 0.0, 4, 2))
BULL = body_of(Envelope("round", 12.0, 2.0, math.pi / 2, 12.0, 0.0, 4, 2))
LEAD = body_of(Envelope("cone", 12.0, 0.0, math.radians(20.0), 4.0, 0.0, 4, 2))


def section(body: Body, depth: float, stepover: float) -> float:
    """Area across the feed that a pass beside another takes off [mm2]."""
    x = np.linspace(-body.radius - 1, body.radius + stepover + 1, 60001)

    def cut(middle: float):  # type: ignore[no-untyped-def]
        away = np.abs(x - middle)
        beyond = np.maximum(away - body.flat, 0.0)
        lift = body.rise * beyond
        if body.corner:
            lift = body.corner - np.sqrt(np.maximum(body.corner**2 - beyond**2, 0.0))
        return np.where(away < body.radius, np.maximum(depth - lift, 0.0), 0.0)

    return float(np.trapezoid(np.maximum(cut(stepover) - cut(0.0), 0.0), x))


def last_pass(body: Body, depth: float, stepover: float, degrees: float, cell: float = 0.2):  # type: ignore[no-untyped-def]
    path = passes(stepover, degrees)
    stock, steps = block((-60, -60, -30), (60, 60, depth), cell), steps_of(path, 0.5)
    found = walk(stock, steps, body)
    here = np.flatnonzero(steps.move == len(path) - 2)[34:-34]
    return steps, found, here


class Sections(unittest.TestCase):
    def test_what_a_pass_takes_off(self) -> None:
        for body in (BALL, BULL, LEAD):
            for depth in (0.4, 1.1, 3.0, 9.0):
                for stepover in (1.5, 4.0):
                    steps, found, here = last_pass(body, depth, stepover, 17.3)
                    length, exact = steps.length[here].sum(), section(body, depth, stepover)
                    with self.subTest(corner=body.corner, depth=depth, stepover=stepover):
                        self.assertAlmostEqual(found.volume[here].sum() / length / exact, 1.0, delta=0.005)
                        self.assertAlmostEqual(
                            found.swept(body, steps.length)[here].sum() / length / exact, 1.0, delta=0.03
                        )
                        self.assertAlmostEqual(float(found.depth[here].max()), depth, delta=0.03 * depth + 0.01)

    def test_the_stepover_is_read_back(self) -> None:
        for body in (BALL, BULL, LEAD, Body(R)):
            for stepover in (1.5, 4.0):
                steps, found, here = last_pass(body, 3.0, stepover, 17.3)
                read = np.median(found.stepover(body)[here])
                with self.subTest(corner=body.corner, foot=body.foot, stepover=stepover):
                    self.assertAlmostEqual(float(read) / stepover, 1.0, delta=0.06)

    @settings(max_examples=12)
    @given(st.floats(0.2, 8.0), st.floats(1.0, 10.0), st.floats(0.0, 90.0))
    def test_any_depth_and_stepover(self, depth: float, stepover: float, degrees: float) -> None:
        steps, found, here = last_pass(BALL, depth, stepover, degrees, 0.25)
        exact = section(BALL, depth, stepover) * steps.length[here].sum()
        self.assertAlmostEqual(found.volume[here].sum() / exact, 1.0, delta=0.03)
        self.assertAlmostEqual(found.swept(BALL, steps.length)[here].sum() / exact, 1.0, delta=0.12)

    def test_levels_lie_close_at_the_tip_and_reach_the_cylinder(self) -> None:
        for body in (BALL, BULL, LEAD):
            self.assertEqual(body.edges[0], 0.0)
            self.assertAlmostEqual(body.edges[-1], body.foot)
            np.testing.assert_allclose(body.radius_at(np.array([0.0, body.foot, 20.0])), [body.flat, R, R], atol=1e-9)
        self.assertLess(BALL.edges[1], 0.01 * R)

    def test_a_small_corner_is_a_square_end(self) -> None:
        self.assertEqual(body_of(Envelope("round", 12.0, 0.5, math.pi / 2, 12.0, 0.0, 4, 4)).foot, 0.0)
        self.assertEqual(len(Body(R).edges), 0)


class Surfaces(unittest.TestCase):
    def test_a_slope_is_cut_to_where_the_ball_touches_it(self) -> None:
        # up a slope of 30 degrees: the sphere touches a plane parallel to its path
        tilt = math.radians(30.0)
        stock = block((-30, -15, -20), (30, 15, 12), 0.2)
        steps = steps_of(motion([(LINE, (20, 0, 20 * math.tan(tilt)), None)], (-20, 0, -20 * math.tan(tilt))), 0.25)
        found = walk(stock, steps, BALL)
        row = stock.height.shape[0] // 2
        middle = stock.height[row - 50 : row + 50, stock.height.shape[1] // 2]
        x = stock.origin[0] + stock.cell * (stock.height.shape[1] // 2)
        touched = x * math.tan(tilt) + R - R / math.cos(tilt)
        self.assertAlmostEqual(float(middle.min()), touched, delta=0.03)
        self.assertGreater(found.depth[np.abs(steps.end[:, 0]) < 15].min(), 3.0)

    def test_a_square_tool_after_a_ball_meets_its_scallops(self) -> None:
        stock = block((-60, -60, -30), (60, 60, 1.0), 0.2)
        walk(stock, steps_of(passes(4.0, count=4, reach=40.0), 0.5), BALL)
        steps = steps_of(motion([(LINE, (20, -4, 0), None)], (-20, -4, 0)), 0.5)
        found, here = walk(stock, steps, Body(R)), slice(30, 50)
        away = np.linspace(-2.0, 2.0, 4001)
        area = 3 * np.trapezoid(R - np.sqrt(R * R - away**2), away)
        # the disc it begins with lies on them as well
        self.assertAlmostEqual(found.volume.sum() / (40 + math.pi * R**2 / 12) / area, 1.0, delta=0.03)
        self.assertAlmostEqual(
            found.swept(Body(R), steps.length)[here].sum() / steps.length[here].sum() / area, 1.0, delta=0.1
        )


class Forces(unittest.TestCase):
    def test_a_pass_beside_another_is_the_single_cut(self) -> None:
        for kind in ("ball", "high_feed"):
            key = next(key for key, tool in LIBRARY.tools.items() if tool.kind == kind)
            setup = setup_of(parts_of(with_tool(job(), 0, key, LIBRARY), 0, LIBRARY))
            body, DC = body_of(envelope_of(LIBRARY.tools[key])), setup.shape.DC
            depth, stepover = 0.08 * DC, 0.25 * DC
            path = passes(stepover, 17.3, reach=2.5 * DC)
            steps = steps_of(path, DC / 24)
            found = walk(block((-4 * DC, -4 * DC, -30), (4 * DC, 4 * DC, depth), DC / 60), steps, body)
            here = np.flatnonzero(steps.move == len(path) - 2)
            here = here[len(here) // 3 : -len(here) // 3]
            tables = along(setup.cutter, setup.law, 0.2 * DC, (0.02, 0.6))
            loads = tables.loads(found.counts[here], found.found[here], np.full(len(here), 0.15), by_radius=False)
            turn = turn_of(setup.cutter, setup.law, 0.15, stepover, depth, direction="up")
            with self.subTest(tool=key):
                self.assertAlmostEqual(float(np.median(loads.fxy_peak)) / turn.fxy.max(), 1.0, delta=0.05)
                self.assertAlmostEqual(float(np.median(loads.torque)) / turn.means[3], 1.0, delta=0.05)


if __name__ == "__main__":
    unittest.main()
