"""Programs written from moves: they read back as the same motion, and a template of one's own is understood or refused in words."""

import unittest

import numpy as np

from lesna.model.errors import InputError
from lesna.nc.post import Block, Stretch, Style, blocks_of, comment_of, number_text, rendered
from lesna.nc.read import read_program

PATH = (
    Stretch("entry", (Block(0, (0.0, 0.0, 5.0)), Block(0, (0.0, 0.0, 1.0)), Block(1, (0.0, 0.0, -2.0), 200.0))),
    Stretch("cut", (Block(1, (20.0, 0.0, -2.0), 800.0), Block(3, (20.0, 10.0, -2.0), 800.0, (20.0, 5.0)),
                    Block(2, (13.3333, 16.6667, -2.0), 800.0, (13.3333, 10.0)), Block(1, (0.1234, 7.7, -2.0), 600.0))),
)  # fmt: skip


class Blocks(unittest.TestCase):
    def test_read_back_it_is_the_same_motion(self) -> None:
        for inch in (False, True):
            for numbers in (False, True):
                blocks = [block for block, _ in blocks_of(PATH, (1.0, 1.0, 50.0), Style(inch, numbers))]
                text = "\n".join(["G20" if inch else "G21", "G17 G90 G94", "T1 M6", "S4000 M3", *blocks, "M30", ""])
                moves = read_program(text.encode()).moves
                # the first rapid and the one after it are one motion where a program begins
                ends = np.array([step.end for stretch in PATH for step in stretch.steps])[1:]
                np.testing.assert_allclose(moves.end[-len(ends) :], ends, atol=3e-4)
                np.testing.assert_allclose(moves.feed[-4:], [800, 800, 800, 600], rtol=2e-3)
                self.assertEqual(sum("(cut)" in block for block in blocks), 1)

    def test_words_that_hold_on_are_left_out(self) -> None:
        found = blocks_of(PATH, (0.0, 0.0, 5.0), Style())
        blocks = [block for block, _ in found]
        for block, source in found:
            self.assertEqual(source is None, block.startswith("("))
        self.assertEqual(blocks[1], "G0 Z1.")
        self.assertEqual(blocks[-1], "G1 X0.1234 Y7.7 F600.")

    def test_numbers(self) -> None:
        for value, text in ((0.0, "0."), (-0.00001, "0."), (12.0, "12."), (1.25, "1.25"), (-3.10004, "-3.1")):
            self.assertEqual(number_text(value, 4), text)
        self.assertEqual(number_text(519.6, 0), "520.")


class Posts(unittest.TestCase):
    def test_words_of_a_job_cannot_leave_their_comment(self) -> None:
        self.assertEqual(comment_of("hinge (left)\nG0 Z-50 \u00b5m\u202e"), "hinge [left]G0 Z-50 um")
        text = rendered(
            "({{ job }})\n{% for block in blocks %}{{ block }}\n{% endfor %}", {"job": "a)\nM3"}, ["G0 X1."]
        )
        self.assertEqual(text.text, "(a]M3)\nG0 X1.\n")
        self.assertEqual(text.sources, {2: 0})
        self.assertEqual(comment_of("100 % done; G0 Z-9"), "100  done G0 Z-9")

    def test_each_line_knows_its_block_whatever_stands_round_it(self) -> None:
        blocks = ["G0 X1.", "(cut)", "G1 X2. F9."]
        for template in ("{% for b in blocks %}{{ b }} ;\n{% endfor %}",
                         "{% for b in blocks %}N{{ loop.index }} {{ b | upper }}\n{% endfor %}",
                         "{% for b in blocks %}{{ b | lower }} (note)\n{% endfor %}", "{{ blocks | join('\n') }}"):  # fmt: skip
            with self.subTest(template=template):
                found = rendered(template, {}, blocks, is_trusted=False)
                self.assertEqual(found.sources, {1: 0, 2: 1, 3: 2})
                self.assertNotRegex(found.text, "[\ue000-\ue0ff]")

    def test_a_post_of_ones_own_is_bounded(self) -> None:
        for template, words in (
            ("{% for a in range(99999) %}{% for b in range(99999) %}{% endfor %}{% endfor %}", "2 s"),
            ("{% set a = 'x' * 900000000 %}{{ a }}", "memory"), ("{{ 1 // 0 }}", "cannot be filled in"),
            ("{% macro a() %}{{ a() }}{% endmacro %}{{ a() }}", "calls itself|cannot"), ("{{ 'x' * 60000000 }}", "50 MB|memory"),
            ("{{ blocks[9] }}", "cannot be filled in"), ("{{ ''.format.__globals__ }}", "cannot be filled in"),
        ):  # fmt: skip
            with self.subTest(template=template), self.assertRaisesRegex(InputError, words):
                rendered(template, {}, ["G0 X1."], is_trusted=False)

    def test_templates_that_are_wrong(self) -> None:
        for template, words in (("{% for x in %}", "line 1 of the post"), ("{{ feed_of_light }}", "cannot be filled in.*feed_of_light"),
                                ("{{ ().__class__.__mro__[1].__subclasses__() }}", "cannot be filled in")):  # fmt: skip
            with self.subTest(template=template), self.assertRaisesRegex(InputError, words):
                rendered(template, {}, [])


if __name__ == "__main__":
    unittest.main()
