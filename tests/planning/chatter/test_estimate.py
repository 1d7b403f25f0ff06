"""Chatter that nobody has measured: the depth of the tables, scaled by the set-up."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.planning.chatter import estimate
from lesna.planning.chatter.judge import chatter_of, depths_over, measured_over_stepover
from lesna.planning.cut.result import Chatter
from tests.support import result, setup

#: the set-up that the tables' depths belong to
USUAL = {
    "stick_out_mm": 36.0,
    "holder": {"kind": "shrink", "radial_stiffness_rel": 1.0, "damping_rel": 0.8, "nose_d12_mm": 26.0},
}


def known(**changes: Any) -> Chatter:
    found = chatter_of(setup(**changes))
    assert found is not None
    return found


class Depth(unittest.TestCase):
    def test_straight_in_logarithms_through_the_depths_of_the_table(self) -> None:
        parts = setup().parts
        data = parts.data
        assert data is not None and data.light_ap_max_over_d and data.heavy_ap_max_over_d and data.heavy_ae_max_over_d
        at = (0.1, data.heavy_ae_max_over_d, 1.0)
        wanted = (data.light_ap_max_over_d, data.heavy_ap_max_over_d, data.slot_ap_max_over_d)
        found = estimate.depth_over_diameter(parts, np.array(at))
        assert found is not None
        np.testing.assert_allclose(found, wanted)
        middle = estimate.depth_over_diameter(parts, (at[0] * at[1]) ** 0.5)
        self.assertAlmostEqual(float(middle or 0), (found[0] * found[1]) ** 0.5)
        # the first slope goes on below a tenth, down to a fiftieth
        thin = estimate.depth_over_diameter(parts, np.array([0.02, 0.001]))
        assert thin is not None
        slope = np.log(found[1] / found[0]) / np.log(at[1] / at[0])
        np.testing.assert_allclose(thin, found[0] * 0.2**slope)

    def test_the_usual_set_up_has_a_quarter_more_than_the_table(self) -> None:
        s = setup(**USUAL)
        self.assertAlmostEqual(estimate.rigidity(s), 1.0, delta=0.02)  # but for the taper's own projection
        data = s.parts.data
        assert data is not None and data.light_ap_max_over_d is not None
        self.assertAlmostEqual(known(**USUAL).depth / (1.25 * 12 * data.light_ap_max_over_d), 1.0, delta=0.02)

    def test_unequal_and_serrated_teeth_are_calmer(self) -> None:
        self.assertAlmostEqual(
            estimate.rigidity(setup(**USUAL, tool={"pitch": "variable"})) / estimate.rigidity(setup(**USUAL)), 1.2
        )
        self.assertAlmostEqual(
            estimate.rigidity(setup(**USUAL, tool={"kind": "serrated"})) / estimate.rigidity(setup(**USUAL)),
            1.4,
            delta=0.02,
        )

    @settings(max_examples=30)
    @given(out=st.floats(30.0, 110.0), ae=st.floats(0.05, 10.5))
    def test_falls_with_stick_out_and_stepover_and_never_promises_much_more_than_shops_run(
        self, out: float, ae: float
    ) -> None:
        tool = {"LU": 110.0}
        here = known(stick_out_mm=out, ae_mm=ae, tool=tool)
        self.assertLessEqual(known(stick_out_mm=1.1 * out, ae_mm=ae, tool=tool).depth, here.depth)
        self.assertLessEqual(known(stick_out_mm=out, ae_mm=1.1 * ae, tool=tool).depth, here.depth * (1 + 1e-12))
        self.assertLessEqual(estimate.rigidity(setup(stick_out_mm=out, tool=tool)), 4.0)

    def test_a_band_and_no_frequency(self) -> None:
        found = known()
        self.assertEqual((found.basis, found.frequency, found.method), ("estimate", 0.0, "anchored"))
        self.assertAlmostEqual(found.high / found.depth, estimate.BAND)
        self.assertAlmostEqual(found.depth / found.low, estimate.BAND)

    def test_speed_is_not_in_it(self) -> None:
        self.assertEqual(known(vc_m_min=60.0).depth, known(vc_m_min=200.0).depth)

    def test_without_tables_nothing_is_said(self) -> None:
        self.assertIsNone(chatter_of(setup(job={"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}}})))


class Judged(unittest.TestCase):
    def test_a_map_is_judged_by_the_same_depth_as_a_cut(self) -> None:
        s = setup(ae_mm=3.0)
        self.assertIsNone(measured_over_stepover(s))
        grid = depths_over(s, np.array([1.0, 3.0]), np.array([2.0, 9.0]), None)
        assert grid is not None
        self.assertEqual(grid.shape, (2, 2))
        self.assertAlmostEqual(float(grid[0, 1]), known(ae_mm=3.0).depth)

    def test_it_ends_a_cut_at_its_middle(self) -> None:
        long = {"stick_out_mm": 100.0, "tool": {"LU": 100.0}, "ae_mm": 3.0, "hex_mm": 0.02}
        depth = known(**long).depth
        for share, over in ((0.9, False), (1.1, True)):
            r = result(**long, ap_mm=share * depth)
            use = next(limit for limit in r.limits if limit.rule.id == "stability")
            self.assertEqual(use.is_broken, over)
            self.assertEqual(use.confidence, "C")


if __name__ == "__main__":
    unittest.main()
