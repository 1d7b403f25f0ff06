"""The shop's standard: whoever cuts slower is told so, with what it costs a batch."""

import unittest

from lesna.data.library import Library
from lesna.model import units
from lesna.model.resolve import parts_of
from lesna.model.standard import Standard, standard_from, standard_name
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of, with_timing
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.readiness import readiness_of
from lesna.planning.telling.standard import below_standard, is_below, minutes_lost
from tests import support

JOB = support.job(job={"batch": {"parts": 100, "machine_rate_per_h": 60.0}})
OWN = float(support.result().state.q)


def under(removal: float):  # type: ignore[no-untyped-def]
    """The plain cut in a shop with a standard, six minutes in the cut."""
    library = Library()
    family = library.materials["42crmo4-qt30"].data_group
    library.standards = {standard_name(family, "rough"): Standard(removal, "tool room", "2026-11-02", "housings")}
    return with_timing(result_of(setup_of(parts_of(JOB, 0, library))), Timing("path", 6.0, 2.0))


class Standards(unittest.TestCase):
    def test_going_above_is_never_spoken_of(self) -> None:
        for removal in (0.5 * OWN, OWN):
            found = under(removal)
            self.assertFalse(is_below(found))
            self.assertNotIn("below_standard", [caution.id for caution in cautions_of(found)])
            self.assertIn(
                "kept", next(check.text for check in readiness_of(found, "metric") if check.title == "Shop's standard")
            )

    def test_going_below_says_by_whom_it_was_set_and_what_it_costs(self) -> None:
        found = under(2 * OWN)
        self.assertAlmostEqual(minutes_lost(found) or 0.0, 300.0)
        said = units.said(below_standard(found) or "", "metric")
        for words in ("tool room, 2026-11-02, housings", "300 min of a batch", "300.00 of the machine"):
            self.assertIn(words, said)
        self.assertIn("below_standard", [caution.id for caution in cautions_of(found)])
        self.assertEqual(
            next(check.grade for check in readiness_of(found, "inch") if check.title == "Shop's standard"), "look"
        )
        self.assertIn("in³/min", units.said(below_standard(found) or "", "inch"))

    def test_another_role_has_its_own(self) -> None:
        library = Library()
        family = library.materials["42crmo4-qt30"].data_group
        library.standards = {standard_name(family, "rough"): Standard(2 * OWN)}
        finish = support.job(role="finish", ae_mm=0.3)
        self.assertIsNone(parts_of(finish, 0, library).standard)

    def test_what_names_no_removal_is_none(self) -> None:
        for data in ({}, {"q_cm3_min": "much"}, {"q_cm3_min": -1}, {"q_cm3_min": True}):
            self.assertIsNone(standard_from(data, "", ""))


if __name__ == "__main__":
    unittest.main()
