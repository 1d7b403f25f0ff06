"""What cannot be done as it is set: said by name and with its figures, and silent where all is well."""

import unittest

from lesna.model.errors import InputError
from lesna.model.files import load_job
from lesna.planning.evaluate import evaluate
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.setting import ENTRIES
from tests.support import DEMOS, LIBRARY, job

IDS = {id for id, _, _ in ENTRIES}
PIECE = {"material": "42crmo4-qt30"}


def said(**changes):  # type: ignore[no-untyped-def]
    found = cautions_of(evaluate(job(**changes), 0, LIBRARY))
    return {caution.id: (caution.severity, caution.text) for caution in found if caution.id in IDS}


class Setting(unittest.TestCase):
    def test_each_is_said_by_name(self) -> None:
        pocket = {"kind": "pocket", "length_mm": 60.0, "width_mm": 40.0, "depth_mm": 80.0}
        for id, severity, changes in (
            ("too_deep", "danger", {"feature": pocket}), ("little_grip", "danger", {"tool": {"OAL": 50.0}}),
            ("not_clamped", "danger", {"job": {"workpiece": {**PIECE, "clamp_force_n": 0.0}}}),
            ("too_heavy", "danger", {"job": {"workpiece": {**PIECE, "mass_kg": 90000.0}}}),
            ("strategy_against_tool", "caution", {"strategy": "full_slot"}),
            ("strategy_against_tool", "caution", {"strategy": "high_feed"}),
            ("strategy_against_tool", "caution", {"ae_mm": 8.0}),
            ("wrong_holder", "danger", {"tool": {"kind": "face", "DC": 50.0, "APMX": 5.0, "LU": None}, "ae_mm": 30.0, "ap_mm": 2.0}),
        ):  # fmt: skip
            with self.subTest(id=id, changes=changes):
                self.assertEqual(said(**changes).get(id, ("",))[0], severity)

    def test_nothing_of_it_is_said_where_all_is_well(self) -> None:
        self.assertEqual(said(), {})
        for path in DEMOS:
            opened = load_job(path)
            for index, cut in enumerate(opened.cuts):
                found = {caution.id for caution in cautions_of(evaluate(opened, index, LIBRARY))} & IDS
                with self.subTest(job=path.name, cut=cut.name):
                    self.assertEqual(found, set())

    def test_a_tool_no_longer_than_its_neck_is_refused(self) -> None:
        with self.assertRaisesRegex(InputError, "LU: must be at most the overall length OAL = 30 mm"):
            said(tool={"LU": 36.0, "OAL": 30.0})


if __name__ == "__main__":
    unittest.main()
