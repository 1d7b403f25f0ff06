"""The rules by which a shop judges a cut: forces, speeds and lives against closed forms, and no jumps on the way."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.model import units
from lesna.planning.cut.life import multiplier
from lesna.planning.cut.limits import BY_FORCE, BY_ID, LimitUse, Rule
from lesna.planning.cut.solve import solve, solve_one
from lesna.planning.telling.explained import working_of
from lesna.planning.telling.figures import FIGURES, result_data
from tests.support import LIBRARY, result, setup

BALL = {"kind": "ball", "DC": 10.0, "DMM": 10.0, "ZEFP": 4, "FHA": 30.0, "APMX": 15.0, "LU": 30.0}


def on(material: str) -> dict[str, object]:
    return {"job": {"workpiece": {"material": material}}}


def where(table: str, key: object) -> str:
    return str(getattr(LIBRARY, table).origin(key))


class Forces(unittest.TestCase):
    def test_a_tool_without_a_rake_has_that_of_its_trade(self) -> None:
        for material, rake in (("en-aw-6082-t6", 16.0), ("x5crni18-10", 10.0), ("ti-6al-4v-a", 10.0), ("x153crmov12-60", 6.0),
                               ("42crmo4-qt30", 8.0), ("en-gjl-250", 8.0)):  # fmt: skip
            with self.subTest(material=material):
                silent, typed = setup(**on(material)), setup(**on(material), tool={"GAMF": rake})
                np.testing.assert_allclose(silent.law.kienzle, typed.law.kienzle)

    def test_coefficients_from_a_cutter_hold_its_rake(self) -> None:
        job = {"workpiece": {"material": {"Ktc_n_mm2": 1500.0, "Kte_n_mm": 30.0}}}
        self.assertAlmostEqual(float(setup(job=job).law.linear[0, 0]), 1500.0)

    def test_a_sharper_edge_ploughs_less(self) -> None:
        for radius in (4.0, 10.0):
            self.assertAlmostEqual(setup(tool={"edge_radius_um": radius}).law.h1, 2 * radius / 1000)
        thin = {"ae_mm": 0.3, "hex_mm": 0.01}
        sharp, blunt = (result(tool={"edge_radius_um": radius}, **thin).state.fxy_peak for radius in (4.0, 12.0))
        self.assertLess(sharp, blunt)

    def test_slow_cuts_need_more_force(self) -> None:
        slow, at, fast = (result(vc_m_min=vc).state.kc for vc in (50.0, 100.0, 200.0))
        self.assertAlmostEqual(slow / at, 2.023 * 50**-0.153, places=3)
        self.assertAlmostEqual(fast / at, 1.380 * 200**-0.07, places=3)

    def test_the_map_takes_the_same_correction_as_the_cut(self) -> None:
        s = setup(vc_m_min=45.0)
        over, (one, _) = solve(s, np.array([1.2]), np.array([12.0])), solve_one(s, 1.2, 12.0)
        self.assertAlmostEqual(float(over.torque[0, 0]) / one.torque, 1.0, delta=0.02)

    def test_bands_widen_with_doubt_and_thin_chips(self) -> None:
        thick = {"ae_mm": 6.0, "hex_mm": 0.09}
        bands = {}
        for material in LIBRARY.materials.values():
            bands[material.confidence[:1]] = result(**on(material.id), **thick).force_band
        self.assertEqual({key: round(band, 2) for key, band in bands.items() if key in "ABC"},
                         {key: value for key, value in {"A": 0.15, "B": 0.25, "C": 0.40}.items() if key in bands})  # fmt: skip
        thin = result(ae_mm=0.6, hex_mm=0.03)
        self.assertAlmostEqual(thin.force_band - result(**thick).force_band, 0.10)
        data = result_data(thin)
        self.assertAlmostEqual(data["band_pct"], 100 * thin.force_band)
        for limit in data["limits"]:
            if limit["id"] in BY_FORCE:
                self.assertAlmostEqual(limit["band_pct"], data["band_pct"])
        told = working_of(thin, "fxy_peak", where)
        self.assertTrue(any("off" in given.meaning or "band" in given.meaning for given in told.inputs))


class Balls(unittest.TestCase):
    def test_a_tilted_ball_keeps_its_chip_and_gains_speed(self) -> None:
        upright, tilted = (result(tool=BALL, ap_mm=0.3, ae_mm=0.3, hex_mm=0.03, tilt_deg=tilt, strategy="surface",
                                  feature={"kind": "surface", "length_mm": 50.0, "width_mm": 40.0}).state
                           for tilt in (0.0, 20.0))  # fmt: skip
        self.assertAlmostEqual(tilted.fz, upright.fz)
        self.assertAlmostEqual(tilted.hm, upright.hm)
        self.assertLess(tilted.n, 0.7 * upright.n)  # the same surface speed on a larger circle

    @settings(max_examples=15)
    @given(ap=st.floats(0.003, 2.0))
    def test_feed_and_power_of_a_ball_have_no_jump(self, ap: float) -> None:
        tool = (
            {**BALL, "centre_flutes": 2} if "centre_flutes" in type(setup(tool=BALL).parts.tool).model_fields else BALL
        )
        here, near = (result(tool=tool, ap_mm=ap * step, ae_mm=0.4, hex_mm=0.02).state for step in (1.0, 1.001))
        self.assertAlmostEqual(near.vf / here.vf, 1.0, delta=0.02)
        self.assertAlmostEqual(near.power_cut / here.power_cut, 1.0, delta=0.03)


class Lives(unittest.TestCase):
    @settings(max_examples=10)
    @given(ae=st.floats(0.4, 11.0), vc=st.floats(40.0, 250.0))
    def test_a_wider_or_faster_cut_never_lives_longer(self, ae: float, vc: float) -> None:
        def life(**changes: float) -> float:
            economy = result(**{"ae_mm": ae, "vc_m_min": vc, "hex_mm": 0.04, "ap_mm": 4.0, **changes}).economy
            assert economy is not None
            return economy.life

        self.assertLessEqual(life(ae_mm=1.08 * ae), life() * (1 + 1e-9))
        self.assertLess(life(vc_m_min=1.08 * vc), life())

    def test_rows_of_hardened_steel_belong_to_their_own_light_engagement(self) -> None:
        s = setup(**on("x153crmov12-60"))
        data = s.parts.data
        assert data is not None and data.ref_ae_over_d is not None
        self.assertLess(data.ref_ae_over_d, 0.1)
        self.assertAlmostEqual(float(multiplier(s, data.ref_ae_over_d * s.shape.DC, 9.0)), 1.0)
        self.assertLess(float(multiplier(s, 0.5 * s.shape.DC, 9.0)), 0.8)

    def test_a_long_life_is_told_in_round_hours(self) -> None:
        crawling = result(vc_m_min=40.0)
        assert crawling.economy is not None
        self.assertTrue(crawling.economy.is_over)
        self.assertRegex(FIGURES["life"].full(crawling, "metric"), r"^over \d+ h$")
        self.assertRegex(FIGURES["life"].full(result(vc_m_min=150.0), "metric"), r"^[\d.]+ min$")


class Standing(unittest.TestCase):
    def test_a_certain_limit_is_named_before_an_estimate_of_nearly_the_same_use(self) -> None:
        base = result()
        rules: dict[str, Rule] = BY_ID

        def held(**uses: float) -> str:
            known = {"stability": "C", "tool_rated_speed": "A", "deflection": "B", "depth_available": "A"}
            entries = tuple(LimitUse(rules[id], use, use, 1.0, known[id]) for id, use in uses.items())  # type: ignore[arg-type]
            named = replace(base, limits=tuple(sorted(entries, key=lambda entry: -entry.use))).limited_by
            assert named is not None
            return named.rule.id

        self.assertEqual(held(stability=0.90, tool_rated_speed=0.85), "tool_rated_speed")
        self.assertEqual(held(stability=0.90, tool_rated_speed=0.60), "stability")
        self.assertEqual(held(stability=0.80, deflection=0.78, tool_rated_speed=0.3), "deflection")
        self.assertEqual(held(deflection=0.3, depth_available=1.0), "deflection")  # all of the flute strains nothing
        self.assertEqual(held(stability=1.05, depth_available=0.99), "stability")  # what is broken comes first

    def test_idle_power_begins_at_nothing(self) -> None:
        drive = setup().drive
        idle = np.asarray(drive.idle(np.linspace(0.0, 12000.0, 50)))
        self.assertAlmostEqual(float(idle[0]), 0.0)
        self.assertTrue((np.diff(idle) >= 0).all())
        crawl = result(n_rpm=60.0, vc_m_min=None)
        self.assertLess(next(limit.use for limit in crawl.limits if limit.rule.id == "spindle_power"), 1.0)

    def test_torque_as_it_is_said_in_the_shop(self) -> None:
        for text in ("10 lbf ft", "10 ft-lb"):
            self.assertAlmostEqual(units.parse(text, units.TORQUE), 13.558, places=2)


if __name__ == "__main__":
    unittest.main()
