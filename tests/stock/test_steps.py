"""Steps cover a motion without gaps, are short, point where the tool goes, and know their straight runs."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.motion import CCW, LINE, RAPID
from lesna.stock.steps import Steps, steps_of
from tests.stock.gallery import motion, trochoid, zigzag


class Cover(unittest.TestCase):
    def test_end_to_end_and_as_long_as_the_motion(self) -> None:
        for path in (zigzag(4.0, 5, 2, 3.0), trochoid(4.0, 1.0, 5)):
            steps = steps_of(path, 0.5)
            np.testing.assert_allclose(steps.start[1:][steps.joined[1:]], steps.end[:-1][steps.joined[1:]], atol=1e-9)
            np.testing.assert_allclose(steps.end[-1], path.end[-1])
            feeds = path.kind[steps.move] != RAPID
            self.assertLessEqual(steps.length[feeds].max(), 0.5 + 1e-9)
            self.assertAlmostEqual(float(steps.length.sum()), float(path.length.sum()), places=6)
            self.assertEqual(sorted(set(steps.move.tolist())), list(range(len(path))))

    @settings(max_examples=50)
    @given(
        st.lists(st.tuples(st.floats(-30, 30), st.floats(-30, 30), st.floats(-5, 5)), min_size=2, max_size=8),
        st.floats(0.1, 3),
    )
    def test_headings_are_unit_vectors_or_none(self, places: list[tuple[float, float, float]], longest: float) -> None:
        path = motion([(LINE, place, None) for place in places[1:]], places[0])
        steps = steps_of(path, longest)
        size = np.linalg.norm(steps.heading, axis=1)
        self.assertTrue(((np.abs(size - 1) < 1e-9) | (size == 0)).all())
        flat = np.linalg.norm((steps.end - steps.start)[:, :2], axis=1)
        self.assertTrue((size[flat > 1e-3] > 0).all())

    def test_a_gap_is_not_joined(self) -> None:
        first, second = motion([(LINE, (5, 0, 0), None)], (0, 0, 0)), motion([(LINE, (9, 9, 0), None)], (5, 9, 0))
        both = type(first)(
            *(np.concatenate((getattr(first, name), getattr(second, name))) for name in first.__dataclass_fields__)
        )
        steps = steps_of(both, 1.0)
        self.assertEqual(np.flatnonzero(~steps.joined).tolist(), [0, 5])


class Headings(unittest.TestCase):
    def test_straight_down_has_none(self) -> None:
        steps = steps_of(motion([(LINE, (0, 0, -3), None)], (0, 0, 0)), 1.0)
        self.assertEqual(steps.heading.tolist(), [[0.0, 0.0]] * 3)

    def test_short_lines_along_a_curve_take_the_mean_at_their_joint(self) -> None:
        turn = np.radians(10.0)
        steps = steps_of(
            motion([(LINE, (1, 0, 0), None), (LINE, (1 + np.cos(turn), np.sin(turn), 0), None)], (0, 0, 0)), 5.0
        )
        np.testing.assert_allclose(steps.heading[0], [np.cos(turn / 2), np.sin(turn / 2)], atol=1e-9)
        sharp = steps_of(motion([(LINE, (1, 0, 0), None), (LINE, (1, 1, 0), None)], (0, 0, 0)), 5.0)
        np.testing.assert_allclose(sharp.heading[0], [1, 0], atol=1e-9)

    def test_an_arc_points_along_its_tangent(self) -> None:
        steps = steps_of(motion([(CCW, (0, 4, 0), (0, 0))], (4, 0, 0)), 0.5)
        angle = np.arctan2(steps.end[:, 1], steps.end[:, 0])
        np.testing.assert_allclose(steps.heading, np.stack((-np.sin(angle), np.cos(angle)), axis=1), atol=1e-9)


def plain_ways(straight: np.ndarray, steps: Steps) -> list[int]:
    """Straight runs of level feeds: a step goes on where it turns by under 0.05 deg from the one before and from the first."""
    little = np.radians(0.05)
    turn = [abs(float(np.cross(a, b))) for a, b in zip(straight[:-1], straight[1:], strict=True)]
    off = np.abs(straight[:, 0] * steps.heading[:, 1] - straight[:, 1] * steps.heading[:, 0])
    ways, first, run = [1], 0, float(steps.length[0])
    for k in range(1, len(straight)):
        alike = turn[k - 1] < little and off[k] < little
        if ways[k - 1] != 2:
            first, run = k - 1, float(steps.length[k - 1])
        if alike and run + steps.length[k] <= 24.0 and abs(float(np.cross(straight[first], straight[k]))) < little:
            ways.append(2)
            run += float(steps.length[k])
        else:
            ways.append(1)
    return ways


class Runs(unittest.TestCase):
    def test_straight_runs_are_no_longer_than_they_may_be(self) -> None:
        steps = steps_of(motion([(LINE, (40, 0, 0), None)], (0, 0, 0)), 0.5)
        begins = np.flatnonzero(steps.way != 2)
        lengths = [float(part.sum()) for part in np.split(steps.length, begins[1:])]
        self.assertLessEqual(max(lengths), 24.0 + 1e-9)
        self.assertEqual(len(lengths), 2)

    def test_ramps_arcs_and_rapids_are_taken_one_by_one(self) -> None:
        for path in (motion([(LINE, (20, 0, -2), None)], (0, 0, 0)), motion([(CCW, (0, 4, 0), (0, 0))], (4, 0, 0)),
                     motion([(RAPID, (20, 0, 0), None)], (0, 0, 0))):  # fmt: skip
            self.assertFalse((steps_of(path, 0.5).way == 2).any())

    def test_a_wide_curve_is_no_straight_run(self) -> None:
        # half a degree from chord to chord, as an arc of 60 mm and as short lines along it
        arc = motion([(CCW, (0, 60, 0), (0, 0))], (60, 0, 0))
        turns = np.radians(np.arange(1, 181) / 2)
        lines = motion([(LINE, (60 * np.cos(t), 60 * np.sin(t), 0.0), None) for t in turns], (60, 0, 0))
        for path in (arc, lines):
            steps = steps_of(path, 0.5)
            runs = np.split(np.arange(len(steps)), np.flatnonzero(steps.way != 2)[1:])
            for run in runs:
                middle = (steps.end[run[-1], :2] + steps.start[run[0], :2]) / 2
                self.assertLess(60 - np.hypot(*middle), 0.006)

    @given(
        st.lists(st.tuples(st.floats(0.05, 30.0), st.floats(-0.4, 0.4)), min_size=1, max_size=30), st.floats(0.2, 6.0)
    )
    @settings(max_examples=60, deadline=None)
    def test_the_kernel_is_the_plain_loop(self, turned: list[tuple[float, float]], longest: float) -> None:
        """Short lines that turn little, some less than a run may: lengths [mm] and turns [deg]."""
        angle, place, lines = 0.0, np.zeros(3), []
        for length, turn in turned:
            angle += np.radians(turn if abs(turn) > 0.1 else 0.1 * turn)
            place = place + length * np.array((np.cos(angle), np.sin(angle), 0.0))
            lines.append((LINE, tuple(place.tolist()), None))
        steps = steps_of(motion(lines, (0, 0, 0)), longest)
        chord = (steps.end - steps.start)[:, :2]
        self.assertEqual(steps.way.tolist(), plain_ways(chord / np.linalg.norm(chord, axis=1)[:, None], steps))

    def test_a_stretch_is_a_slice_of_all(self) -> None:
        steps = steps_of(motion([(LINE, (10, 0, 0), None)], (0, 0, 0)), 1.0)
        part = steps.part(slice(3, 7))
        self.assertEqual(len(part), 4)
        np.testing.assert_allclose(part.start[0], steps.start[3])
