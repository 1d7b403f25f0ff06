"""Book, model and bank beside each other: what converts, where they part, and that the reasons multiply to the whole."""

import math
import re
import unittest

from lesna.learning.beside import beside
from lesna.learning.fit import fit_of
from lesna.learning.recipes import like_this, recipe_of
from lesna.learning.settings import Settings
from lesna.planning.telling.figures import FIGURES
from tests import support
from tests.learning.edges import reading

SETTINGS = Settings(support.LIBRARY)
HERE = support.result(hex_mm=None, book={"vc_m_min": 90.0, "fz_mm": 0.05, "ae_over_dc": 0.5})

PLAIN = support.result()


def columns(result=HERE, recipes=(), readings=()):  # type: ignore[no-untyped-def]
    fit = fit_of(result.setup.parts, readings, SETTINGS)
    return beside(result, fit, like_this(result, recipes, support.LIBRARY), support.LIBRARY)


class Beside(unittest.TestCase):
    def test_without_anything_each_column_says_why(self) -> None:
        book, model, bank = columns(support.result())
        self.assertIsNone(book.result)
        self.assertIn("No toolmaker's value", book.says)
        self.assertIn("Starting values of the tables", model.says)
        self.assertIsNone(bank.result)
        self.assertIn("no edge of this set-up", bank.says)

    def test_the_book_keeps_its_chip_at_this_stepover(self) -> None:
        book = columns()[0]
        x = 0.5
        self.assertAlmostEqual(float(book.result.state.hex), 0.05 * 2 * math.sqrt(x * (1 - x)), places=4)
        self.assertAlmostEqual(float(book.result.state.vc), 90.0, delta=0.3)
        self.assertIn("thins from 50%", book.conversions[0])

    def test_reasons_multiply_to_what_lies_between(self) -> None:
        found = columns()
        for column in (found[0], found[2]):
            for id, factor, why in column.apart:
                self.assertAlmostEqual(
                    factor, FIGURES[id].value(column.result) / FIGURES[id].value(found[1].result), places=6
                )
                told = [float(one) for one in re.findall(r"x ([\d.]+)", why)]
                if told:  # what is under a twentieth is not told
                    self.assertAlmostEqual(math.prod(told) / factor, 1.0, delta=0.12)
        self.assertTrue(found[0].apart)

    def test_the_bank_takes_the_proven_recipe_for_this_kind_of_cut(self) -> None:
        there = support.result(tool={"DC": 8.0}, ae_mm=0.8, ap_mm=8.0, stick_out_mm=28.0)
        looks = (reading(minutes=20.0, vb_mm=0.1), reading(minutes=40.0, vb_mm=0.2))
        proven = recipe_of(PLAIN, fit_of(PLAIN.setup.parts, looks, SETTINGS))
        bare = recipe_of(there, fit_of(there.setup.parts, (), SETTINGS))
        bank = columns(PLAIN, recipes=[("bare", bare), ("proven", proven)])[2]
        self.assertIn("Recipe proven, proven by 1 edge", bank.says)
        self.assertIsNone(columns(PLAIN, recipes=[("bare", bare)])[2].result)
        self.assertIsNone(columns(PLAIN, recipes=[("finishing", {**proven, "role": "finish"})])[2].result)
        self.assertIn("does not say enough", columns(PLAIN, recipes=[("torn", {**proven, "set": {}})])[2].says)
        own = columns(PLAIN, readings=looks)[2]
        self.assertIs(own.result, PLAIN)
        self.assertIn("from 1 edge", own.says)


if __name__ == "__main__":
    unittest.main()
