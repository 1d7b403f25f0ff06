"""Each caution speaks when its numbers touch it, and is silent otherwise."""

import unittest

from lesna.planning.telling import cautions, setting
from tests.support import DEMOS, LIBRARY, job, raw, result

QUIET = {"first_run", "starting_values", "thin_chip_extrapolated", "more_flutes"}
POCKET = {"kind": "pocket", "length_mm": 90.0, "width_mm": 50.0, "depth_mm": 20.0}
#: a rougher and a finisher of the same tool
_TOOL = {"id": "sq-d12-z4"}
_CUT = {**raw()["cuts"][0], "tool": _TOOL, "ap_mm": 10.0}
TWO_CUTS = [_CUT, {**_CUT, "name": "Finish", "role": "finish"}]
BALL = {"kind": "ball", "RE": 6.0}


def said(**changes: object) -> dict[str, str]:
    return {c.id: c.severity for c in cautions.cautions_of(result(**changes))}


class Cautions(unittest.TestCase):
    #: caution -> a cut that touches it
    TOUCHED: dict[str, dict[str, object]] = {
        "magnesium_fire": {"job": {"workpiece": {"material": "az91"}}},
        "titanium_fire": {"job": {"workpiece": {"material": "ti-6al-4v-a"}}, "coolant": "dry"},
        "rated_speed": {"tool": {"rated_rpm": 3000.0}},
        "balance": {"stick_out_mm": 80.0, "n_rpm": 9000.0, "vc_m_min": None},
        "speed_set_by_machine": {"vc_m_min": 900.0},
        "machine_feed_cap": {"n_rpm": 12000.0, "vc_m_min": None, "fz_mm": 0.5, "hex_mm": None},
        "rubbing": {"hex_mm": 0.004},
        "built_up_edge": {"job": {"workpiece": {"material": "en-aw-6082-t6"}}, "vc_m_min": 40.0},
        "hardens_when_rubbed": {
            "job": {"workpiece": {"material": {"id": "42crmo4-qt30", "work_hardening_tendency": 3}}},
            "hex_mm": 0.006,
        },
        "beyond_balance": {"holder": {"kind": "collet"}, "n_rpm": 9000.0, "vc_m_min": None},
        "chips_near_melting": {"job": {"workpiece": {"material": {"id": "az91", "melting_or_solidus_c": 150.0}}}},
        "chip_too_thick": {"hex_mm": 0.08},
        "chip_target_unreachable": {"ae_mm": 0.03, "hex_mm": 0.05},
        "thinning_factor": {"ae_mm": 0.2},
        "book_reference": {"hex_mm": None, "book": {"fz_mm": 0.05}},
        "corner_engagement": {"feature": {**POCKET, "corner_radius_mm": 8.0}},
        "ball_centre": {"tool": BALL, "ap_mm": 0.3, "ae_mm": 0.4},
        "tilt_ignored": {"tilt_deg": 10.0},
        "plunge": {"tool": {"centre_cutting": False}, "feature": POCKET},
        "chip_room": {"ae_mm": 12.0, "hex_mm": None, "fz_mm": 0.5},
        "welding": {"job": {"workpiece": {"material": "en-aw-6082-t6"}}, "coolant": "dry"},
        "coolant_avoid": {"job": {"workpiece": {"material": "ti-6al-4v-a"}}, "coolant": "dry"},
        "coolant_shock": {"coolant": "flood"},
        "not_recommended": {"tool": {"coating": "DLC"}},
        "no_starting_data": {"job": {"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}}}},
        "hardness_outside": {"job": {"workpiece": {"material": "42crmo4-qt30", "hardness_hrc": 50.0}}},
        "thin_chip_extrapolated": {},
        "estimated_force": {"job": {"workpiece": {"material": "cu-etp"}}},
        "life_out_of_range": {"hex_mm": 0.09},
        "friction_pull_out": {"tool": {"FHA": 55.0}, "ae_mm": 5.0, "holder": {"kind": "shrink", "grip_torque_nm": 8.0}},
        "light_taper": {"job": {"machine": "vmc30-10k"}, "ae_mm": 6.0},
        "flutes_in_holder": {"stick_out_mm": 24.0},
        "long_stick_out": {"stick_out_mm": 66.0},
        "part_slips_on_rapids": {
            "job": {"workpiece": {"material": "42crmo4-qt30", "mass_kg": 600.0, "clamp_force_n": 9000.0}}
        },
        "sharp_corner_hard_work": {"job": {"workpiece": {"material": "x40crmov5-1-52"}}},
        "runout_share": {"tool": {"runout_um": 30.0}},
        "flutes_against_chips": {"job": {"workpiece": {"material": "en-aw-6082-t6"}}, "ae_mm": 6.0},
        "aged_stainless": {
            "job": {
                "workpiece": {
                    "material": {"kc11_n_mm2": 2200.0, "mc": 0.24, "name": "17-4 PH aged"},
                    "hardness_hrc": 40.0,
                }
            }
        },
        "general_geometry": {"tool": {"intended_iso_groups": "P M K S"}},
        "more_flutes": {},
        "compensation_capped": {"ae_mm": 0.03, "hex_mm": 0.02},
        "taper_opens": {
            "job": {"machine": "vmc30-10k"},
            "ae_mm": 12.0,
            "ap_mm": 12.0,
            "hex_mm": 0.06,
            "stick_out_mm": 60.0,
        },
        "same_tool_twice": {"job": {"cuts": TWO_CUTS}},
        "high_pressure_reliance": {"job": {"workpiece": {"material": "ti-6al-4v-a"}}, "coolant": "through"},
        "pitch_angles_unknown": {"tool": {"pitch": "variable"}},
        "simulated_modes": {
            "tap_modes": [
                {"axis": axis, "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03, "simulated": True} for axis in ("x", "y")
            ]
        },
        "speed_outside_table": {"job": {"workpiece": {"material": "ti-6al-4v-a"}}, "vc_m_min": 230.0},
        "life_not_kept": {
            "job": {"workpiece": {"material": "alloy-718-aged"}},
            "vc_m_min": None,
            "life_min_wanted": 90.0,
        },
        "first_run": {},
        "starting_values": {},
    }

    def test_every_caution_of_the_registry_is_tried_here(self) -> None:
        # those of the setting are tried in a test of their own
        own = {id for id, _, _ in cautions._ENTRIES} - {id for id, _, _ in setting.ENTRIES}
        self.assertEqual(own | {"life_out_of_range"}, set(self.TOUCHED))

    def test_each_speaks_when_touched(self) -> None:
        for id, changes in self.TOUCHED.items():
            with self.subTest(id=id):
                self.assertIn(id, said(**changes))

    def test_a_calm_cut_hears_only_the_standing_notes(self) -> None:
        self.assertEqual(set(said()), QUIET)

    def test_answers_to_a_caution_silence_it(self) -> None:
        self.assertNotIn("titanium_fire", said(job={"workpiece": {"material": "ti-6al-4v-a"}}, coolant="through"))
        self.assertNotIn("ball_centre", said(tool=BALL, ap_mm=0.1, ae_mm=0.4, tilt_deg=30.0))
        self.assertNotIn("welding", said(job={"workpiece": {"material": "en-aw-6082-t6"}}, coolant="mist"))

    def test_danger_comes_first_and_every_text_is_a_sentence(self) -> None:
        order = {"danger": 0, "caution": 1, "note": 2}
        found = cautions.cautions_of(result(tool={"rated_rpm": 3000.0}, hex_mm=0.004))
        ranks = [order[c.severity] for c in found]
        self.assertEqual(ranks, sorted(ranks))
        for c in found:
            self.assertRegex(c.text, r"^[A-Z0-9].*\.$")

    def test_demo_jobs_are_in_no_danger(self) -> None:
        from lesna.model.files import load_job
        from lesna.planning.evaluate import evaluate

        for path in DEMOS:
            demo = load_job(path)
            for index in range(len(demo.cuts)):
                found = evaluate(demo, index, LIBRARY, wait=False)
                self.assertNotEqual(found.standing, "over", f"{path.name}: {found.name}")
                self.assertNotIn("flutes_in_holder", [c.id for c in cautions.cautions_of(found)])
                self.assertNotIn("danger", [c.severity for c in cautions.cautions_of(found)])
        self.assertGreaterEqual(len(DEMOS), 4)
        self.assertEqual(len(job().cuts), 1)
