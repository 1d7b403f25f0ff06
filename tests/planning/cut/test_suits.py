"""Whether a tool and a speed suit the work, and what a new or changed job starts from."""

import unittest

from lesna.document import edits
from lesna.model import units
from lesna.model.files import load_job
from lesna.physics import engine
from lesna.planning.cut.life import speed_of_tables, usual_speeds
from lesna.planning.cut.suits import misfit, suitability
from lesna.planning.evaluate import evaluate
from lesna.planning.search.engagement_map import map_of, rough_map_of
from tests.support import DEMOS, HINGE, LIBRARY, job, result, setup

STEEL, ALUMINIUM, TITANIUM = (LIBRARY.materials[id] for id in ("42crmo4-qt30", "en-aw-6082-t6", "ti-6al-4v-a"))


class Suits(unittest.TestCase):
    def test_cutting_materials_that_the_tables_know_for_the_work_come_first(self) -> None:
        coated, polished = LIBRARY.tools["sq-d10-z4"], LIBRARY.tools["al-d10-z3"]
        self.assertGreater(suitability(coated, STEEL, None, LIBRARY), suitability(polished, STEEL, None, LIBRARY))
        self.assertGreater(
            suitability(polished, ALUMINIUM, None, LIBRARY), suitability(coated, ALUMINIUM, None, LIBRARY) - 1e-9
        )

    def test_reach_counts(self) -> None:
        deep = job(feature={"kind": "pocket", "depth_mm": 60.0}).cuts[0].feature
        tool = LIBRARY.tools["sq-d10-z4"]
        self.assertLess(suitability(tool, STEEL, deep, LIBRARY), suitability(tool, STEEL, None, LIBRARY))

    def test_faces_outlines_and_unknown_sizes_are_no_misfit(self) -> None:
        tool = LIBRARY.tools["fm-d50-z5-45"]
        for feature in ({"kind": "face", "width_mm": 20.0}, {"kind": "slot"}, {"kind": "shelf", "width_mm": 2.0},
                        {"kind": "pocket", "width_mm": 20.0, "profile_mm": [[0, 0], [90, 0], [90, 90]]}):  # fmt: skip
            self.assertEqual(misfit(tool, job(feature=feature).cuts[0].feature), "", feature)

    def test_the_sentence_is_in_the_units_of_who_reads_it(self) -> None:
        why = misfit(LIBRARY.tools["sq-d12-z4"], job(feature={"kind": "slot", "width_mm": 6.35}).cuts[0].feature)
        self.assertIn("0.25 in", units.said(why, "inch"))
        self.assertIn("6.35 mm", units.said(why, "metric"))


class UsualSpeeds(unittest.TestCase):
    def test_the_tables_span_at_this_engagement_and_hardness(self) -> None:
        plain = result(ae_mm=6.0)
        data = plain.setup.parts.data
        assert data is not None and data.vc_low_m_min is not None and data.vc_high_m_min is not None
        low, high = usual_speeds(plain.setup, plain.state.ae, plain.state.ap) or (0, 0)
        self.assertAlmostEqual(high / low, data.vc_high_m_min / data.vc_low_m_min)
        self.assertAlmostEqual(low, data.vc_low_m_min, delta=0.05 * low)
        thin = result(ae_mm=0.6)
        self.assertGreater((usual_speeds(thin.setup, thin.state.ae, thin.state.ap) or (0, 0))[0], 1.3 * low)
        hard = result(ae_mm=6.0, job={"workpiece": {"material": "42crmo4-qt30", "hardness_hb": 340.0}})
        self.assertLess((usual_speeds(hard.setup, hard.state.ae, hard.state.ap) or (0, 0))[1], high)
        self.assertLess(speed_of_tables(hard.setup) or 0, speed_of_tables(plain.setup) or 0)

    def test_none_without_a_row(self) -> None:
        unknown = result(job={"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}}})
        self.assertIsNone(usual_speeds(unknown.setup, unknown.state.ae, unknown.state.ap))


class Starting(unittest.TestCase):
    def test_a_new_job_takes_machine_material_tool_and_holder_and_nothing_else(self) -> None:
        for path in DEMOS:
            former = load_job(path)
            for index, cut in enumerate(former.cuts):
                fresh = edits.new_job(former, index, LIBRARY)
                with self.subTest(job=path.name, cut=cut.name):
                    self.assertEqual(
                        (fresh.machine, fresh.cuts[0].tool, fresh.cuts[0].holder),
                        (former.machine, cut.tool, cut.holder),
                    )
                    self.assertEqual((fresh.title, fresh.notes, fresh.batch.machine_rate_per_h), ("", "", None))
                    self.assertNotEqual(fresh.cuts[0].id, cut.id)
                    self.assertGreater(evaluate(fresh, 0, LIBRARY, wait=False).state.q, 0)

    def test_every_cut_starts_anew_but_what_is_held_stays(self) -> None:
        former = edits.with_cut(load_job(HINGE), 1, locks=("vc_m_min", "ae_mm"))
        other = edits.with_workpiece(former, material=TITANIUM.id, hardness_hrc=None, hardness_hb=None)
        fresh, left_out = edits.with_starting_values_everywhere(other, LIBRARY)
        self.assertEqual((fresh.cuts[1].vc_m_min, fresh.cuts[1].ae_mm), (former.cuts[1].vc_m_min, former.cuts[1].ae_mm))
        self.assertNotEqual(fresh.cuts[1].hex_mm, former.cuts[1].hex_mm)
        for cut, was in zip(fresh.cuts, other.cuts, strict=True):
            self.assertTrue((cut == was) if cut.name in left_out else (cut != was), cut.name)


class RoughMap(unittest.TestCase):
    def test_the_rough_map_is_the_fine_one_on_fewer_points(self) -> None:
        engine.kernel("turn")
        for changes in ({}, {"tool": {"kind": "corner_radius", "RE": 1.0, "runout_um": 8.0}}):
            s = setup(**changes)
            rough = rough_map_of(s)
            fine = map_of(s, columns=len(rough.ae), rows=len(rough.ap))
            self.assertEqual((rough.best, rough.best_in_school, rough.window), (None, None, fine.window))
            self.assertTrue((abs(rough.q - fine.q) <= 1e-9 * fine.q).all())
            for limit, use in fine.uses.items():
                with self.subTest(limit=limit):
                    self.assertLess(float(abs(rough.uses[limit] / use - 1.0).max()), 0.06)
            self.assertLess(float((rough.inside != fine.inside).mean()), 0.03)
