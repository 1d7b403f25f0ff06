"""Readiness and Working: what is said belongs to the tool, coolant and limit at hand."""

import unittest
from typing import Any

from lesna.model import names
from lesna.planning.chatter.judge import chatter_of
from lesna.planning.evaluate import with_chatter
from lesna.planning.telling.readiness import readiness_of
from lesna.planning.telling.working.limits import limit_explanation
from tests.support import LIBRARY, result


def check(name: str, **changes: Any) -> Any:
    return next(entry for entry in readiness_of(result(**changes), "metric") if entry.title == name)


class Readiness(unittest.TestCase):
    def test_unequal_pitch_is_advised_only_where_the_teeth_are_alike(self) -> None:
        self.assertIn("unequal pitch", check("Chatter").text)
        for tool in ({"pitch": "variable"}, {"helix": "variable"}, {"pitch_deg": [85.0, 95.0, 85.0, 95.0]}):
            self.assertNotIn("unequal pitch", check("Chatter", tool=tool).text)

    def test_the_reason_of_the_row_stands_only_beside_its_own_first_choice(self) -> None:
        data = result().setup.parts.data
        assert data is not None and data.coolant_reason
        said = {medium: check("Coolant", coolant=medium).text for medium in ("air", "mist", "dry", "flood")}
        with_reason = [medium for medium, text in said.items() if data.coolant_reason in text]
        self.assertLessEqual(len(with_reason), 1)
        self.assertTrue(any(word in data.cooled_best_by for word in with_reason) or not with_reason)

    def test_coolant_that_the_machine_lacks_is_a_cross(self) -> None:
        lacking = next(m.id for m in LIBRARY.machines.values() if not names.offers(m.coolant_options, "through"))
        self.assertEqual(check("Coolant", coolant="through", job={"machine": lacking}).grade, "stop")


class Limits(unittest.TestCase):
    def test_a_limit_is_not_said_to_come_from_a_row_that_does_not_state_it(self) -> None:
        def origin(id: str, **changes: Any) -> str:
            return limit_explanation(result(**changes), id, lambda table, row: f"row of {table}").inputs[1].origin

        self.assertIn("nothing is typed", origin("deflection"))
        self.assertIn("typed", origin("deflection", deflection_limit_um=50.0))
        self.assertIn("usual for carbide", origin("tool_stress"))
        self.assertIn("names no gullet", origin("chip_space"))

    def test_what_comes_of_kept_simulated_modes_says_so(self) -> None:
        modes = [
            {"axis": a, "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03, "simulated": True, "kept": True}
            for a in ("x", "y")
        ]
        plain = result(tap_modes=modes)
        known = with_chatter(plain, chatter_of(plain.setup))
        check = next(entry for entry in readiness_of(known, "metric") if entry.title == "Chatter")
        self.assertIn("simulated", check.text)
        told = limit_explanation(known, "stability", lambda table, row: f"row of {table}")
        self.assertEqual(told.inputs[1].origin, "simulated modes of this cut")


if __name__ == "__main__":
    unittest.main()
