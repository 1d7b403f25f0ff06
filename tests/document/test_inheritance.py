"""What a new cut, a variant and a new job take over, and what they do not."""

import unittest

from lesna.document import edits
from lesna.document.inheritance import INHERITED
from lesna.model.files import load_job
from lesna.model.job import Cut
from tests.support import HINGE, LIBRARY, job

#: a cut with something of its own in every field that belongs to it alone
OWN = {
    "role": "finish", "vc_m_min": None, "hex_mm": None, "book": {"vc_m_min": 200.0, "fz_mm": 0.1}, "tilt_deg": 5.0,
    "deflection_limit_um": 30.0, "wear_vb_mm": 0.1, "removal_floor_cm3_min": 12.0, "locks": ["ae_mm"],
    "program": {"file": "hinge.nc", "stock": "block:-40,-30,-24,40,30,0", "tool": 3},
}  # fmt: skip


class Inheritance(unittest.TestCase):
    def test_every_field_of_a_cut_is_in_the_table(self) -> None:
        self.assertEqual(set(INHERITED), set(Cut.model_fields))

    def test_a_new_cut_and_a_new_job_take_nothing_that_was_decided_for_another(self) -> None:
        former = job(**OWN)
        fresh, place = edits.with_new_cut(former, LIBRARY, after=0)
        for made in (fresh.cuts[place], edits.new_job(former, 0, LIBRARY).cuts[0]):
            plain = Cut.model_fields
            for key in set(OWN) - {"vc_m_min", "hex_mm"}:  # those are the tables'
                default = plain[key].get_default(call_default_factory=True)
                self.assertEqual(getattr(made, key), default, key)
            self.assertEqual((made.tool, made.holder), (former.cuts[0].tool, former.cuts[0].holder))
        self.assertEqual(fresh.cuts[place].feature, former.cuts[0].feature)
        self.assertIsNone(edits.new_job(former, 0, LIBRARY).cuts[0].feature)

    def test_a_variant_is_the_same_cut_without_the_program_of_the_other(self) -> None:
        former = job(**OWN)
        tried, place = edits.with_variant(former, 0)
        for key in set(Cut.model_fields) - {"id", "name", "program"}:
            self.assertEqual(getattr(tried.cuts[place], key), getattr(former.cuts[0], key), key)
        self.assertIsNone(tried.cuts[place].program)
        self.assertEqual(tried.cuts[0].program, former.cuts[0].program)

    def test_a_book_value_that_alone_gives_the_speed_stays_where_no_table_knows_another(self) -> None:
        alone = {"vc_m_min": None, "hex_mm": None, "book": {"vc_m_min": 200.0, "fz_mm": 0.1, "ae_over_dc": 0.5}}
        former = job(job={"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}}}, **alone)
        fresh, place = edits.with_new_cut(former, LIBRARY, after=0)
        self.assertEqual(fresh.cuts[place].book, former.cuts[0].book)

    def test_the_demo_cut_with_a_program_hands_none_on(self) -> None:
        demo = load_job(HINGE)
        self.assertIsNotNone(demo.cuts[1].program)
        fresh, place = edits.with_new_cut(demo, LIBRARY, after=1)
        self.assertIsNone(fresh.cuts[place].program)


if __name__ == "__main__":
    unittest.main()
