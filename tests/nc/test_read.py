"""Modal state exactly, arcs in all planes, cycles as motion; whatever cannot be read is named by line and word."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.motion import CCW, CW, LINE, RAPID
from lesna.model.errors import InputError
from lesna.nc.read import read_program
from lesna.nc.words import MOST_BYTES

START = "G21 G17 G90 G94\nT1 M6\nS5000 M3\nG0 X0 Y0 Z5\nF800\n"


def moves(text: str):  # type: ignore[no-untyped-def]
    return read_program((START + text).encode()).moves


class Motion(unittest.TestCase):
    def test_a_modal_line_and_its_line_number(self) -> None:
        m = moves("G1 Z-1\nX10\nY20 F500\nN40X5Y5(back)\n")
        self.assertEqual(m.kind.tolist(), [LINE] * 4)
        self.assertEqual(m.line.tolist(), [6, 7, 8, 9])
        self.assertEqual(m.feed.tolist(), [800, 800, 500, 500])
        self.assertEqual(m.end[-1].tolist(), [5, 5, -1])
        self.assertEqual(m.rpm.tolist(), [5000] * 4)
        self.assertEqual(m.tool.tolist(), [1] * 4)

    def test_inches_steps_and_feeds_per_turn(self) -> None:
        m = moves("G20 G91\nG1 X1. F10.\nX-.5\nG95 F.004\nY1\n")
        self.assertEqual(m.end.tolist(), [[25.4, 0, 5], [12.7, 0, 5], [12.7, 25.4, 5]])
        np.testing.assert_allclose(m.feed, [254, 254, 0.004 * 25.4 * 5000])
        self.assertEqual(m.inch.tolist(), [True] * 3)
        self.assertEqual(m.relative.tolist(), [True] * 3)
        self.assertEqual(m.per_turn.tolist(), [False, False, True])

    def test_an_axis_is_unknown_until_it_is_programmed(self) -> None:
        m = read_program(b"G90 F100\nG0 X1 Y1\nX2\nZ3\nX4\nG28 Z3\nX9\nZ0\nX1\n").moves
        self.assertEqual([m.start[k].tolist() + m.end[k].tolist() for k in range(len(m))],
                         [[2, 1, 3, 4, 1, 3], [9, 1, 0, 1, 1, 0]])  # fmt: skip

    def test_spellings(self) -> None:
        plain = moves("G1 X10 Y5.5 F600\nG2 X20 I5\n")
        for text in ("g1x10y5.5f600\ng02x20i5\n", "N10 G01 X+10. Y 5.50 F600. ; note\n/G2 X20 I5 (half)\n",
                     "X10Y5.5G1F600\n/1 X20I5.G2\n"):  # fmt: skip
            with self.subTest(text=text):
                other = moves(text)
                np.testing.assert_allclose(other.end, plain.end)
                np.testing.assert_allclose(other.sweep, plain.sweep)
                self.assertEqual(other.feed.tolist(), plain.feed.tolist())

    def test_what_follows_the_end_is_no_program(self) -> None:
        for end in ("M30\n", "M2\n", "%\n"):
            self.assertEqual(len(read_program(f"%\nO12\n{START}G1 X1\n{end}G1 X2 nonsense\n".encode()).moves), 1)

    def test_tools_and_their_lines(self) -> None:
        program = read_program(b"T1\nM6\nT2\nS100 M3\nG0 X0 Y0 Z0\nG1 X1 F5\nM6\nX2\nM5\nX3\n")
        self.assertEqual(program.moves.tool.tolist(), [1, 2, 2])
        self.assertEqual(program.changes, ((2, 1), (7, 2)))
        self.assertEqual(program.moves.rpm.tolist(), [100, 100, 0])
        self.assertEqual(program.moves.feed.tolist(), [5, 5, 5], "F survives the change")
        self.assertEqual(program.tools, (1, 2))

    def test_drilling_as_motion(self) -> None:
        m = moves("G98 G83 X10 Y0 Z-6 R1 Q3 F100\nX20\nG80\nG0 X0\n")
        feeds = [(m.end[k][0], m.end[k][2]) for k in range(len(m)) if m.kind[k] == LINE]
        self.assertEqual(feeds, [(10, -2), (10, -5), (10, -6), (20, -2), (20, -5), (20, -6)])
        self.assertEqual(m.end[-2].tolist(), [20, 0, 5], "back to the plane it began at")
        self.assertTrue(m.is_cycle[:-1].all())
        low = moves("G99 G81 X10 Y0 Z-6 R1 F100\nG80\n")
        self.assertEqual(low.end[-1].tolist(), [10, 0, 1])


class Arcs(unittest.TestCase):
    def one(self, text: str):  # type: ignore[no-untyped-def]
        m = moves(text)
        return m, len(m) - 1

    def test_quarter_half_and_full_by_centre(self) -> None:
        for text, sweep in (("G3 X5 Y5 I0 J5", math.pi / 2), ("G2 X5 Y5 I5 J0", -math.pi / 2), ("G3 X0 Y0 I5 J0", 2 * math.pi),
                            ("G2 I5", -2 * math.pi), ("G2 X10 Y0 I5 J0", -math.pi)):  # fmt: skip
            m, k = self.one(text)
            with self.subTest(text=text):
                self.assertAlmostEqual(m.sweep[k], sweep)
                self.assertEqual(m.kind[k], CCW if sweep > 0 else CW)

    def test_radius_both_ways(self) -> None:
        far, near = math.sqrt(75), -math.sqrt(75)
        cases = (("G2 X10 Y0 R10", -math.pi / 3, near), ("G2 X10 Y0 R-10", -5 * math.pi / 3, far),
                 ("G3 X10 Y0 R10", math.pi / 3, far), ("G3 X10 R-10", 5 * math.pi / 3, near))  # fmt: skip
        for text, sweep, centre in cases:
            m, k = self.one(text)
            with self.subTest(text=text):
                self.assertAlmostEqual(m.sweep[k], sweep)
                np.testing.assert_allclose(m.centre[k][:2], [5, centre])

    @settings(max_examples=60)
    @given(st.sampled_from(["G17", "G18", "G19"]), st.floats(0, 6.28), st.floats(0.05, 6.2), st.floats(1, 50), st.booleans(),
           st.floats(-5, 5))  # fmt: skip
    def test_centre_and_radius_agree_in_every_plane(
        self, plane: str, begin: float, angle: float, radius: float, left: bool, rise: float
    ) -> None:
        first, second, normal = {"G17": "XYZ", "G18": "ZXY", "G19": "YZX"}[plane]
        names = dict(zip("XYZ", "IJK", strict=True))
        turned = begin + (angle if left else -angle)
        a, b = radius * np.exp(1j * begin), radius * np.exp(1j * turned)
        go = f"G0 {first}{a.real:.9f} {second}{a.imag:.9f} {normal}0\n{plane} G{3 if left else 2} "
        end = f"{first}{b.real:.9f} {second}{b.imag:.9f} {normal}{rise:.6f} "
        by_centre = moves(f"{go}{end}{names[first]}{-a.real:.9f} {names[second]}{-a.imag:.9f}\n")
        k = len(by_centre) - 1
        self.assertAlmostEqual(by_centre.sweep[k], turned - begin, places=5)
        self.assertAlmostEqual(by_centre.length[k], math.hypot(radius * angle, rise), places=4)
        if abs(angle - math.pi) > 0.05:
            by_radius = moves(f"{go}{end}R{radius if angle < math.pi else -radius:.9f}\n")
            self.assertAlmostEqual(by_radius.sweep[k], by_centre.sweep[k], places=4)
            np.testing.assert_allclose(by_radius.centre[k], by_centre.centre[k], atol=2e-4)


class Refusals(unittest.TestCase):
    def test_each_names_its_line_and_word(self) -> None:
        for text, words in (
            ("G1 X5\nG2 X10 I4\n", ("line 7", "from its centre")), ("G41 D1\n", ("line 6", "G41", "compensation")),
            ("G1 X1 A5\n", ("A5", "rotary")), ("X1 X2\n", ("X stands twice",)), ("G0 G1 X1\n", ("two motion words",)),
            ("G93\n", ("G93", "inverse time")), ("M98 P10\n", ("M98", "no subprogram O10")), ("#1=5\n", ("#1=5", "variables")),
            ("G1 X[1]\n", ("X[1]", "variables")), ("G1 X\n", ("X needs a number",)), ("G1 XNAN\n", ("needs a number",)),
            ("G1 X1 F0\n", ("F0", "above 0")), ("S11800000 M3\n", ("S1.18e+07", "500000")),
            ("G2 X10 R2\n", ("R2", "at least 5")), ("G2 X0 Y0 R5\n", ("full circle",)),
            ("G5.1 Q1\n", ("G5.1",)), ("G77 X1\n", ("G77", "not understood")), ("G84 X1 Z-2 R1\n", ("G84", "cycle")),
            ("G1 X1 (open\n", ("no end",)), ("G1 X1 E5\n", ("E5", "not understood")), ("G17 G2 X5 K3\n", ("K", "plane")),
            ("T1.5\n", ("T1.5", "whole number")), ("G1 X1e9\n", ("E9", )), ("G1 X99999999\n", ("outside any machine",)),
        ):  # fmt: skip
            with self.subTest(text=text), self.assertRaises(InputError) as told:
                moves(text)
            self.assertRegex(str(told.exception), "^line [67]: ")
            for word in words:
                self.assertIn(word, str(told.exception))

    def test_a_cutting_move_before_any_feed(self) -> None:
        for text in ("G1 X1", "G2 X1 I.5"):
            with self.assertRaisesRegex(InputError, "line 2: .*before any F"):
                read_program(f"G0 X0 Y0 Z0\n{text}\n".encode())
        with self.assertRaisesRegex(InputError, "line 1: .*before any G0 or G1"):
            read_program(b"X1\n")

    def test_files_that_are_no_program(self) -> None:
        for content, word in (
            (b"", "empty"),
            (b" \n\n", "empty"),
            (b"\x7fELF\0\0", "no text"),
            (b"G1" * (MOST_BYTES // 2 + 1), "MB"),
        ):
            with self.assertRaisesRegex(InputError, word):
                read_program(content)
        with self.assertRaisesRegex(InputError, "line 1"):
            read_program(b"\x89PNG\r\n")

    def test_what_says_nothing_about_motion_is_kept(self) -> None:
        program = read_program(f"{START}M8\nM88 P3\nG43 H1\nG64\nG4 P500\nG55\nG1 X1\nG54\n".encode())
        self.assertAlmostEqual(program.dwell * 60, 0.5)
        self.assertEqual(
            program.moves.offset.tolist(), [54.0] * len(program.moves)
        )  # where X1 of G55 lies nobody knows
        self.assertEqual(RAPID, 0)
