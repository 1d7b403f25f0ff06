"""What cannot be done as it is set: said by name and with its figures, and silent where all is well."""

import unittest

from lesna.model.errors import InputError
from lesna.model.files import load_job
from lesna.model.library_records import Machine
from lesna.planning.evaluate import evaluate
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.setting import ENTRIES
from tests.support import DEMOS, LIBRARY, job

IDS = {id for id, _, _ in ENTRIES}
PIECE = {"material": "42crmo4-qt30"}


def curve(*power: float):  # type: ignore[no-untyped-def]
    return {"points": [{"speed_rpm": 1000.0 + 3000.0 * k, "power_kw": kw} for k, kw in enumerate(power)]}


def said(**changes):  # type: ignore[no-untyped-def]
    found = cautions_of(evaluate(job(**changes), 0, LIBRARY, wait=False))
    return {caution.id: (caution.severity, caution.text) for caution in found if caution.id in IDS}


class Setting(unittest.TestCase):
    def test_each_is_said_by_name(self) -> None:
        pocket = {"kind": "pocket", "length_mm": 60.0, "width_mm": 40.0, "depth_mm": 80.0}
        for id, severity, changes in (
            ("too_deep", "danger", {"feature": pocket}), ("does_not_fit", "danger", {"feature": {"kind": "slot", "width_mm": 6.0}}),
            ("little_grip", "danger", {"tool": {"OAL": 50.0}}),
            ("not_clamped", "danger", {"job": {"workpiece": {**PIECE, "clamp_force_n": 0.0}}}),
            ("too_heavy", "danger", {"job": {"workpiece": {**PIECE, "mass_kg": 90000.0}}}),
            ("strategy_against_tool", "caution", {"strategy": "full_slot"}),
            ("strategy_against_tool", "caution", {"strategy": "high_feed"}),
            ("strategy_against_tool", "caution", {"ae_mm": 8.0}),
            ("wrong_holder", "danger", {"tool": {"kind": "face", "DC": 50.0, "APMX": 5.0, "LU": None}, "ae_mm": 30.0, "ap_mm": 2.0}),
            ("beyond_travel", "danger", {"feature": {**pocket, "length_mm": 1400.0}}),
            ("surface_without_ball", "caution", {"feature": {"kind": "surface", "slope_deg": 30.0}}),
            ("stock_of_a_surface", "caution", {"role": "finish", "feature": {"kind": "surface", "depth_mm": 19.0}}),
            ("edge_of_a_rougher", "danger", {"role": "finish", "tool": {"kind": "chip_splitter", "notch_depth_mm": 0.6}}),
            ("implausible_modes", "danger", {"tap_modes": [{"axis": "x", "f_hz": 900.0, "k_n_um": 9000.0, "zeta": 0.03}]}),
            ("implausible_modes", "danger", {"tap_modes": [{"axis": "y", "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.0003}]}),
        ):  # fmt: skip
            with self.subTest(id=id, changes=changes):
                self.assertEqual(said(**changes).get(id, ("",))[0], severity)

    def test_nothing_of_it_is_said_where_all_is_well(self) -> None:
        self.assertEqual(said(), {})
        for path in DEMOS:
            opened = load_job(path)
            for index, cut in enumerate(opened.cuts):
                found = {caution.id for caution in cautions_of(evaluate(opened, index, LIBRARY, wait=False))} & IDS
                with self.subTest(job=path.name, cut=cut.name):
                    self.assertEqual(found, set())

    def test_what_gives_less_for_a_while_than_all_day_is_refused(self) -> None:
        one = {"id": "own", "rpm_max": 8000.0, "power_s1_kw": 11.0}
        for changes, words in (
            ({"power_s6_40_kw": 9.0}, "power_s6_40_kw: must be at least power_s1_kw = 11"),
            ({"torque_s1_max_nm": 80.0, "torque_s6_40_max_nm": 60.0}, "torque_s6_40_max_nm: must be at least torque_s1_max_nm = 80"),
            ({"curve": {"duty": {"S1": curve(0, 0)}}}, "S1: gives no power at any speed"),
            ({"curve": {"duty": {"S1": curve(5, 11), "S6-40": curve(5, 9)}}}, "S6-40: must be at least what S1 gives all day"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                Machine.read({**one, **changes})
        Machine.read({**one, "power_s6_40_kw": 11.0, "curve": {"duty": {"S1": curve(5, 11), "S6-40": curve(5, 15)}}})

    def test_a_tool_no_longer_than_its_neck_is_refused(self) -> None:
        with self.assertRaisesRegex(InputError, "LU: must be at most the overall length OAL = 30 mm"):
            said(tool={"LU": 36.0, "OAL": 30.0})


if __name__ == "__main__":
    unittest.main()
