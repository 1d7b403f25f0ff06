"""The published schema is the one the models make, and carries units."""

import json
import unittest
from pathlib import Path

from lesna.model.schema import schema_text

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
