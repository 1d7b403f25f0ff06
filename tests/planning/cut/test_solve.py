"""One computation for a point and for a map, against the contract's numbers and against the formulas by hand."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.model import units
from lesna.planning.cut.limits import uses_over
from lesna.planning.cut.solve import solve, solve_one
from lesna.planning.telling.cautions import cautions_of
from tests.support import result, said, setup

BENCH = {"machine": "bench-gear"}


class ByHand(unittest.TestCase):
    def test_the_plain_cut(self) -> None:
        s = result().state
        self.assertAlmostEqual(s.n, 120_000 / (12 * math.pi))
        self.assertAlmostEqual(s.fz, 0.04 / 0.6)  # sin(36.87 deg) = 0.6
        self.assertAlmostEqual(s.vf, s.n * 4 * s.fz)
        self.assertAlmostEqual(s.q, 1.2 * 12 * s.vf / 1000)
        self.assertAlmostEqual(s.hm, s.fz * 0.2 / math.acos(0.8))
        kc = 2100 * s.hm**-0.25 * 1.38 * 120**-0.07 * 0.97  # at 120 m/min and 8 deg of rake where the table has 6
        self.assertAlmostEqual(s.kc, kc)
        # the force follows the chip over the arc, which kc at the mean chip only stands for
        self.assertAlmostEqual(s.power_cut / (kc * s.q / 60_000), 1.0, delta=0.05)
        self.assertAlmostEqual(s.torque, s.power_cut * 60_000 / (2 * math.pi * s.n))
        self.assertAlmostEqual(s.power_s1, 13.0)

    def test_idle_and_efficiency_stand_in_the_motor_power(self) -> None:
        r = result()
        s, drive = r.state, r.setup.drive
        self.assertAlmostEqual(s.power_motor, s.power_cut / 0.87 + float(drive.idle(s.n)))
        self.assertGreater(float(drive.idle(s.n)), 0.1)

    def test_hardness_and_rake_correct_the_force(self) -> None:
        base = result().state.kc
        hard = result(job={"workpiece": {"material": "42crmo4-qt30", "hardness_hb": 287.5 * 1.1}}).state.kc
        self.assertAlmostEqual(hard / base, 1.1**0.45)
        self.assertAlmostEqual(result(tool={"GAMF": 16.0}).state.kc / base, 0.85 / 0.97)

    def test_linear_coefficients_take_the_linear_law(self) -> None:
        material = {"Ktc_n_mm2": 1500.0, "Kte_n_mm": 30.0, "Krc_n_mm2": 600.0, "Kac_n_mm2": 300.0}
        r = result(job={"workpiece": {"material": material}})
        self.assertAlmostEqual(r.state.kc, 1500 + 30 / r.state.hm)
        np.testing.assert_allclose(r.setup.law.linear[:, 0], [1500.0, 600.0, 300.0])
        # mean power of the linear law: cutting share by removal, edge share by the edge's way in the cut
        edge = 30.0 * 12.0 * 4 * r.state.phi_s / (2 * math.pi) * r.state.vc / 60_000
        self.assertAlmostEqual(r.state.power_cut, 1500 * r.state.q / 60_000 + edge, places=6)

    def test_exact_chip_on_very_thin_steps(self) -> None:
        s = result(ae_mm=0.24, hex_mm=0.08).state
        R, sine = 6.0, math.sin(math.acos(1 - 0.24 / 6))
        self.assertAlmostEqual(s.fz, R * sine - math.sqrt((R * sine) ** 2 - 0.08 * (2 * R - 0.08)))
        self.assertAlmostEqual(s.hex, 0.08)

    def test_compensation_is_capped_and_says_so(self) -> None:
        r = result(ae_mm=0.03, hex_mm=0.02)
        self.assertAlmostEqual(r.state.fz, 4 * 0.02)
        self.assertLess(r.state.hex, 0.02)
        self.assertIn("compensation_capped", said(r))

    @settings(max_examples=40)
    @given(x=st.floats(0.003, 0.6), chip=st.floats(0.005, 0.06))
    def test_the_feed_has_no_jump(self, x: float, chip: float) -> None:
        here, near = (float(result(ae_mm=12 * x * step, hex_mm=chip).state.fz) for step in (1.0, 1.0005))
        self.assertAlmostEqual(near / here, 1.0, delta=0.003)

    def test_unreachable_chip_is_said(self) -> None:
        r = result(ae_mm=0.03, hex_mm=0.05)
        self.assertFalse(r.state.chip_reached)
        self.assertIn("chip_target_unreachable", said(r))


class Schools(unittest.TestCase):
    def test_both_schools_agree_at_half_engagement(self) -> None:
        for school in ("max_chip", "mean_chip"):
            self.assertAlmostEqual(result(compensation=school, ae_mm=6.0).state.fz, 0.04)

    def test_mean_chip_keeps_the_mean(self) -> None:
        target = 0.04 * 2 / math.pi
        for ae in (0.6, 1.2, 4.0):
            self.assertAlmostEqual(result(compensation="mean_chip", ae_mm=ae).state.hm, target)

    def test_book_value_is_kept_at_its_own_engagement_and_grows_below(self) -> None:
        book = {"fz_mm": 0.08, "ae_over_dc": 0.3}
        for school in ("max_chip", "mean_chip"):
            same = result(hex_mm=None, book=book, compensation=school, ae_mm=3.6).state.fz
            thinner = result(hex_mm=None, book=book, compensation=school, ae_mm=1.2).state.fz
            self.assertAlmostEqual(same, 0.08)
            self.assertGreater(thinner, 0.1)

    def test_unstated_book_engagement_is_taken_at_half_and_said(self) -> None:
        r = result(hex_mm=None, book={"fz_mm": 0.05}, ae_mm=6.0)
        self.assertAlmostEqual(r.state.fz, 0.05)
        self.assertIn("book_reference", said(r))


class Machine(unittest.TestCase):
    def test_speed_above_the_machine_is_capped_and_said(self) -> None:
        r = result(vc_m_min=900.0)
        self.assertEqual(r.state.n, 12000.0)
        self.assertAlmostEqual(r.state.vc, math.pi * 12 * 12)
        self.assertIn("asked for 23873 rpm", r.clipped("n"))
        self.assertEqual(r.clipped("q"), "")

    def test_feed_cap_shows_the_lost_chip(self) -> None:
        r = result(n_rpm=11000.0, vc_m_min=None, hex_mm=0.3, ae_mm=6.0)
        self.assertEqual(r.state.vf, 16000.0 if r.state.vf_asked > 16000 else r.state.vf_asked)
        r = result(n_rpm=12000.0, vc_m_min=None, fz_mm=0.5, hex_mm=None, ae_mm=6.0)
        self.assertEqual(r.state.vf, 16000.0)
        self.assertAlmostEqual(r.state.hex, 16000 / 48000)
        text = said(r)["machine_feed_cap"]
        self.assertIn("hex falls from 0.500 mm to 0.333 mm", text)

    def test_gear_steps_take_the_step_below_and_recompute(self) -> None:
        r = result(job=BENCH, vc_m_min=60.0, hex_mm=0.02, ap_mm=1.0)
        self.assertEqual(r.state.n, 1400.0)  # 1592 asked
        self.assertIn(r.state.vf, r.setup.drive.feed_steps)
        self.assertAlmostEqual(r.state.fz, r.state.vf / (1400 * 4))
        self.assertLess(r.state.vf, r.state.vf_asked)

    def test_below_the_lowest_step_the_lowest_is_used_and_said(self) -> None:
        r = result(job=BENCH, vc_m_min=2.0, hex_mm=0.02)
        self.assertEqual(r.state.n, 90.0)
        self.assertIn("lowest speed", r.clipped("n"))

    def test_cautions_speak_the_units_of_the_view(self) -> None:
        r = result(n_rpm=12000.0, vc_m_min=None, fz_mm=0.5, hex_mm=None, ae_mm=6.0)
        text = next(c.text for c in cautions_of(r) if c.id == "machine_feed_cap")
        self.assertIn("629.9 ipm", units.said(text, "inch"))
        self.assertIn("16\xa0000 mm/min", units.said(text, "metric"))


class Shapes(unittest.TestCase):
    def test_ball_uses_its_contact_diameter_and_its_own_engagement(self) -> None:
        ball = {"kind": "ball", "DC": 10.0, "RE": 5.0, "ZEFP": 4}
        s = result(tool=ball, ap_mm=0.2, ae_mm=0.3, stick_out_mm=40.0, vc_m_min=90.0).state
        d_eff = 2 * math.sqrt(0.2 * 9.8)
        self.assertAlmostEqual(s.d_eff, d_eff)
        self.assertAlmostEqual(s.n_asked, 90_000 / (math.pi * d_eff))
        self.assertAlmostEqual(s.x, 0.3 / d_eff)
        self.assertEqual(s.z, 4)
        self.assertEqual(result(tool=ball, ap_mm=0.05, ae_mm=0.3, vc_m_min=90.0).state.z, 2)

    def test_high_feed_divides_by_the_lead_angle_once(self) -> None:
        tool = {"kind": "high_feed", "DC": 16.0, "APMX": 0.8, "LU": 40.0, "KAPR": 17.0, "ZEFP": 2}
        s = result(tool=tool, ap_mm=0.5, ae_mm=10.0, hex_mm=0.1).state
        self.assertAlmostEqual(s.fz, 0.1 / math.sin(math.radians(17)))
        self.assertAlmostEqual(s.hex, 0.1)

    def test_chamfer_takes_speed_on_its_contact_diameter(self) -> None:
        tool = {"kind": "chamfer", "DC": 8.0, "tip_angle_deg": 90.0, "tip_diameter_mm": 0.8, "APMX": 3.6}
        self.assertAlmostEqual(result(tool=tool, ap_mm=1.0, ae_mm=0.5).state.d_eff, 2.8)


class Vectorised(unittest.TestCase):
    def test_a_map_equals_its_points_one_by_one(self) -> None:
        tools = ({}, {"kind": "ball", "RE": 6.0}, {"kind": "corner_radius", "RE": 2.0, "runout_um": 8.0},
                 {"kind": "high_feed", "KAPR": 15.0, "APMX": 1.0})  # fmt: skip
        for tool in tools:
            for school in ("max_chip", "mean_chip"):
                s = setup(tool=tool, compensation=school, ap_mm=0.5)
                ae, ap = np.array([0.05, 1.0, 5.9, 12.0]), np.array([0.2, 1.9, 2.1, 20.0])
                grid = solve(s, ae, ap)
                uses = uses_over(s, grid)
                for i, depth in enumerate(ap):
                    for j, width in enumerate(ae):
                        point, _ = solve_one(s, width, depth)
                        for name in ("n", "fz", "hex", "hm", "q", "chip_space"):
                            value = float(np.broadcast_to(getattr(grid, name), grid.ae.shape)[i, j])
                            self.assertAlmostEqual(value, getattr(point, name), places=9, msg=name)
                        for name, near in (
                            ("power_motor", 0.01),
                            ("torque", 0.02),
                            ("fxy_peak", 0.05),
                            ("deflection", 0.05),
                        ):
                            self.assertAlmostEqual(
                                getattr(grid, name)[i, j] / getattr(point, name), 1.0, delta=near, msg=name
                            )
                self.assertTrue(all(use.shape == grid.ae.shape for use in uses.values()))

    @settings(max_examples=60)
    @given(ae=st.floats(0.0005, 1.0), ap=st.floats(0.0005, 1.0), kind=st.sampled_from(["square", "ball", "corner_radius", "high_feed"]),
           school=st.sampled_from(["max_chip", "mean_chip"]))  # fmt: skip
    def test_every_admissible_point_has_finite_numbers(self, ae: float, ap: float, kind: str, school: str) -> None:
        tool = {
            "kind": kind,
            "RE": {"ball": 6.0, "corner_radius": 1.0}.get(kind, 0.0),
            "KAPR": 15.0 if kind == "high_feed" else 90.0,
        }
        s = setup(tool=tool, compensation=school, ap_mm=0.5)
        state, _ = solve_one(s, ae * 12.0, ap * s.depth_top)
        for name, value in vars(state).items():
            self.assertTrue(math.isfinite(value), name)
            # forces have a direction, and a wall may be cut into or left standing
            if name not in ("fx_mean", "fy_mean", "fz_mean", "fz_max", "fz_min", "wall_error"):
                self.assertGreaterEqual(value, 0, name)

    @settings(max_examples=40)
    @given(fz=st.floats(0.01, 0.2), ap=st.floats(0.5, 20.0), ae=st.floats(0.1, 12.0))
    def test_power_and_force_grow_with_feed_and_depth(self, fz: float, ap: float, ae: float) -> None:
        def power(feed: float, depth: float) -> float:
            return float(solve_one(setup(hex_mm=None, fz_mm=feed), ae, depth)[0].power_cut)

        self.assertGreater(power(fz * 1.1, ap), power(fz, ap))
        self.assertGreater(power(fz, ap * 1.1), power(fz, ap))


class Structure(unittest.TestCase):
    def test_deflection_is_peak_force_times_compliance(self) -> None:
        r = result()
        bar = r.setup.structure.beam
        wanted = 1000 * r.state.fxy_peak * float(bar.compliance(0.0, r.state.height))
        self.assertAlmostEqual(r.state.deflection, wanted)
        self.assertAlmostEqual(r.state.height, 6.0, places=6)  # half of a plain flank 12 deep

    def test_a_longer_tool_bends_more_and_one_millimetre_is_as_said(self) -> None:
        a, b = result(stick_out_mm=42.0), result(stick_out_mm=41.0)
        gain = 1 - float(b.setup.structure.beam.compliance(0.0, 0.0) / a.setup.structure.beam.compliance(0.0, 0.0))
        self.assertAlmostEqual(a.stiffness_gain / gain, 1.0, delta=0.05)

    def test_wear_raises_the_radial_force_most(self) -> None:
        sharp, worn = result().setup.law.kienzle, result(wear_vb_mm=0.3).setup.law.kienzle
        np.testing.assert_allclose(worn / sharp, [1.3, 1.75, 1.3])

    def test_runout_overloads_one_tooth_by_what_it_adds(self) -> None:
        r = result(tool={"runout_um": 10.0, "ZEFP": 2}, ae_mm=12.0, ap_mm=4.0, hex_mm=0.05)
        self.assertAlmostEqual(r.overload, 0.01 / 0.05, places=3)
        self.assertEqual(r.teeth_working, 2)
        alone = result(tool={"runout_um": 200.0, "ZEFP": 2}, ae_mm=12.0, ap_mm=4.0, hex_mm=0.05)
        self.assertEqual(alone.teeth_working, 1)

    def test_up_and_down_leave_or_take_from_the_wall(self) -> None:
        state = result().state
        self.assertGreater(abs(state.wall_error), 0.5)
        self.assertLessEqual(abs(state.wall_error), state.deflection * 1.01)

    def test_the_wall_that_a_ball_leaves_does_not_jump_within_a_micrometre_of_stepover(self) -> None:
        ball = {"kind": "ball", "DC": 10.0, "RE": 5.0}
        for ap in (0.15, 0.3):
            cut = setup(tool=ball, role="finish", ae_mm=0.5, ap_mm=ap)
            error = [float(solve_one(cut, 0.5 + shift, ap)[0].wall_error) for shift in np.linspace(-5e-4, 5e-4, 21)]
            self.assertLess(np.ptp(error) / np.mean(error), 0.003)  # 0.02 to 0.06 where it was read between even angles
