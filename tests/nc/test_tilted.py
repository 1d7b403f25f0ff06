"""Programs of five axes: read as a control and a machine run them, written with other feeds byte for byte, refused with the line."""

import math
import re
import unittest

import numpy as np

from lesna.model.errors import InputError
from lesna.nc.locks import freedom_of
from lesna.nc.program import TiltedMoves
from lesna.nc.proof import prove
from lesna.nc.read import read_program
from lesna.nc.respelled import Piece
from lesna.nc.write import written
from tests.nc.tilted import FOLLOWED, HEAD, INVERSE, KINDS, LOCATIONS, NOT_FOLLOWED, START, TRUNNION

FEEDS = re.compile(rb"[ ]?F[\d.]+|FEDRAT/[^\r\n]*[\r\n]+")


def moves(text: str, kinematics=TRUNNION) -> TiltedMoves:  # type: ignore[no-untyped-def]
    found = read_program(text.encode(), kinematics=kinematics).moves
    assert isinstance(found, TiltedMoves)
    return found


class Reading(unittest.TestCase):
    def test_cutter_locations(self) -> None:
        m = moves(LOCATIONS)
        self.assertEqual(m.line.tolist(), [9, 11, 13, 14, 16, 18])
        self.assertEqual(m.is_feed.tolist(), [False, True, True, True, True, False])
        self.assertEqual(m.feed[1:5].tolist(), [380.0, 380.0, 380.0, 200.0])
        self.assertEqual(m.tool.tolist(), [4] * 6)
        np.testing.assert_allclose(m.turned_end[1], (-20.0, 0.0), atol=1e-4)
        np.testing.assert_allclose(m.turned_end[3], (-20.0, -90.0), atol=1e-4)
        # the tip goes where it is told, whatever the axes make of it
        tip, axis = TRUNNION.forward(TRUNNION.linear(m.end, m.turned_end), m.turned_end)
        np.testing.assert_allclose(tip, m.end, atol=1e-9)
        np.testing.assert_allclose(axis[3], (0.34202, 0.0, 0.939693), atol=1e-6)

    def test_feeds_in_either_order_and_unit(self) -> None:
        for statement, feed in (
            ("FEDRAT/MMPM,250", 250.0), ("FEDRAT/250,MMPM", 250.0), ("FEDRAT/10,IPM", 254.0), ("FEDRAT/.1,MMPR", 220.0),
            ("FEDRAT/IPR,.004", 0.1016 * 2200), ("FEDRAT/250", 250.0), ("SPINDL/RPM,1000\nFEDRAT/0.2,MMPR", 200.0),
        ):  # fmt: skip
            with self.subTest(statement=statement):
                m = moves(LOCATIONS.replace("FEDRAT/380.,MMPM", statement))
                self.assertAlmostEqual(m.feed[1], feed)
        told = read_program(LOCATIONS.replace("FEDRAT/200.,MMPM", "FEDRAT/200").encode(), kinematics=TRUNNION)
        self.assertIn("line 15: FEDRAT without a unit is taken in that of the feed before, MMPM", told.remarks)

    def test_rapid_lasts_for_one_place_and_a_feed_ends_it(self) -> None:
        m = moves(LOCATIONS.replace("FEDRAT/200.,MMPM", "RAPID\nFEDRAT/200.,MMPM"))
        self.assertTrue(m.is_feed[4])
        m = moves(LOCATIONS.replace("FEDRAT/200.,MMPM", "RAPID\n$$ now"))
        self.assertEqual(m.is_feed.tolist(), [False, True, True, True, False, False])

    def test_inches(self) -> None:
        m = moves(LOCATIONS.replace("UNITS/MM", "UNITS/INCHES").replace("380.,MMPM", "15.,IPM"))
        self.assertAlmostEqual(m.end[1, 2], 0.0)
        self.assertAlmostEqual(m.end[2, 0], 508.0)
        self.assertAlmostEqual(m.feed[1], 381.0)

    def test_an_upright_tool_needs_no_rotary_axes(self) -> None:
        flat = "LOADTL/1\nSPINDL/1000,RPM\nRAPID\nGOTO/0,0,5\nFEDRAT/100,MMPM\nGOTO/0,0,0\nGOTO/9,0,0\nFINI\n"
        found = read_program(flat.encode())
        self.assertNotIsInstance(found.moves, TiltedMoves)
        self.assertEqual(found.moves.end[-1].tolist(), [9.0, 0.0, 0.0])
        with self.assertRaisesRegex(InputError, "line 9: the tool leans here and the machine has no rotary axes"):
            read_program(LOCATIONS.encode())

    def test_blocks_with_the_tip_followed(self) -> None:
        m = moves(FOLLOWED)
        np.testing.assert_allclose(m.way[1:], (10.0, 20.0, 10.0, 50.0))
        self.assertEqual(m.feed[1:4].tolist(), [380.0] * 3)
        self.assertEqual(m.turned_end[3].tolist(), [-30.0, -45.0])
        self.assertTrue(m.followed[1:].all())

    def test_the_feed_of_the_tip(self) -> None:
        np.testing.assert_allclose(moves(INVERSE).feed[1:4], (38.0 * 10, 19.0 * 20, 38.0 * 10))
        # not followed: F runs along all words, a degree as a millimetre, or along X Y Z alone
        m = moves(NOT_FOLLOWED)
        words = math.sqrt(10.0**2 + 10.0**2 + 45.0**2)
        self.assertAlmostEqual(m.feed[3], 380.0 * m.way[3] / words)
        self.assertEqual(m.feed[2], 380.0)
        linear = type(TRUNNION)(TRUNNION.axes, feeds_all_words=False)
        self.assertAlmostEqual(moves(NOT_FOLLOWED, linear).feed[3], 380.0 * m.way[3] / 10.0)

    def test_following_begins_and_ends_where_the_axes_stand(self) -> None:
        m = moves(START + "G1 Z25. F100.\nG43.4\nG1 X1. Y1. Z1. F100.\nG49\nG1 X2.\nM30\n")
        turned, linear = np.array([[-20.0, 0.0]]), np.array([[0.0, 0.0, 25.0]])
        np.testing.assert_allclose(m.start[1], TRUNNION.forward(linear, turned)[0][0])
        np.testing.assert_allclose(m.start[2], TRUNNION.linear(np.array([[1.0, 1.0, 1.0]]), turned)[0])

    def test_three_axes_on_such_a_machine_stay_three(self) -> None:
        found = read_program(b"G21 G90 (A90)\nS100 M3\nG0 X0 Y0 Z0\nG2 X4 I2 F3\n", kinematics=TRUNNION)
        self.assertNotIsInstance(found.moves, TiltedMoves)

    def test_what_stops_with_its_line(self) -> None:
        for text, line, told in (
            (FOLLOWED.replace("X20. A-20.", "B3."), 9, "has no axis B, but A"),
            (FOLLOWED.replace("X20. A-20.", "A40."), 9, "A would have to turn to 40.000°"),
            (FOLLOWED.replace("X20. A-20.", "G2 X20. I10."), 9, "arcs are not read beside rotary axes"),
            (FOLLOWED.replace("X20. A-20.", "G91 X2."), 9, "steps are not read beside rotary axes"),
            (FOLLOWED.replace("X20. A-20.", "G81 R1. Z-3."), 9, "cycles are not read beside rotary axes"),
            (FOLLOWED.replace("G43.4 H1", "G43.5 H1"), 7, "axes written as vectors"),
            (FOLLOWED.replace("X20. A-20.", "G68.2 X0"), 9, "a turned plane is not read"),
            (INVERSE.replace("X20. F19.", "X20."), 10, "no F of its own"),
            (LOCATIONS.replace("GOTO/20,10,0,0.342020", "GOTO/20,10,0,0.442020"), 14, "a unit vector is wanted"),
            (LOCATIONS.replace("FEDRAT/380.,MMPM", "FEDRAT/0,MMPM"), 10, "a feed must be above 0"),
            (LOCATIONS.replace("FEDRAT/380.,MMPM", "CIRCLE/1,2,3"), 10, "arcs are not read"),
            (LOCATIONS.replace("FEDRAT/380.,MMPM\n", ""), 10, "cuts before any feed"),
            (LOCATIONS.replace("COOLNT/FLOOD", "WHATEVER/3"), 6, "WHATEVER is not understood"),
            (LOCATIONS.replace("COOLNT/FLOOD", "GODLTA/3"), 6, "steps are not read"),
            (LOCATIONS.replace("GOTO/20,20,0,0.342020,0,0.939693", "GOTO/20,20"), 16, "needs three numbers"),
            (LOCATIONS.replace("0,-0.342020,0.939693", "0,0.5,-0.866025"), 9, "A would have to turn to"),
            (LOCATIONS + "GOTO/1,2, $\n", 0, ""),
        ):  # fmt: skip
            with self.subTest(told=told):
                if not told:  # what follows the end is no program
                    self.assertEqual(len(moves(text)), 6)
                    continue
                with self.assertRaises(InputError) as caught:
                    read_program(text.encode(), kinematics=TRUNNION)
                self.assertIn(told, str(caught.exception))
                self.assertIn(f"line {line}:", str(caught.exception))

    def test_a_program_for_another_machine(self) -> None:
        with self.assertRaisesRegex(InputError, "Head has no axis A"):
            read_program(FOLLOWED.encode(), kinematics=HEAD)
        with self.assertRaisesRegex(InputError, "no rotary axes"):
            read_program(FOLLOWED.encode())
        self.assertEqual(len(moves(LOCATIONS, HEAD)), 6)


class Writing(unittest.TestCase):
    def programs(self):  # type: ignore[no-untyped-def]
        for name, text in {
            **KINDS,
            "locations": LOCATIONS,
            "locations, CR LF": LOCATIONS.replace("\n", "\r\n"),
        }.items():
            yield name, read_program(text.encode(), kinematics=TRUNNION)

    def test_only_feeds_differ_and_they_are_those_asked_for(self) -> None:
        for name, program in self.programs():
            with self.subTest(kind=name):
                free = freedom_of(program).feed
                wanted = {
                    row: [Piece(1.0, 1.5 * float(program.moves.feed[row]))] for row in np.flatnonzero(free).tolist()
                }
                self.assertTrue(wanted)
                out = written(program, wanted)
                self.assertEqual(FEEDS.sub(b"", out), FEEDS.sub(b"", program.text.encode("latin-1")))
                again = read_program(out, kinematics=TRUNNION)
                np.testing.assert_allclose(again.moves.feed[free] / program.moves.feed[free], 1.5, rtol=2e-3)
                kept = program.moves.is_feed & ~free
                np.testing.assert_allclose(again.moves.feed[kept], program.moves.feed[kept])

    def test_parted_moves_stay_on_their_way(self) -> None:
        for name, program in self.programs():
            with self.subTest(kind=name):
                parted = freedom_of(program).parted
                wanted = {
                    row: [
                        Piece(0.37, 1.2 * float(program.moves.feed[row])),
                        Piece(1.0, 0.8 * float(program.moves.feed[row])),
                    ]
                    for row in np.flatnonzero(parted).tolist()
                }
                out = written(program, wanted)
                again = read_program(out, kinematics=TRUNNION).moves
                self.assertGreater(len(again), len(program.moves))
                # the way takes as long as its pieces at their feeds
                fed, former = again.is_feed, program.moves.is_feed
                asked = np.where(parted, 0.37 / 1.2 + 0.63 / 0.8, 1.0)
                before = (program.moves.way / program.moves.feed * asked)[former].sum()
                self.assertAlmostEqual((again.way / again.feed)[fed].sum() / before, 1.0, delta=0.003)

    def test_a_change_of_anything_else_is_refused(self) -> None:
        program = read_program(FOLLOWED.encode(), kinematics=TRUNNION)
        for wrong in (
            FOLLOWED.replace("A-30.", "A-30.01"), FOLLOWED.replace("C-45.", "C45."), FOLLOWED.replace("Y10.", "Y10.1"),
            FOLLOWED.replace("G43.4 H1", "G43.4 H2"), FOLLOWED.replace("X20. A-20.\n", ""), FOLLOWED.replace("S2200", "S2300"),
            FOLLOWED.replace("G49", "G49 M8"),
        ):  # fmt: skip
            with self.subTest(wrong=wrong), self.assertRaises(InputError):
                prove(program, wrong.encode(), set())
        located = read_program(LOCATIONS.encode(), kinematics=TRUNNION)
        for wrong in (
            LOCATIONS.replace("GOTO/20,10,0", "GOTO/20,10,1"), LOCATIONS.replace("COOLNT/FLOOD\n", ""),
            LOCATIONS.replace("20,20,0,0.342020,0", "20,20,0,0,0.342020"), LOCATIONS.replace("LOADTL/4", "LOADTL/5"),
        ):  # fmt: skip
            with self.subTest(wrong=wrong), self.assertRaises(InputError):
                prove(located, wrong.encode(), set())


if __name__ == "__main__":
    unittest.main()
