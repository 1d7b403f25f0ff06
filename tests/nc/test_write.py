"""Reading and writing changes nothing; levelled feeds change feeds; parted blocks lie on the same geometry."""

import unittest

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from lesna.geometry.motion import RAPID
from lesna.model.errors import InputError
from lesna.nc.locks import freedom_of
from lesna.nc.proof import aligned, aside
from lesna.nc.read import read_program
from lesna.nc.write import Piece, written
from tests.nc.gallery import programs
from tools import attack_programs


def point_on(moves, number: int, share: float):  # type: ignore[no-untyped-def]
    return moves.at(np.array([number]), np.array([share]))[0]


SOME = settings(max_examples=80)


class Attacked(unittest.TestCase):
    """A share of tools/attack_programs.py."""

    def test_programs_fed_otherwise_run_as_before_on_a_control_of_its_own(self) -> None:
        found = attack_programs.tried(range(400))
        self.assertLess(found.pop("refused", 0), 60)
        self.assertEqual(dict(found), {})

    def test_that_control_sees_what_is_wrong(self) -> None:
        before = attack_programs.ran("G21 G0 X0. Y0. Z0.\nG1 X9. F100\nM8\nY9.\nG3 X0. Y9. I-4.5\n", frozenset())
        for text in ("G21 G0 X0. Y0. Z0.\nG1 X9. F100\nY9.\nM8\nG3 X0. Y9. I-4.5\n",
                     "G21 G0 X0. Y0. Z0.\nG1 X9. F100\nM8\nY9. F80\nG3 X0. Y9. I-4.5\n",
                     "G21 G0 X0. Y0. Z0.\nG1 X9. F100\nM8\nY9.\nG2 X0. Y9. I-4.5\n",
                     "G21 G0 X0. Y0. Z0.\nG1 X8.9\nX9. F100\nM8\nY9.\nG3 X0. Y9. J4.5\n"):  # fmt: skip
            self.assertTrue(attack_programs.difference(before, attack_programs.ran(text, frozenset()), {2}))


class Unchanged(unittest.TestCase):
    @SOME
    @given(programs())
    def test_byte_for_byte(self, content: bytes) -> None:
        self.assertEqual(written(read_program(content), {}), content)

    @settings(max_examples=300)
    @example(b"G0\x85X0\x0bY0\rZ0\x1cG1X1F5")
    @example(b"G0 X1\xa0\n")
    @given(
        st.one_of(
            st.binary(max_size=60), st.text(alphabet="GXYZFIJR0123456789.-+ \n()%;NMTS/#[", max_size=80).map(str.encode)
        )
    )
    def test_anything_that_reads_is_written_as_it_was_and_anything_else_names_its_line(self, content: bytes) -> None:
        try:
            program = read_program(content)
        except InputError as error:
            self.assertRegex(str(error), "^line \\d+: |MB")
            return
        self.assertEqual(written(program, {}), content)

    def test_a_header_stands_behind_frame_and_number(self) -> None:
        program = read_program(b"%\r\nO7\r\nG0 X1\r\n")
        self.assertEqual(written(program, {}, ["levelled (ease)"]), b"%\r\nO7\r\n(levelled [ease])\r\nG0 X1\r\n")
        self.assertEqual(written(read_program(b"G0 X1"), {}, ["a"]), b"(a)\nG0 X1")


class Levelled(unittest.TestCase):
    @SOME
    @given(programs(), st.lists(st.floats(0.3, 2.5), min_size=3, max_size=3))
    def test_feeds_alone_change_and_only_in_lines_that_move(self, content: bytes, factors: list[float]) -> None:
        program = read_program(content)
        m = program.moves
        chosen = [k for k in np.flatnonzero(freedom_of(program).feed) if k % 2 == 0]
        wanted = {int(k): [Piece(1.0, float(m.feed[k]) * factors[k % 3])] for k in chosen}
        again = read_program(written(program, wanted)).moves
        for name in ("start", "end", "centre", "kind", "line", "sweep", "rpm", "tool"):
            np.testing.assert_array_equal(getattr(again, name), getattr(m, name))
        expected = [wanted[k][0].feed if k in wanted else m.feed[k] for k in range(len(m))]
        np.testing.assert_allclose(again.feed, expected, rtol=5e-3, atol=0.13)

    def test_pieces_that_come_to_one_place_are_run_as_one(self) -> None:
        # the last two ends of this short arc are written alike: as blocks of their own the second would go all round
        content = b"G20\nG90\nS4000 M3\nG0 X0 Y0 Z0\nG2X0.0055Y-0.0040I-0.0338J-0.0526F31.496\nM30\n"
        program = read_program(content)
        arc = int(np.flatnonzero(program.moves.kind > 1)[0])
        again = read_program(
            written(program, {arc: [Piece(0.859, 300.0), Piece(0.867, 310.0), Piece(1.0, 900.0)]})
        ).moves
        self.assertLess(np.abs(again.sweep).max(), 1.0)

    @SOME
    @given(programs(), st.lists(st.floats(0.05, 0.95), min_size=1, max_size=4, unique_by=lambda share: round(share, 3)))
    def test_parted_blocks_stay_on_the_geometry_within_a_micrometre(self, content: bytes, shares: list[float]) -> None:
        program = read_program(content)
        m = program.moves
        parts = [*(Piece(share, 300.0 + 10 * k) for k, share in enumerate(sorted(shares))), Piece(1.0, 900.0)]
        chosen = [int(k) for k in np.flatnonzero(freedom_of(program).parted & (m.length > 0.1))]
        again = read_program(written(program, dict.fromkeys(chosen, parts))).moves
        # a piece whose end has no place that the program's figures write is run on with the next
        firsts = np.append(aligned(m, again), len(again))
        for k in range(len(m)):
            rows = np.arange(firsts[k], firsts[k + 1])
            self.assertLessEqual(len(rows), len(parts) if k in chosen else 1)
            if m.kind[k] == RAPID:
                continue
            places = [*again.end[rows], *(point_on(again, row, 0.5) for row in rows)]
            self.assertLess(aside(m, k, np.array(places)).max(), 1.05e-3)
            np.testing.assert_allclose(again.end[rows[-1]], m.end[k], atol=1e-7)

    def test_a_feed_that_holds_is_given_back_behind_what_was_changed(self) -> None:
        program = read_program(b"G0 X0 Y0 Z0\nG1 X10 F500\nX20\nX30 (on)\ng1 x40\nX50 F700.0\n")
        text = written(program, {1: [Piece(1.0, 250.0)]}).decode()
        self.assertEqual(text, "G0 X0 Y0 Z0\nG1 X10 F500\nX20F250\nX30F500 (on)\ng1 x40\nX50 F700.0\n")
        self.assertEqual(read_program(text.encode()).moves.feed.tolist(), [500, 250, 500, 500, 700])

    def test_other_words_stand_once_in_a_parted_block(self) -> None:
        program = read_program(b"G21 G0 X0 Y0 Z0 S900 M3\n/N20 G90 G1 X10. F500 M8 (in)\r\nX20.\n")
        text = written(program, {0: [Piece(0.5, 100.0), Piece(1.0, 200.0)]}).decode()
        self.assertEqual(text.splitlines()[1:], ["/N20 G90 G1 X5. F100 M8 (in)", "/X10. F200", "X20.F500"])
