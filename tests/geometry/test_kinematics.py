"""Rotary axes both ways, whatever turns and about what; poles, travels, and places out of reach."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.kinematics import Kinematics, Turning, kinematics_of
from lesna.model.errors import InputError
from lesna.model.facts import fact_of, read, written
from lesna.model.library_records import Machine
from tests.nc.tilted import HEAD, TRUNNION
from tests.support import LIBRARY

_HALF = float(np.sqrt(0.5))


def _kind(
    *axes: tuple[str, bool, tuple[float, float, float], tuple[float, float, float]], reach: float = 0.0
) -> Kinematics:
    first, second = (Turning(letter, table, along, through, 9.0, 9.0) for letter, table, along, through in axes)
    return Kinematics((first, second), reach)


_X, _Y, _Z, _AT = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), (0.0, 0.0, 0.0)
_SLANT = (0.0, _HALF, _HALF)
KINDS = (
    TRUNNION, HEAD, _kind(("B", False, _Y, _AT), ("C", True, _Z, (1.0, 2.0, 0.0)), reach=90.0),
    _kind(("C", False, _Z, _AT), ("A", False, _X, (0.0, 0.0, 6.0)), reach=120.0),
    # nutating axes at 45 degrees
    _kind(("B", True, _SLANT, (0.0, 0.0, -30.0)), ("C", True, _Z, _AT)),
    _kind(("C", False, _Z, _AT), ("B", False, _SLANT, _AT), reach=80.0),
)  # fmt: skip
ANGLE = st.floats(-85.0, 85.0).filter(lambda angle: abs(angle) > 1e-3)


class BothWays(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.sampled_from(KINDS), ANGLE, ANGLE, st.tuples(*[st.floats(-200.0, 200.0)] * 3))
    def test_the_way_back_is_the_way_there(
        self, kinematics: Kinematics, first: float, second: float, linear: tuple[float, ...]
    ) -> None:
        turned = np.array([[first, second]])
        tip, axis = kinematics.forward(np.array([linear]), turned)
        self.assertAlmostEqual(float(np.linalg.norm(axis)), 1.0)
        both, reached = kinematics.angles(axis)
        self.assertTrue(reached.all())
        for branch in both:
            there, direction = kinematics.forward(kinematics.linear(tip, branch), branch)
            np.testing.assert_allclose(there, tip, atol=1e-9)
            np.testing.assert_allclose(direction, axis, atol=1e-9)
        off = np.abs((both - turned + 180.0) % 360.0 - 180.0).max(axis=2).min()
        self.assertLess(off, 1e-6)

    def test_one_table_by_hand(self) -> None:
        # A at -90 lays the part's -Y upward: the tool comes along it
        np.testing.assert_allclose(
            TRUNNION.forward(np.zeros((1, 3)), np.array([[-90.0, 0.0]]))[1][0], (0.0, -1.0, 0.0), atol=1e-12
        )
        tip, _ = TRUNNION.forward(np.array([[0.0, 0.0, 30.0]]), np.array([[-90.0, 0.0]]))
        np.testing.assert_allclose(tip[0], (0.0, -50.0, -20.0), atol=1e-9)

    def test_a_head_swings_its_tip(self) -> None:
        tip, axis = HEAD.forward(np.zeros((1, 3)), np.array([[0.0, 90.0]]))
        np.testing.assert_allclose(axis[0], (1.0, 0.0, 0.0), atol=1e-12)
        np.testing.assert_allclose(tip[0], (-150.0, 0.0, 150.0), atol=1e-9)


class Paths(unittest.TestCase):
    def test_turns_go_on_and_stay_where_they_were_at_the_pole(self) -> None:
        turn = np.radians(np.linspace(0.0, 720.0, 200))
        lean = np.radians(20.0)
        axis = np.stack((np.sin(lean) * np.cos(turn), np.sin(lean) * np.sin(turn), np.full(200, np.cos(lean))), axis=1)
        axis[100] = (0.0, 0.0, 1.0)
        turned = TRUNNION.path(axis, np.arange(200))
        self.assertTrue((turned[:, 0] <= 30.0).all())
        self.assertAlmostEqual(abs(turned[-1, 1] - turned[0, 1]), 720.0, delta=1e-6)
        self.assertEqual(turned[100, 1], turned[99, 1])
        np.testing.assert_allclose(TRUNNION.forward(np.zeros((200, 3)), turned)[1], axis, atol=1e-9)

    def test_beyond_a_travel_is_refused_with_the_line(self) -> None:
        axis = np.array([[0.0, 0.0, 1.0], [0.0, 0.5, -np.sqrt(0.75)]])
        with self.assertRaisesRegex(InputError, r"line 7: A would have to turn to .*150.*goes from -120° to 30°"):
            TRUNNION.path(axis, np.array([3, 7]))
        nutating = KINDS[4]
        with self.assertRaisesRegex(InputError, "line 4: .*cannot lean the tool so far"):
            nutating.path(np.array([[0.0, 0.0, 1.0], [0.0, 0.6, -0.8]]), np.array([3, 4]))


class Rows(unittest.TestCase):
    def test_shipped_centres_have_their_axes(self) -> None:
        for id, letters in (("hsk63-5x-18k", ("A", "C")), ("hsk100-5x", ("C", "B"))):
            found = kinematics_of(LIBRARY.machines[id])
            assert found is not None
            self.assertEqual(found.letters, letters)
        self.assertIsNone(kinematics_of(LIBRARY.machines["vmc40-12k"]))

    def test_axes_are_typed_as_lines(self) -> None:
        kind = fact_of(Machine, "rotary").kind
        axes = LIBRARY.machines["hsk63-5x-18k"].rotary
        self.assertEqual(read(written(axes, kind), kind), axes)
        for text, told in (("A bench along 1 0 0 90 deg/s 300 deg/s2", "table or head"),
                           ("A table along 1 0 90 deg/s 300 deg/s2", "three numbers"),
                           ("A table along 0 0 0 90 deg/s 300 deg/s2", "no length")):  # fmt: skip
            with self.subTest(text=text), self.assertRaisesRegex(InputError, told):
                read(text, kind)

    def test_what_makes_no_machine(self) -> None:
        axis = {"letter": "A", "on": "table", "direction": [1, 0, 0], "speed_deg_s": 90, "accel_deg_s2": 300}
        other = {**axis, "letter": "C", "direction": [0, 0, 1]}
        row = LIBRARY.machines["vmc40-12k"]
        for rotary, told in (
            ([axis], "two axes"), ([axis, axis], "two letters"), ([axis, {**other, "direction": [1, 0, 0]}], "two directions"),
            ([axis, {**other, "on": "head"}], "reach_mm"), ([axis, {**other, "travel_deg": [30, -30]}], "travel_deg"),
        ):  # fmt: skip
            with self.subTest(told=told), self.assertRaisesRegex(InputError, told):
                row.with_values(rotary=rotary)


if __name__ == "__main__":
    unittest.main()
