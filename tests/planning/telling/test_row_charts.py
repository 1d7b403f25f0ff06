"""What a row says as a curve agrees with the laws that the cut is computed with."""

import unittest

from lesna.planning.telling.row_charts import chart_of
from tests.support import LIBRARY


class RowCharts(unittest.TestCase):
    def test_force_of_a_material_is_its_own_at_a_chip_of_one_millimetre_by_the_power_law(self) -> None:
        for id, material in LIBRARY.materials.items():
            chart = chart_of(material)
            h, kc = chart.lines[0].points[-1]
            with self.subTest(material=id):
                if material.kc11_n_mm2 and not material.Ktc_n_mm2:
                    self.assertAlmostEqual(kc, material.kc11_n_mm2 * h**-material.mc, places=6)
                self.assertGreater(chart.lines[0].points[0][1], kc, "thin chips cost more")
                self.assertAlmostEqual(chart.lines[1].points[-1][1] / kc, material.kr_ratio, places=9)

    def test_life_at_the_typical_speed_is_that_of_the_row(self) -> None:
        seen = 0
        for key, row in LIBRARY.cutting_data.items():
            chart = chart_of(row)
            if chart.instead:
                self.assertEqual(chart.lines, ())
                continue
            seen += 1
            points = chart.lines[0].points
            with self.subTest(row=key):
                self.assertEqual([name for name, _ in chart.marks], ["low", "typ", "high"])
                self.assertTrue(all(a[1] > b[1] for a, b in zip(points, points[1:], strict=False)), "faster is shorter")
                nearest = min(points, key=lambda point: abs(point[0] - row.vc_typ_m_min))
                # abrasion and chance end an edge at so many times the reference life, so a little less is left of it
                ends = row.life_end_over_ref
                self.assertAlmostEqual(nearest[1] / row.ref_life_min, ends / (ends + 1), delta=0.25)
        self.assertGreater(seen, 20)

    def test_power_of_a_machine_in_its_points_and_words_where_there_is_no_curve(self) -> None:
        machine = next(row for row in LIBRARY.machines.values() if row.curve is not None)
        chart = chart_of(machine)
        self.assertEqual(chart.lines[0].name, "S1")
        self.assertEqual(chart.lines[0].points[0], (machine.curve.duty["S1"].points[0].speed_rpm,
                                                    machine.curve.duty["S1"].points[0].power))  # fmt: skip
        bare = chart_of(machine.with_values(curve=None, power_s1_kw=9.0, power_s6_40_kw=None))
        self.assertIn("power S1", bare.instead)
        self.assertIsNone(chart_of(LIBRARY.tools["sq-d12-z4"]))
