"""The Result: contract keys, feature time, corner engagement, working, readiness, starting values."""

import json
import math
import unittest

from lesna.model.files import load_job
from lesna.model.job import Feature
from lesna.physics.life.heat import speed_multiplier
from lesna.planning.cut.features import volume
from lesna.planning.cut.starting import starting_values
from lesna.planning.evaluate import evaluate
from lesna.planning.telling.explained import explained, working_of
from lesna.planning.telling.figures import result_data
from lesna.planning.telling.readiness import readiness_of
from tests.support import DEMOS, LIBRARY, result, said

POCKET = {"kind": "pocket", "length_mm": 90.0, "width_mm": 50.0, "depth_mm": 12.0, "corner_radius_mm": 8.0}
CONTRACT = ("name", "n_rpm", "vc_m_min", "d_eff_mm", "fz_mm", "hex_mm", "hm_mm", "phi_s_deg", "vf_mm_min", "q_cm3_min",
            "contacts", "ap_constant_force_mm", "fxy_peak_n", "fxy_mean_n", "fx_mean_n", "fy_mean_n", "fz_max_n", "fz_min_n",
            "pull_out_n", "ripple", "torque_mean_nm", "torque_peak_nm", "deflection_tip_um", "stress_mpa",
            "runout_overload_pct", "power_cut_kw",
            "power_motor_kw", "life_min", "life_p95_min", "cost_per_part", "edges_per_part", "time_per_part_min",
            "limits", "limited_by", "cautions")  # fmt: skip


def where(table: str, key: object) -> str:
    return str(getattr(LIBRARY, table).origin(key))


class Contract(unittest.TestCase):
    def test_json_has_the_contracts_keys_and_is_strict_json(self) -> None:
        for path in DEMOS:
            job = load_job(path)
            for index in range(len(job.cuts)):
                data = result_data(evaluate(job, index, LIBRARY))
                self.assertIn("stability", [limit["id"] for limit in data["limits"]])
                self.assertLessEqual(set(CONTRACT), set(data))
                json.dumps(data, allow_nan=False)
                self.assertIn(data["limited_by"], [limit["id"] for limit in data["limits"][:5]])
                self.assertIn(data["basis"], ("estimate", "measured"))
                self.assertIn(data["band_pct"], (15, 25, 40, 50, 35))
                for limit in data["limits"]:
                    self.assertLessEqual({"id", "use", "value", "limit", "unit", "confidence", "band_pct"}, set(limit))
                for caution in data["cautions"]:
                    self.assertIn(caution["severity"], ("note", "caution", "danger"))

    def test_straight_flutes_have_no_constant_force_depth(self) -> None:
        self.assertIsNone(result_data(result(tool={"FHA": 0.0}))["ap_constant_force_mm"])
        self.assertAlmostEqual(result().constant_force_depth or 0, math.pi * 12 / (4 * math.tan(math.radians(38))))


class Features(unittest.TestCase):
    def test_pocket_loses_its_corners(self) -> None:
        self.assertAlmostEqual(volume(Feature.read(POCKET)) or 0, (90 * 50 - (4 - math.pi) * 64) * 12 / 1000)
        self.assertIsNone(volume(Feature.read({"kind": "slot", "length_mm": 10.0})))
        self.assertIsNone(volume(None))

    def test_a_way_takes_longer_than_its_volume_over_the_removal(self) -> None:
        r = result(feature=POCKET)
        self.assertGreater(r.cut_time or 0, (volume(r.setup.parts.cut.feature) or 0) / r.state.q)
        self.assertIsNone(result().cut_time)

    def test_engagement_grows_in_the_corner(self) -> None:
        angle = result(feature=POCKET).corner_angle or 0
        self.assertGreater(angle, 1.5 * result().state.phi_s)
        tight = result(feature={**POCKET, "corner_radius_mm": 6.0}).corner_angle or 0
        self.assertAlmostEqual(tight, result().state.phi_s + math.pi / 2, places=6)

    def test_the_advance_of_a_loop_is_derived_from_the_equivalent_stepover(self) -> None:
        slot = {"kind": "slot", "length_mm": 90.0, "width_mm": 20.0, "depth_mm": 12.0}
        # R 6, loop 4, advance 1 engage 52.8 degrees, as a straight stepover of R (1 - cos 52.8) does
        r = result(strategy="trochoidal", ae_mm=6 * (1 - math.cos(math.radians(52.8308))), feature=slot)
        self.assertAlmostEqual(r.advance or 0, 1.0, places=4)
        self.assertAlmostEqual(math.degrees(r.state.phi_s), 52.83, places=2)
        self.assertIsNone(r.corner_angle)
        for other in ({"feature": {**slot, "width_mm": 12.0}}, {"feature": slot, "strategy": "light_radial"}):
            self.assertIsNone(result(**{"strategy": "trochoidal", **other}).advance)

    def test_the_corner_caution_gives_the_feed_that_keeps_the_chip(self) -> None:
        r = result(feature=POCKET)
        text = said(r)["corner_engagement"]
        growth = math.sin(r.corner_angle or 0) / 0.6
        self.assertIn(f"{r.state.vf / growth:,.0f} mm/min".replace(",", "\xa0"), text)


class WorkingOut(unittest.TestCase):
    def test_everything_shown_can_be_explained(self) -> None:
        for r in (result(feature=POCKET), result(hex_mm=None, fz_mm=0.05), result(hex_mm=None, book={"fz_mm": 0.05}),
                  result(compensation="mean_chip", n_rpm=4000.0, vc_m_min=None),
                  result(job={"workpiece": {"material": {"Ktc_n_mm2": 1500.0}}})):  # fmt: skip
            for id in explained():
                with self.subTest(id=id):
                    working = working_of(r, id, where)
                    told = working.explanation
                    self.assertTrue(working.title and told.formula and told.source and told.override)
                    for given in working.inputs:
                        self.assertTrue(given.meaning and given.origin)

    def test_explanations_show_the_results_own_numbers(self) -> None:
        r = result(feature=POCKET)
        for id, value in (("n", r.state.n), ("vf", r.state.vf), ("q", r.state.q), ("hex", r.state.hex), ("kc", r.state.kc),
                          ("time", r.cut_time), ("spindle_power", r.state.power_cut / r.state.power_s1)):  # fmt: skip
            self.assertAlmostEqual(working_of(r, id, where).value or 0, value or 0, msg=id)

    def test_table_and_row_are_named(self) -> None:
        text = " ".join(i.origin for i in working_of(result(), "kc", where).inputs)
        self.assertIn("workpiece-materials.csv, row 42crmo4-qt30", text)

    def test_a_limit_that_does_not_apply_says_so(self) -> None:
        r = result(job={"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}}})
        self.assertIn("nothing is known", working_of(r, "chip_thickness_max", where).explanation.formula)


class Readiness(unittest.TestCase):
    def verdict(self, title: str, **changes: object) -> str:
        return next(c.grade for c in readiness_of(result(**changes), "metric") if c.title == title)

    def test_every_line_has_a_number_or_a_reason(self) -> None:
        checks = readiness_of(result(tool={"DMM": 12.0}), "metric")
        titles = ["Cutting parameters", "Tool geometry", "Holder and grip", "Stick-out", "Taper", "Runout", "Work holding",
                  "Chatter", "Spindle", "Coolant", "Coating"]  # fmt: skip
        self.assertEqual([c.title for c in checks], titles)
        self.assertTrue(all(any(ch.isdigit() for ch in c.text) for c in checks[:7]))

    def test_verdicts_follow_the_numbers(self) -> None:
        cases = (
            ("Cutting parameters", {"hex_mm": 0.09}, "stop"),
            ("Cutting parameters", {}, "good"),
            ("Tool geometry", {"tool": {"coating": "DLC"}}, "stop"),
            ("Tool geometry", {"tool": {"centre_cutting": False}, "feature": POCKET}, "look"),
            ("Holder and grip", {"holder": {"kind": "collet", "grip_torque_nm": 1.0}}, "stop"),
            ("Holder and grip", {"tool": {"DMM": 12.0}}, "good"),
            ("Stick-out", {"feature": {**POCKET, "depth_mm": 60.0}}, "stop"),
            ("Stick-out", {"stick_out_mm": 70.0, "deflection_limit_um": 50.0}, "stop"),
            ("Stick-out", {"stick_out_mm": 50.0, "ap_mm": 1.0}, "look"),
            ("Work holding", {"job": {"workpiece": {"material": "42crmo4-qt30", "clamp_force_n": 500.0}}}, "stop"),
            ("Work holding", {"job": {"workpiece": {"material": "42crmo4-qt30", "clamp_force_n": 50000.0}}}, "good"),
            ("Spindle", {"job": {"machine": "bench-gear"}, "ae_mm": 8.0}, "stop"),
            ("Coolant", {"coolant": "flood"}, "look"),
            ("Coating", {"tool": {"coating": "DLC"}}, "look"),
        )
        for title, changes, expected in cases:
            with self.subTest(title=title, changes=changes):
                self.assertEqual(self.verdict(title, **changes), expected)

    def test_grip_is_read_between_the_tabled_shanks(self) -> None:
        self.assertAlmostEqual(
            result(tool={"DMM": 11.0}, holder={"kind": "shrink"}).setup.structure.grip or 0, (48 + 85) / 2
        )
        self.assertEqual(result(holder={"kind": "shrink", "grip_torque_nm": 33.0}).setup.structure.grip, 33.0)
        self.assertIsNone(result().setup.structure.grip)


class Starting(unittest.TestCase):
    def test_speed_is_table_times_condition_times_school(self) -> None:
        tool, material = LIBRARY.tools["sq-d12-z4"], LIBRARY.materials["34crnimo6-qt36"]
        found = starting_values(tool, material, "light_radial", LIBRARY)
        assert found is not None
        light = float(speed_multiplier(found.ae / 12.0, material.mc or 0.0, 1.55, 0.8))
        self.assertAlmostEqual(found.vc, 92 * 0.88 * light, delta=0.01)
        self.assertAlmostEqual(found.hex, 0.038 * 1.2**0.85)
        self.assertIn("p-low-alloy-qt", found.source)

    def test_none_where_the_tables_advise_against(self) -> None:
        tool, material = LIBRARY.tools["al-d10-z3"], LIBRARY.materials["c45e-n"]
        self.assertIsNone(starting_values(tool, material, "light_radial", LIBRARY))
