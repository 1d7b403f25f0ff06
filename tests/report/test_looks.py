"""The ladder on the sheet, and the form whose saved file is taken in as readings."""

import json
import re
import unittest
from typing import Any

from PySide6.QtCore import QCoreApplication
from PySide6.QtQml import QJSEngine

from lesna.bank.exchange import found_in_text
from lesna.learning.fit import fit_of
from lesna.learning.ladder import plan_ladder
from lesna.learning.settings import Settings, is_covered, scope_of
from lesna.learning.told import ladder_data
from lesna.report.sheet import sheet_html
from tests import support

JOB = support.job(job={"title": "Gate </script> & more"})
RESULT = support.result()
SETTINGS = Settings(support.LIBRARY)
PLAN = ladder_data(plan_ladder(RESULT, fit_of(RESULT.setup.parts, (), SETTINGS)))
CUT = RESULT.setup.parts.cut.id
TYPED = {"cut": 0, "step": "2", "edge": "E3", "minutes": "12,5", "land": "0.08", "kind": "uniform", "zone": "corner", "retired": "",
         "coolant": "", "load": "22", "override": "", "sound": "calm", "chip_colour": "straw", "chip_shape": "", "finish": "",
         "note": "fine", "who": "AB"}  # fmt: skip


class Sheets(unittest.TestCase):
    def sheet(self, system: Any = "metric", **options: Any) -> str:
        return sheet_html(JOB, [RESULT], system, plans={CUT: PLAN}, **options)

    def test_the_ladder_is_printed_with_room_to_write(self) -> None:
        html = self.sheet()
        self.assertIn("Test cuts: feed per tooth, ceiling", html)
        for step in PLAN["steps"]:
            self.assertIn(f"{step['minutes']:.0f}\u00a0min", html)
        self.assertIn("Stop at the first sign", html)
        self.assertIn("thou", self.sheet("inch"))
        self.assertNotIn("Test cuts", sheet_html(JOB, [RESULT], "metric"))

    def test_only_a_page_has_the_form_and_names_end_no_script(self) -> None:
        self.assertNotIn("<script>", self.sheet())
        html = self.sheet(has_form=True)
        self.assertEqual((html.count("<script>"), html.count("</script>")), (1, 1))
        self.assertNotIn("http", html)

    def filled_in(self, system: Any = "metric", **typed: Any) -> dict[str, Any]:
        """What the form's own script makes of what is typed."""
        self.app = QCoreApplication.instance() or QCoreApplication([])
        script = re.search(r"<script>(.*)</script>", self.sheet(system, has_form=True), re.DOTALL)
        assert script is not None
        engine = QJSEngine()
        self.assertFalse(engine.evaluate(script[1]).isError())
        call = f"JSON.stringify(lesnaReading(LESNA_FORM, {json.dumps({**TYPED, **typed})}, '2026-11-02'))"
        found: dict[str, Any] = json.loads(engine.evaluate(call).toString())
        return found

    def test_what_is_filled_in_comes_back_as_a_reading_of_the_cuts_own_set_up(self) -> None:
        found = self.filled_in()
        file = found_in_text(json.dumps({"readings": [found]}), is_csv=False)
        self.assertEqual((file.refused, file.told), ([], []))
        reading = file.readings[0][1]
        self.assertEqual(
            (reading.edge, reading.minutes, reading.vb_mm, reading.step, reading.wear_zone),
            ("E3", 12.5, 0.08, 2, "corner"),
        )
        self.assertAlmostEqual(reading.vf_mm_min or 0.0, PLAN["steps"][1]["vf_mm_min"])
        taken, left = SETTINGS.take([reading])
        self.assertEqual(left, [])
        self.assertTrue(is_covered(scope_of(RESULT.setup.parts), taken[0].scope))

    def test_inches_overrides_and_what_is_wrong(self) -> None:
        self.assertAlmostEqual(self.filled_in("inch", land="3")["vb_mm"], 0.0762)
        full, half = self.filled_in(step=""), self.filled_in(step="", override="50")
        self.assertAlmostEqual(half["vf_mm_min"], full["vf_mm_min"] / 2)
        self.assertIn("missing", self.filled_in(minutes="")["wrong"])
        self.assertIn("is no number", self.filled_in(land="much")["wrong"])
        self.assertIn("name", self.filled_in(edge=" ")["wrong"])


if __name__ == "__main__":
    unittest.main()
