"""Each limit: value, limit, unit and whether it applies."""

import unittest

from lesna.planning.cut.limits import BY_ID, ENDS, RULES
from tests.support import result, setup

CONTRACT = {"spindle_speed", "spindle_power", "spindle_torque", "machine_feed", "tool_rated_speed", "chip_thickness_max",
            "chip_thickness_min", "deflection", "tool_stress", "tool_torsion", "grip", "taper_bending", "stability",
            "chip_space", "depth_available", "feature_depth", "cusp", "part_clamping", "axis_thrust"}  # fmt: skip


def entry(id: str, **changes: object):  # type: ignore[no-untyped-def]
    return next((limit for limit in result(**changes).limits if limit.rule.id == id), None)


class Limits(unittest.TestCase):
    def test_ids_are_the_contracts(self) -> None:
        self.assertLessEqual({rule.id for rule in RULES}, CONTRACT)
        self.assertEqual(len(BY_ID), len(RULES))

    def test_the_most_used_is_first_and_named(self) -> None:
        r = result()
        uses = [limit.use for limit in r.limits if limit.rule.id not in ENDS]
        self.assertEqual(uses, sorted(uses, reverse=True))
        self.assertEqual(
            {limit.rule.id for limit in r.limits[len(uses) :]}, {"depth_available"}, "where a cut only ends comes last"
        )
        assert r.limited_by is not None
        self.assertGreater(
            r.limited_by.use, 0.85 * uses[0]
        )  # a certain one comes before an estimate of nearly the same use

    def test_values_and_limits(self) -> None:
        cases = (
            ("spindle_speed", {"n_rpm": 6000.0, "vc_m_min": None}, 6000.0, 12000.0),
            ("depth_available", {}, 12.0, 26.0),
            ("chip_thickness_max", {}, 0.04, 1.5 * 0.05 * 1.2**0.85),
            ("tool_rated_speed", {"tool": {"rated_rpm": 9000.0}, "n_rpm": 6000.0, "vc_m_min": None}, 6000.0, 9000.0),
            ("machine_feed", {"hex_mm": None, "fz_mm": 0.1, "n_rpm": 5000.0, "vc_m_min": None}, 2000.0, 16000.0),
        )  # fmt: skip
        for id, changes, value, limit in cases:
            with self.subTest(id=id):
                found = entry(id, **changes)
                self.assertAlmostEqual(found.value, value)
                self.assertAlmostEqual(found.limit, limit)
                self.assertAlmostEqual(found.use, value / limit)

    def test_a_floor_is_used_the_other_way_round(self) -> None:
        found = entry("chip_thickness_min", hex_mm=0.016)
        self.assertAlmostEqual(found.limit, 0.008)  # the table's rubbing limit
        self.assertAlmostEqual(found.use, 0.5)

    def test_lines_that_leave_a_higher_cusp_than_a_surface_may_keep_break_a_limit(self) -> None:
        ball = {"kind": "ball", "DC": 10.0, "RE": 5.0}
        surface = {"kind": "surface", "slope_deg": 20.0, "depth_mm": 0.3, "cusp_um": 25.1}
        changes = {"tool": ball, "role": "finish", "feature": surface, "ap_mm": 0.3}
        found = entry("cusp", **changes, ae_mm=1.0)
        self.assertAlmostEqual(found.value, 25.06, places=2)  # R - sqrt(R2 - 0.25)
        self.assertAlmostEqual(found.use, 25.06 / 25.1, places=3)
        self.assertTrue(entry("cusp", **changes, ae_mm=10.0).is_broken)
        self.assertIsNone(entry("cusp", **{**changes, "role": "rough"}, ae_mm=1.0))

    def test_a_blunt_edge_needs_a_thicker_chip(self) -> None:
        self.assertAlmostEqual(entry("chip_thickness_min", tool={"edge_radius_um": 40.0}).limit, 3.0 * 4 / 1000)

    def test_the_slower_of_tool_and_holder_is_the_rated_speed(self) -> None:
        self.assertEqual(entry("tool_rated_speed", tool={"rated_rpm": 40000.0}).limit, 30000.0)

    def test_a_corner_limits_the_feed_to_a_third_of_its_radius(self) -> None:
        tool = {"kind": "corner_radius", "RE": 0.5}
        found = entry("chip_thickness_max", tool=tool, hex_mm=None, fz_mm=0.35, ae_mm=1.2)
        self.assertAlmostEqual(found.use, max(0.35 * 0.6 / (1.5 * 0.05 * 1.2**0.85), 0.35 / 0.175))
        self.assertAlmostEqual(entry("chip_thickness_max", tool=tool, hex_mm=None, fz_mm=0.09, ae_mm=12.0).use,
                               0.09 / (1.5 * 0.05 * 1.2**0.85))  # fmt: skip

    def test_limits_without_data_do_not_apply(self) -> None:
        job = {
            "workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}},
            "machine": {"rpm_max": 8000.0, "power_s1_kw": 9.0},
        }
        ids = {limit.rule.id for limit in result(job=job).limits}
        self.assertFalse(ids & {"chip_thickness_max", "chip_thickness_min", "machine_feed"})
        self.assertLessEqual({"spindle_power", "spindle_torque", "depth_available"}, ids)

    def test_a_cap_does_not_break_a_cut_but_an_excess_does(self) -> None:
        capped = result(vc_m_min=600.0, hex_mm=0.02)
        speed = next(limit for limit in capped.limits if limit.rule.id == "spindle_speed")
        self.assertTrue(speed.is_exceeded and not speed.is_broken)
        self.assertEqual(capped.standing, "at the limit")
        self.assertEqual(result(hex_mm=0.099).standing, "over")
        self.assertEqual(result().standing, "fits")

    def test_chip_space_counts_closed_slots(self) -> None:
        feature = {"kind": "slot", "length_mm": 90.0, "width_mm": 12.0, "depth_mm": 20.0}
        closed = entry("chip_space", coolant="flood", ae_mm=12.0, feature=feature)
        blown = entry("chip_space", coolant="air", ae_mm=12.0, feature=feature)
        self.assertAlmostEqual(closed.use / blown.use, 1.5)

    def test_default_gullet(self) -> None:
        self.assertAlmostEqual(
            setup(tool={"core_dia_ratio": 0.6}).gullet, 3.14159265 / 4 * 144 * 0.64 * 0.6 / 4, places=6
        )
        self.assertIsNone(setup(tool={"substrate": "indexable"}).gullet)

    def test_a_broken_chip_lies_closer(self) -> None:
        plain, broken = (entry("chip_space", tool={"kind": kind}, ap_mm=8.0) for kind in ("square", "chip_splitter"))
        self.assertAlmostEqual(broken.value / plain.value, 0.6, delta=0.02)

    def test_roughing_may_bend_by_a_fiftieth_of_its_diameter_or_half_the_stock(self) -> None:
        self.assertAlmostEqual(entry("deflection").limit, 240.0)
        feature = {"kind": "shelf", "length_mm": 90.0, "width_mm": 5.0, "depth_mm": 12.0, "stock_wall_mm": 0.8}
        self.assertAlmostEqual(entry("deflection", feature=feature).limit, 400.0)
        self.assertAlmostEqual(entry("deflection", deflection_limit_um=30.0).limit, 30.0)

    def test_finishing_is_judged_by_the_wall_alone(self) -> None:
        r = result(role="finish", ae_mm=0.2, hex_mm=0.02)
        found = next(limit for limit in r.limits if limit.rule.id == "deflection")
        self.assertAlmostEqual(found.value, abs(float(r.state.wall_error)))
        self.assertNotAlmostEqual(found.value, r.state.deflection)
        self.assertAlmostEqual(found.limit, 10.0)
        small = {"DC": 3.0, "DMM": 6.0, "APMX": 8.0, "LU": 12.0}
        self.assertAlmostEqual(
            entry("deflection", role="finish", tool=small, ap_mm=2.0, ae_mm=0.1, stick_out_mm=20.0).limit, 5.0
        )

    def test_a_taper_opens_long_before_it_gives(self) -> None:
        found = entry("taper_bending")
        self.assertAlmostEqual(found.limit, 2.0 * setup().structure.taper_moment)

    def test_a_taper_with_face_contact_takes_its_own_row(self) -> None:
        row = {"power_s1_kw": 15.0, "rpm_max": 12000.0, "drawbar_force_kn": 10.0}
        plain, faced, other = (
            setup(job={"machine": {**row, "taper": taper}}).parts.taper
            for taper in ("40-taper 7/24", "40-taper 7/24, face contact", "HSK-A63, face contact")
        )
        assert plain is not None and faced is not None and other is not None
        self.assertEqual((plain.id, faced.id, other.id), ("40-taper", "40-taper-face", "HSK-A63"))
        self.assertGreater(faced.moment_per_kn_mm, plain.moment_per_kn_mm)

    def test_power_of_the_nose_or_of_the_motor(self) -> None:
        for machine, name in (("vmc40-12k", "power_cut"), ({"rpm_max": 8000.0, "power_s1_kw": 9.0}, "power_motor")):
            r = result(job={"machine": machine})
            found = next(limit for limit in r.limits if limit.rule.id == "spindle_power")
            self.assertAlmostEqual(found.value, getattr(r.state, name))

    def test_each_knows_how_well_it_is_known(self) -> None:
        known = {limit.rule.id: limit for limit in result().limits}
        self.assertEqual((known["depth_available"].confidence, known["stability"].confidence), ("A", "C"))
        self.assertEqual(
            (known["depth_available"].low, known["depth_available"].high), (known["depth_available"].use,) * 2
        )
        chatter = known["stability"]
        self.assertAlmostEqual(chatter.high / chatter.use, 1.6)
        self.assertAlmostEqual(chatter.use / chatter.low, 1.6)
        modes = [{"axis": axis, "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03} for axis in "xy"]
        self.assertEqual(BY_ID["stability"].known(setup(tap_modes=modes)), "B")
