"""A share of the odd programs of tools/fuzz_programs.py: read, simulated and written, or refused with a line."""

import unittest

from tools.fuzz_programs import tried


class OddPrograms(unittest.TestCase):
    def test_none_ends_in_anything_else(self) -> None:
        troubles, ends = tried(range(500, 560))
        self.assertEqual(dict(troubles), {})
        self.assertGreater(ends["simulated"], 2)
        self.assertGreater(ends["refused"], 8)
