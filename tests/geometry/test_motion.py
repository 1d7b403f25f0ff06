"""Lines and arcs as rows: lengths, places and directions against closed forms, in every plane."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.motion import CCW, CW, IN_PLANE, LINE, RAPID, Motion, in_plane


def arc(plane: int, radius: float, begin: float, sweep: float, rise: float = 0.0) -> Motion:
    """One arc about (1, 2, 3)."""
    middle = np.array([1.0, 2.0, 3.0])
    first, second = IN_PLANE[plane]

    def place(angle: float, share: float) -> np.ndarray:
        out = middle.copy()
        out[first] += radius * math.cos(angle)
        out[second] += radius * math.sin(angle)
        out[plane] += share * rise
        return out

    return Motion(
        kind=np.array([CCW if sweep > 0 else CW]), start=place(begin, 0)[None], end=place(begin + sweep, 1)[None], centre=middle[None],
        plane=np.array([plane]), sweep=np.array([sweep]), feed=np.array([100.0]), rpm=np.array([1.0]), axis=np.array([[0, 0, 1.0]]),
    )  # fmt: skip


def line(start: tuple[float, float, float], end: tuple[float, float, float], kind: int = LINE) -> Motion:
    """One line."""
    return Motion(
        kind=np.array([kind]), start=np.array([start]), end=np.array([end]), centre=np.full((1, 3), np.nan), plane=np.array([2]),
        sweep=np.zeros(1), feed=np.array([100.0]), rpm=np.array([1.0]), axis=np.array([[0, 0, 1.0]]),
    )  # fmt: skip


ONE = np.zeros(1, dtype=np.int64)
ARCS = {
    "plane": st.integers(0, 2), "radius": st.floats(0.1, 200), "begin": st.floats(-7, 7),
    "sweep": st.floats(0.01, 2 * math.pi).flatmap(lambda a: st.sampled_from([a, -a])), "rise": st.floats(-20, 20),
}  # fmt: skip


class Lines(unittest.TestCase):
    def test_length_place_and_direction(self) -> None:
        m = line((0, 0, 0), (3, 4, 12))
        self.assertAlmostEqual(m.length[0], 13.0)
        np.testing.assert_allclose(m.at(ONE, np.array([0.5]))[0], [1.5, 2, 6])
        np.testing.assert_allclose(m.direction(ONE, np.array([0.2]))[0], np.array([3, 4, 12]) / 13)
        self.assertTrue(m.is_feed[0])
        self.assertFalse(line((0, 0, 0), (1, 0, 0), RAPID).is_feed[0])
        self.assertEqual(len(m), 1)


class Arcs(unittest.TestCase):
    @settings(max_examples=80)
    @given(**ARCS)
    def test_length_ends_and_distance_from_the_centre(
        self, plane: int, radius: float, begin: float, sweep: float, rise: float
    ) -> None:
        m = arc(plane, radius, begin, sweep, rise)
        self.assertAlmostEqual(m.length[0], math.hypot(radius * sweep, rise), places=6)
        for share in (0.0, 0.3, 1.0):
            place = m.at(ONE, np.array([share]))
            arm = in_plane(place - m.centre, m.plane)
            self.assertAlmostEqual(float(np.linalg.norm(arm)), radius, places=6)
            self.assertAlmostEqual(float(place[0, plane] - m.centre[0, plane]), share * rise, places=6)
        np.testing.assert_allclose(m.at(ONE, np.array([0.0]))[0], m.start[0], atol=1e-6)
        np.testing.assert_allclose(m.at(ONE, np.array([1.0]))[0], m.end[0], atol=1e-5)

    @settings(max_examples=80)
    @given(**ARCS)
    def test_direction_is_that_of_a_short_chord(
        self, plane: int, radius: float, begin: float, sweep: float, rise: float
    ) -> None:
        m = arc(plane, radius, begin, sweep, rise)
        a, b = m.at(ONE, np.array([0.5 - 1e-5]))[0], m.at(ONE, np.array([0.5 + 1e-5]))[0]
        chord = (b - a) / np.linalg.norm(b - a)
        np.testing.assert_allclose(m.direction(ONE, np.array([0.5]))[0], chord, atol=2e-4)

    def test_a_quarter_turns_left_seen_along_the_normal(self) -> None:
        m = arc(2, 5.0, 0.0, math.pi / 2)
        np.testing.assert_allclose(m.end[0], [1, 7, 3])
        np.testing.assert_allclose(m.direction(ONE, np.array([0.0]))[0], [0, 1, 0], atol=1e-12)
        back = arc(2, 5.0, 0.0, -math.pi / 2)
        np.testing.assert_allclose(back.end[0], [1, -3, 3])
