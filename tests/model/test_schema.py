"""The published schema is the one the models make, and carries units."""

import json
import random
import unittest
from pathlib import Path

from jsonschema import Draft202012Validator

from lesna.model.errors import InputError
from lesna.model.files import job_from_text
from lesna.model.schema import schema_text
from tests.model.test_hostile_jobs import DOCUMENTS, NUMBERS, PLACES, put

PUBLISHED = Path(__file__).parents[2] / "docs" / "job.schema.json"


class Schema(unittest.TestCase):
    def test_docs_hold_the_current_schema(self) -> None:
        self.assertEqual(PUBLISHED.read_text(encoding="utf-8"), schema_text(), "run make schema")

    def test_numbers_have_units_and_choices_are_published(self) -> None:
        definitions = json.loads(schema_text())["$defs"]
        self.assertEqual(definitions["Cut"]["properties"]["ae_mm"]["unit"], "mm")
        self.assertIn("trochoidal", json.dumps(definitions["Cut"]["properties"]["strategy"]))
        missing = [
            f"{record}.{name}"
            for record, schema in definitions.items()
            for name, field in schema["properties"].items()
            if '"number"' in json.dumps(field) and '"unit"' not in json.dumps(field)
        ]
        self.assertEqual(missing, [])


class Agreement(unittest.TestCase):
    """The reader and the published schema say the same of a document."""

    VALID = Draft202012Validator(json.loads(schema_text()))

    def reads(self, document: object) -> bool:
        try:
            job_from_text(json.dumps(document))
        except InputError:
            return False
        return True

    def test_what_the_reader_takes_the_schema_takes(self) -> None:
        chance = random.Random(5)
        junk = (None, True, -1, 0, 1e12, 5, "5", "x", "", [], {}, [1, 2], 1.5, {"a": 1}, "yes")
        taken = 0
        for _ in range(1200):
            number, path = chance.choice(PLACES)
            document = put(DOCUMENTS[number], path, chance.choice(junk))
            if self.reads(document):
                taken += 1
                self.assertEqual([error.message for error in self.VALID.iter_errors(document)], [], path)
        self.assertGreater(taken, 150)

    def test_text_and_truths_are_no_numbers_to_either(self) -> None:
        for number, path in NUMBERS[::3]:
            for junk in ("5", True, [5], {}):
                document = put(DOCUMENTS[number], path, junk)
                with self.subTest(path=path, junk=junk):
                    self.assertFalse(self.reads(document) or self.VALID.is_valid(document))

    def test_what_must_be_there_must_be_there_for_both(self) -> None:
        whole = DOCUMENTS[0]
        for path in (("lesna",), ("machine",), ("workpiece",), ("cuts",), ("workpiece", "material"),
                     *(("cuts", 0, key) for key in ("name", "tool", "stick_out_mm", "ae_mm", "ap_mm"))):  # fmt: skip
            document = json.loads(json.dumps(whole))
            holder = document
            for key in path[:-1]:
                holder = holder[key]
            del holder[path[-1]]
            with self.subTest(path=path):
                self.assertFalse(self.reads(document) or self.VALID.is_valid(document))
        for fields in ({"vc_m_min": None, "n_rpm": None, "book": None}, {"vc_m_min": 100.0, "n_rpm": 3000.0},
                       {"hex_mm": None, "fz_mm": None, "book": None}, {"hex_mm": 0.1, "fz_mm": 0.1}):  # fmt: skip
            document = put(whole, ("cuts", 0), {**whole["cuts"][0], **fields})
            with self.subTest(fields=fields):
                self.assertFalse(self.reads(document) or self.VALID.is_valid(document))
