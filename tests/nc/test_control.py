"""What a control does with blocks that people write: ends of blocks, switches, zeros, waits, calls; and what is told or refused."""

import unittest
from unittest import mock

import numpy as np

from lesna.geometry.motion import LINE, RAPID
from lesna.model.errors import InputError
from lesna.nc import read as read_module
from lesna.nc.locks import freedom_of
from lesna.nc.proof import prove
from lesna.nc.read import read_program
from lesna.nc.write import Piece, written

START = "G21 G90 G17 G94\nT1 M6\nS3000 M3\nG0 X0. Y0. Z0.\n"


def read(text: str, start: str = START):  # type: ignore[no-untyped-def]
    return read_program((start + text).encode())


def halved(program, feed: float = 900.0):  # type: ignore[no-untyped-def]
    """The program with every move that may be parted in two pieces, the others at another feed where they may have one."""
    freedom = freedom_of(program)
    pieces = {
        int(k): [Piece(0.5, feed / 2), Piece(1.0, feed)] if freedom.parted[k] else [Piece(1.0, feed)]
        for k in np.flatnonzero(freedom.feed)
    }
    return written(program, pieces).decode()


class Ends(unittest.TestCase):
    def test_words_that_act_at_the_end_of_a_block_go_to_the_last_piece(self) -> None:
        for word in ("M0", "M1", "M2", "M5", "M9", "M30", "M60"):
            with self.subTest(word=word):
                lines = halved(read(f"G1 X75. F600 {word}\n")).splitlines()
                self.assertEqual(lines[4:], ["G1 X37.5 F450", f"X75. F900 {word}"])

    def test_words_that_act_at_its_start_stay_in_the_first(self) -> None:
        lines = halved(read("G1 X75. F600 S4000 M8 (in)\n")).splitlines()
        self.assertEqual(lines[4:], ["G1 X37.5 F450 S4000 M8 (in)", "X75. F900"])

    def test_in_doubt_a_block_stays_whole(self) -> None:
        for words in ("M51", "G9", "H3", "T2 M6", "P4"):
            with self.subTest(words=words):
                program = read(f"G1 X75. F600 {words}\n")
                self.assertFalse(freedom_of(program).parted.any())
                self.assertIn("X75.", halved(program).splitlines()[4])


class Modes(unittest.TestCase):
    def test_a_motion_word_holds_whatever_else_stands_in_its_block(self) -> None:
        for block in ("G0 G28 Z0.", "G0 G53 Z0.", "G0 G4 P10", "G0", "G0 G30 Z0."):
            with self.subTest(block=block):
                program = read(f"G1 Z-1. F100\nX10.\n{block}\nX50. Y2. Z3.\nX60.\n")
                self.assertEqual(program.moves.kind.tolist()[-1], RAPID)

    def test_centre_words_alone_are_a_full_circle(self) -> None:
        moves = read("G3 X20. Y0. I10. F500\nI-6.\n").moves
        self.assertAlmostEqual(float(moves.sweep[-1]), 2 * np.pi)
        self.assertAlmostEqual(float(moves.length[-1]), 2 * np.pi * 6)

    def test_a_wait_has_no_feed(self) -> None:
        program = read("G1 X10. F500\nG4 F2\nG1 X20.\n")
        self.assertEqual(program.moves.feed.tolist(), [500, 500])
        self.assertAlmostEqual(60 * program.dwell, 2.0)

    def test_two_zeros_are_two_places(self) -> None:
        program = read("G1 X10. F500\nG0 Z5.\nG55 X0. Y0.\nZ2.\nG1 Z-1.\nX10.\n")
        self.assertEqual(program.offsets, (54.0, 55.0))
        self.assertEqual(program.moves.offset.tolist(), [54, 54, 55, 55])

    def test_the_length_of_a_tool_after_its_change_is_ordinary(self) -> None:
        program = read("T2 M6\nG43 H2 Z50.\nG0 X1. Y1. Z2.\nG1 Z-1. F100\n", "G90 G21\nS3000 M3\n")
        self.assertEqual(program.remarks, ())
        self.assertEqual(program.moves.kind.tolist(), [LINE])


class Feeds(unittest.TestCase):
    def test_a_move_from_an_unknown_place_gets_its_own_feed_back(self) -> None:
        text = halved(read("G1 X10. F500\nG0 G53 Z0.\nG1 X20. Y3. Z-2.\n"))
        self.assertIn("Z-2. F500", text)

    def test_a_feed_per_turn_outlives_a_change_of_speed(self) -> None:
        program = read("G95\nG1 X10. F0.2\nG4 P10\nS1000\nX20.\nG0 G53 Z0.\nG1 Z-2.\n")
        text = halved(program)
        self.assertTrue(text.splitlines()[-1].endswith("F0.2"))
        again = read_program(text.encode())
        self.assertAlmostEqual(float(again.trace.moves.feed[-1]), 200.0)

    def test_a_change_of_units_without_a_feed_is_told_and_kept(self) -> None:
        program = read("G1 X10. F500\nG20 X1.\nX2.\n")
        self.assertIn("units change", program.remarks[0])
        self.assertFalse(freedom_of(program).feed[1:].any())
        self.assertEqual(halved(program).splitlines()[4:], ["G1 X10. F500", "G20 X1.", "X2."])

    def test_program_figures_are_kept(self) -> None:
        lines = halved(read("G01 X10.0001 Y3. F500 (a)\n")).splitlines()
        self.assertRegex(lines[4], r"^G01 X5\.\d{0,4} Y1\.\d{0,4} F450 \(a\)$")
        inch = halved(read("G20 X0. Y0. F20.\nG1 X1. Y.3333\n"), 25.4 * 20).splitlines()
        self.assertRegex(inch[5], r"^G1 X0?\.\d{1,4} Y0?\.\d{1,4} F10\.$")

    def test_a_control_that_wants_no_points_gets_none(self) -> None:
        start = "G21 G90\nS3000 M3\nG0 X0 Y0 Z0\n"
        self.assertEqual(halved(read("G1 X75 F600\n", start)).splitlines()[3:], ["G1 X38 F450", "X75 F900"])
        self.assertEqual(halved(read("G1 X7 Y3 F600\n", start)).splitlines()[3:], ["G1 X7 Y3 F450"])


class Skipped(unittest.TestCase):
    def test_every_setting_of_the_switches_runs_as_before(self) -> None:
        text = "G1 X10. F500\n/2 G1 Y5. F200\nX20.\n/3 M7\n/ M8\nG1 X30. Y0.\nX40.\nX50. F800\nX60.\n"
        program = read(text)
        out = halved(program)
        self.assertIn("blocks with / are run", program.remarks[0])
        self.assertIn("\n/2 G1 Y5. F200\n", out)
        prove(program, out.encode(), set(range(1, 20)))
        self.assertNotEqual(out, program.text)

    def test_what_differs_with_the_switch_keeps_its_feed(self) -> None:
        program = read("/G1 X10. F500\nG1 X5. Y10. F500\nX20.\n")
        self.assertEqual(freedom_of(program).feed.tolist(), [False, False, True])


class Calls(unittest.TestCase):
    SUB = "M30\nO100\nG91\nG1 X10. F300\nY2.\nG90\nM99\n"

    def test_local_subprograms_are_run_as_often_as_asked(self) -> None:
        for call in ("M98 P100 L3", "M98 P30100"):
            with self.subTest(call=call):
                moves = read(f"{call}\nG0 Z5.\n{self.SUB}").moves
                self.assertEqual(moves.end[-2].tolist(), [30, 6, 0])
                self.assertEqual(moves.line.tolist()[:-1], [10, 11] * 3)

    def test_a_number_of_a_block_can_be_called_too(self) -> None:
        self.assertEqual(read("M98 P7\nM30\nN7 G1 X4. F100\nM99\n").moves.end[-1].tolist(), [4, 0, 0])

    def test_what_inherits_another_feed_in_each_call_is_kept(self) -> None:
        program = read("F100\nM98 P5\nF200\nM98 P5\nM30\nO5\nG91 G1 X4.\nX5. F300\nX6.\nG90\nM99\n")
        self.assertEqual(freedom_of(program).feed.tolist(), [False, True, False] * 2)

    def test_calls_are_bounded(self) -> None:
        for text, words in (
            ("M98 P5\nM30\nO5\nM98 P5\nM99\n", "8 deep"),
            ("M98 P5 L5000\nM30\nO5\nG4 P1\nG4 P1\nM99\n", "more than 9,000"),
            ("M98 P6\nM30\n", "no subprogram O6"), ("M99\n", "begins it again"),
            ("M98 P5\nM30\nO5\nM99 P20\n", "numbered block"), ("M98 P5\nM30\nO5\nG1 X1. F9\n", "no end"),
        ):  # fmt: skip
            with (
                self.subTest(text=text),
                mock.patch.object(read_module, "MOST_CALLED", 9_000),
                self.assertRaisesRegex(InputError, f"line \\d+: .*{words}"),
            ):
                read(text)


class Refused(unittest.TestCase):
    def test_with_the_line(self) -> None:
        for text, words in (
            ("G1 X5. R2. F100\n", "corner"), ("G1 X5. ,R2. F100\n", "corners"), ("G1 X5. ,C2. F100\n", "corners"),
            ("G1 X5. C2. F100\n", "rotary"), ("G2 X5. I2.5 P3 F100\n", "turns"), ("M198 P4\n", "other files"),
            ("L100\n", "calls by L"), ("G1 X5. F1" + "0" * 399 + "\n", "figures"), ("G1 X5. F1000000000\n", "no machine feeds"),
            ("M5\nG95\nG1 X5. F.2\n", "spindle stands"), ("G1 X5.\rG1 X6. F100\n", "carriage return"), ("G4 P1 S200\n", "G4"),
            ("G83 X5. Y5. Z-20. R1. Q0.00001 F100\n", "pecks"),
        ):  # fmt: skip
            with self.subTest(text=text), self.assertRaisesRegex(InputError, f"line [5-7]: .*{words}"):
                read(text)

    def test_told(self) -> None:
        for text, words in (
            ("G1 X5. F100\nG49\n", "length changes"), ("G1 X5. F100 ; Y20. Z-3.\n", "behind a semicolon"),
            ("M5\nG1 X5. F100\n", "no M3"), ("G1 X5. F100\nG44 H2\n", "length changes"),
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertIn(words, " ".join(read(text).remarks))


class Proof(unittest.TestCase):
    TEXT = "G1 X10. F500\nY10. M8\nG2 X20. Y0. I0. J-10.\nG0 Z5.\nM5\nG4 P500\nG1 Z-1. F90\n"

    def test_whatever_differs_is_found(self) -> None:
        program = read(self.TEXT)
        everything = set(range(1, 20))
        for old, new in (
            ("X10.", "X10.01"), ("Y10. M8", "Y10."), ("M8", "M7"), ("G2", "G3"), ("G0 Z5.", "G1 Z5."), ("M5\n", ""),
            ("P500", "P400"), ("S3000", "S3001"), ("T1", "T2"), ("J-10.", "J-10.02"), ("G1 Z-1. F90\n", ""), ("G17", "G18"),
            ("G0 Z5.\nM5", "M5\nG0 Z5."), ("Y10. M8", "/Y10. M8"), ("G21", "G20"), ("G94", "G95"),
        ):  # fmt: skip
            changed = program.text.replace(old, new, 1)
            with self.subTest(old=old, new=new), self.assertRaisesRegex(InputError, "nothing is written|line"):
                prove(program, changed.encode(), everything)

    def test_feeds_may_differ_where_they_are_freed_and_nowhere_else(self) -> None:
        program = read(self.TEXT)
        changed = program.text.replace("F90", "F80").encode()
        prove(program, changed, {11})
        with self.assertRaisesRegex(InputError, "line 11: another feed"):
            prove(program, changed, {5})


if __name__ == "__main__":
    unittest.main()
