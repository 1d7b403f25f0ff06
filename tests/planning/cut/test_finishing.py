"""Finishing as a role: what roughing leaves, and what the finishing pass takes."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from lesna.document import edits
from lesna.model.job import Job
from lesna.planning.cut.finishing import allowance
from lesna.planning.evaluate import evaluate
from tests.support import LIBRARY, raw

POCKET = {"kind": "pocket", "length_mm": 90, "width_mm": 60, "depth_mm": 20, "corner_radius_mm": 8}
FACE = {"kind": "face", "length_mm": 90, "width_mm": 60, "depth_mm": 2}


def two_cuts(first, **second):  # type: ignore[no-untyped-def]
    """A job that cuts a feature twice."""
    cut = {**raw()["cuts"][0], "feature": first, "ap_mm": 10.0}
    return Job.read({**raw(), "cuts": [{**cut, "name": "Rough"}, {**cut, "name": "Fine", **second}]})


class Finishing(unittest.TestCase):
    @given(st.floats(0.5, 100.0))
    def test_the_rule(self, DC: float) -> None:
        left = allowance(DC)
        self.assertLessEqual(left, min(0.5, max(0.05 * DC, 0.2)) + 0.005)
        if DC >= 4.0:
            self.assertGreaterEqual(left, 0.2)

    def test_a_role_brings_what_goes_with_it(self) -> None:
        job, told = edits.with_role(two_cuts(POCKET), 1, "finish", LIBRARY)
        rough, fine = job.cuts
        DC = evaluate(job, 1, LIBRARY).setup.shape.DC
        self.assertEqual((rough.feature.stock_wall_mm, fine.feature.stock_wall_mm), (allowance(DC), 0.0))
        self.assertEqual(fine.ae_mm, allowance(DC))
        self.assertGreater(fine.ap_mm, rough.ap_mm)
        self.assertLess(fine.hex_mm, evaluate(job, 0, LIBRARY).setup.chip.typical)
        self.assertIn("Rough leaves", told)
        self.assertIn("0.2 to 0.5 mm", told)
        self.assertIn("spring pass", told)

    def test_what_roughing_leaves_by_hand_is_what_finishing_takes(self) -> None:
        job, told = edits.with_role(two_cuts({**POCKET, "stock_wall_mm": 0.3}), 1, "finish", LIBRARY)
        self.assertEqual((job.cuts[0].feature.stock_wall_mm, job.cuts[1].ae_mm), (0.3, 0.3))
        self.assertNotIn("leaves", told)

    def test_another_feature_is_left_alone(self) -> None:
        other = {**POCKET, "length_mm": 30, "width_mm": 25}
        job, _ = edits.with_role(two_cuts(POCKET, feature=other), 1, "finish", LIBRARY)
        self.assertEqual(job.cuts[0].feature.stock_wall_mm, 0.0)

    def test_a_face_is_finished_in_its_depth(self) -> None:
        job, _ = edits.with_role(two_cuts(FACE), 1, "finish", LIBRARY)
        rough, fine = job.cuts
        self.assertEqual((rough.feature.stock_floor_mm, fine.feature.depth_mm), (fine.ap_mm, fine.ap_mm))
        self.assertGreater(fine.ae_mm, 5 * fine.ap_mm)

    def test_what_is_held_stays_and_starting_values_are_those_of_the_role(self) -> None:
        job, _ = edits.with_role(two_cuts(POCKET, locks=["ap_mm"]), 1, "finish", LIBRARY)
        self.assertEqual(job.cuts[1].ap_mm, 10.0)
        again = edits.with_starting_values(job, 1, LIBRARY)
        self.assertEqual(again.cuts[1].ae_mm, job.cuts[1].ae_mm)
        self.assertGreater(edits.with_starting_values(job, 0, LIBRARY).cuts[0].ae_mm, again.cuts[1].ae_mm)
        rough, told = edits.with_role(job, 1, "rough", LIBRARY)
        self.assertEqual((rough.cuts[1].role, told), ("rough", ""))


if __name__ == "__main__":
    unittest.main()
