"""Odd but plausible files through the commands: one line or a result, no warning, no raw control character, in time."""

import json
import random
import unittest
from unittest import mock

from lesna.data.library import Library
from lesna.model.facts import facts_of
from lesna.model.job import Cut
from lesna.model.shown import escaped, visible
from tests.support import NEVER
from tools import attack_saving, fuzz_jobs


class OddFiles(unittest.TestCase):
    def setUp(self) -> None:
        slow = mock.patch.object(fuzz_jobs, "LONG", NEVER)
        slow.start()
        self.addCleanup(slow.stop)

    def test_files_end_in_words_or_in_numbers(self) -> None:
        self.assertEqual(dict(fuzz_jobs.tried(range(300), ("cut",))), {})

    def test_hostile_files_end_in_words_or_in_numbers(self) -> None:
        self.assertEqual(dict(fuzz_jobs.tried(range(150), ("cut",), fuzz_jobs.hostile)), {})

    def test_forty_kills_lose_nothing(self) -> None:
        found = attack_saving.tried(range(40))
        self.assertEqual(dict(found.troubles), {})
        self.assertEqual(set(found.ends), set(attack_saving.KINDS))

    def test_the_sheet_of_thirty_and_the_map_and_lobes_of_some(self) -> None:
        self.assertEqual(dict(fuzz_jobs.tried(range(300, 330), ("sheet",))), {})
        self.assertEqual(dict(fuzz_jobs.tried(range(400, 430), ("map", "stability"))), {})

    def test_the_same_seed_makes_the_same_file_and_half_of_them_can_be_computed(self) -> None:
        library = Library()
        self.assertEqual(fuzz_jobs.document(7, library), fuzz_jobs.document(7, library))
        self.assertNotEqual(fuzz_jobs.document(7, library), fuzz_jobs.document(8, library))

    def test_the_net_itself_would_be_found(self) -> None:
        self.assertIn("should not", fuzz_jobs.trouble_of(2, "lesna: this should not have happened (x)\n", 0.1))
        self.assertIn("Warning", fuzz_jobs.trouble_of(0, "RuntimeWarning: divide by zero\n", 0.1))
        self.assertIn("took", fuzz_jobs.trouble_of(0, "", 2 * NEVER))
        self.assertIn("raw", fuzz_jobs.trouble_of(2, "lesna: \x1b[31m\n", 0.1))
        self.assertEqual(fuzz_jobs.trouble_of(2, "lesna: x: must be above 0, got 0\n", 0.1), "")

    def test_values_lie_in_their_range(self) -> None:
        chance = random.Random(1)
        for fact in facts_of(Cut):
            for _ in range(20):
                value = fuzz_jobs.value_for(fact, chance)
                if fact.kind == "number":
                    self.assertGreaterEqual(value, fact.low)
                    self.assertLessEqual(value, fact.high)

    def test_hidden_characters_are_written_out(self) -> None:
        self.assertEqual(visible("a\x07\u202eb\tc\n"), "a\\x07\\u202eb\tc\n")
        odd = {"name": "a\x7f\u202eb\ufeff\n"}
        text = escaped(json.dumps(odd, ensure_ascii=False))
        self.assertEqual((json.loads(text), text.isascii()), (odd, True))
        self.assertEqual(visible("Fräser ø8, 12 µm"), "Fräser ø8, 12 µm")
