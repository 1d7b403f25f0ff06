"""CSV and JSON in and out: nothing is lost on the way, and a bad row costs itself alone."""

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any, get_args

from hypothesis import example, given, settings
from hypothesis import strategies as st

from lesna.bank.exchange import COLUMNS, csv_of, found_in_text, json_of, listed, take_in
from lesna.bank.store import Bank, Source
from lesna.data.places import shipped_folder
from lesna.model import names
from lesna.model.errors import InputError
from lesna.model.trials import Reading, WearKind, WearZone
from tests.learning.edges import SETTING, reading

ME = Source("me")
#: the published columns, in the order of the contract
PUBLISHED = [
    "trial",
    "edge",
    "step",
    "taken_on",
    "who",
    "job",
    "cut",
    "machine",
    "material",
    "hardness_hrc",
    "tool_kind",
    "DC",
    "ZEFP",
    "substrate",
    "coating",
    "stick_out_mm",
    "holder",
    "coolant",
    "ae_mm",
    "ap_mm",
    "n_rpm",
    "vf_mm_min",
    "minutes",
    "parts",
    "load_pct",
    "vb_mm",
    "wear_kind",
    "wear_zone",
    "retired",
    "chip_colour",
    "sound",
    "finish",
    "note",
]
_WORDS = st.text(
    st.characters(codec="utf-8", exclude_categories=("Cs", "Cc"), exclude_characters="\ufffd"), max_size=20
)
_NUMBER = st.floats(0.01, 100.0)
READINGS = st.builds(
    lambda **values: Reading.read({**SETTING, **{key: value for key, value in values.items() if value is not None}}),
    edge=st.sampled_from("ABC"), minutes=_NUMBER, vb_mm=st.none() | st.floats(0, 5), note=_WORDS, who=_WORDS, sound=_WORDS,
    wear_kind=st.sampled_from(get_args(WearKind)), wear_zone=st.none() | st.sampled_from(get_args(WearZone)),
    step=st.none() | st.integers(0, 20), load_pct=st.none() | _NUMBER, coolant=st.none() | st.sampled_from(get_args(names.Coolant)),
)  # fmt: skip


class RoundTrips(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def bank(self, name: str) -> Bank:
        bank = Bank(self.folder / name)
        self.addCleanup(bank.close)
        return bank

    @settings(max_examples=60, deadline=None)
    @given(st.lists(READINGS, max_size=5))
    @example([reading(note="\\x00")])
    def test_readings_come_back_from_both_forms(self, given: list[Reading]) -> None:
        back = found_in_text(csv_of(given), is_csv=True)
        self.assertEqual(([one for _, one in back.readings], back.refused, back.told), (given, [], []))
        data = json.dumps([one.model_dump(mode="json", exclude_none=True) for one in given])
        self.assertEqual([one for _, one in found_in_text(data, is_csv=False).readings], given)

    def test_a_whole_bank_comes_back(self) -> None:
        first, second = self.bank("a.db"), self.bank("b.db")
        first.log([reading(), reading(minutes=20.0, vb_mm=0.2)])
        first.keep("recipes", "Cavity", {"fz_mm": 0.07, "list": [1, 2]}, ME)
        first.keep("trials", "T", {"job": "Gate"}, ME)
        first.keep("trials", "Only planned", {"plan": {"step": "feed"}}, ME)
        first.keep_picture(reading(), "edge.png", b"\x00\xff", 0.002, ME)
        done = take_in(second, found_in_text(json_of(first), is_csv=False), ME)
        self.assertEqual((done.readings.added, done.records, done.pictures, done.refused), (2, 3, 1, ()))

        def plain(bank: Bank) -> dict[str, Any]:
            return {
                kind: [{k: v for k, v in entry.items() if k != "kept"} for entry in entries]
                for kind, entries in listed(bank).items()
            }

        self.assertEqual(plain(first), plain(second))
        self.assertEqual(first.pictures("T", "E1"), second.pictures("T", "E1"))
        again = take_in(second, found_in_text(json_of(first), is_csv=False), ME)
        self.assertEqual((again.readings.added, again.readings.known, again.refused), (0, 2, ()))

    def test_the_sample_bank_is_whole(self) -> None:
        found = found_in_text((shipped_folder() / "demo" / "kilnbrook-bank.json").read_text(), is_csv=False)
        self.assertEqual((found.refused, found.told), ([], []))
        self.assertEqual(len(found.readings), 60)
        self.assertEqual(len([1 for kind, _, _ in found.records if kind == "recipes"]), 12)
        self.assertGreaterEqual(len({one.material for _, one in found.readings}), 4)
        self.assertGreaterEqual(len({one.wear_kind for _, one in found.readings}), 5)


class BadRows(unittest.TestCase):
    def test_the_published_columns_stand_first_in_their_order(self) -> None:
        self.assertEqual([name for name in COLUMNS if name in PUBLISHED], PUBLISHED)

    def test_bad_rows_are_named_by_line_and_the_others_are_taken(self) -> None:
        head = "trial,edge,minutes,taken_on,vb_mm,wear_kind,ghost"
        rows = (
            head, "T,E1,12,2026-11-02,0.1,uniform,seen", "T,E1,-3,,,,", "T,E1,20,2026-02-31,,,", "T,E1,25,2926-02-01,,,", "T,,30,,,,",
            "T,E1,35,,much,,", "T,E1,40,,,melted,", "T,E1,45,,,,", 'T,"E1,50,,,,',
        )  # fmt: skip
        found = found_in_text("\n".join(rows), is_csv=True)
        self.assertEqual([one.minutes for _, one in found.readings], [12.0, 45.0])
        self.assertEqual([text.split(":")[0] for text in found.refused], [f"line {k}" for k in (3, 4, 5, 6, 7, 8, 10)])
        told = ("minutes: must be at least 0", "taken_on: must be a day", "lies in the future", "edge: is missing",
                "vb_mm: must be a number, got 'much'", "wear_kind: must be one of", "quote")  # fmt: skip
        for words, text in zip(told, found.refused, strict=True):
            self.assertIn(words, text)
        self.assertEqual(len(found.told), 1)
        self.assertIn("ghost", found.told[0])
        self.assertEqual(found.readings[0][1].note, "ghost: seen")

    def test_what_is_no_bank_is_refused_in_words(self) -> None:
        for text in ("{", "[1", '{"a": 1}', "3"):
            with self.subTest(text=text), self.assertRaises(InputError):
                found_in_text(text, is_csv=False)
        found = found_in_text(
            '{"lesna_bank": 1, "recipes": [{"x": 1}, 3], "tools": 5, "readings": [4], "pictures": [{}]}', is_csv=False
        )
        self.assertEqual(len(found.refused), 5)


if __name__ == "__main__":
    unittest.main()
