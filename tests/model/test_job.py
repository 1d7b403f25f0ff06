"""The job document: what it takes, what it refuses, and in which words."""

import json
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.model.errors import InputError
from lesna.model.files import job_from_text, job_text
from lesna.model.job import Cut, Job
from tests.support import DEMOS, PLAIN, job, raw


class Refused(unittest.TestCase):
    def refused(self, data: object) -> InputError:
        with self.assertRaises(InputError) as caught:
            Job.read(data)
        return caught.exception

    def test_each_wrong_field_is_named_with_what_would_be_right(self) -> None:
        cases = (
            (raw(ae_mm=-1.0), "cuts[0].ae_mm", "above 0"),
            (raw(ae_mm=float("nan")), "cuts[0].ae_mm", "finite"),
            (raw(ap_mm=float("inf")), "cuts[0].ap_mm", "finite"),
            (raw(ae_mm="wide"), "cuts[0].ae_mm", "number"),
            (raw(ae_mm=True), "cuts[0].ae_mm", "number"),
            (raw(ae_mm=[1]), "cuts[0].ae_mm", "number"),
            (raw(stick_out_mm=None), "cuts[0].stick_out_mm", "missing"),
            (raw(tool={"ZEFP": 0}), "cuts[0].tool.ZEFP", "at least 1"),
            (raw(tool={"ZEFP": 4.5}), "cuts[0].tool.ZEFP", "whole number"),
            (raw(tool={"DC": -12.0}), "cuts[0].tool.DC", "at least 0.02"),
            (raw(tool={"kind": "bal"}), "cuts[0].tool.kind", "did you mean 'ball'"),
            (raw(tool={"coating": "AlTin2"}), "cuts[0].tool.coating", "AlTiN"),
            (raw(tool={"DC_mm": 10.0}), "DC", "given twice"),
            (raw(tool={"ZEFF": 4}), "cuts[0].tool.ZEFF", "'ZEFP'"),
            (raw(ea_mm=1.0), "cuts[0].ea_mm", "'ae_mm'"),
            (raw(job={"worpiece": {}}), "worpiece", "'workpiece'"),
            (raw(job={"batch": {"part": 3}}), "batch.part", "'parts'"),
            (raw(job={"batch": {"parts": 0}}), "batch.parts", "at least 1"),
            (raw(job={"machine": 7}), "machine", "library id or an object"),
            (raw(direction="left"), "cuts[0].direction", "'down' or 'up'"),
            (raw(n_rpm=5000.0), "cuts[0].n_rpm", "exactly one"),
            (raw(life_min_wanted=60.0), "cuts[0].life_min_wanted", "exactly one"),
            (raw(vc_m_min=None), "cuts[0].vc_m_min", "exactly one"),
            (raw(fz_mm=0.1), "cuts[0].fz_mm", "exactly one"),
            (raw(hex_mm=None), "cuts[0].hex_mm", "exactly one"),
            (raw(name=""), "cuts[0].name", "at least 1"),
            (raw(job={"workpiece": {"material": "x", "hardness_hb": 300.0, "hardness_hrc": 30.0}}),
             "workpiece.hardness_hb", "one of the two"),
            (raw(book={"fz_mm": 0.1}), "cuts[0].book", "exactly one"),
        )  # fmt: skip
        for data, field, words in cases:
            with self.subTest(field=field, words=words):
                error = self.refused(data)
                self.assertIn(field, str(error))
                self.assertIn(words, str(error))
                self.assertNotIn("\n", str(error))

    def test_two_cuts_of_one_name(self) -> None:
        data = raw()
        data["cuts"].append(dict(data["cuts"][0]))
        error = self.refused(data)
        self.assertEqual(error.field, "cuts[1].name")

    def test_pages_that_are_no_job(self) -> None:
        cases = (
            ("[]", "object"), ("{}", '"lesna": 1'), ('{"lesna": 99}', "newer Lesna"), ('{"lesna": "1"}', "document version"),
            ('{"lesna": true}', "document version"), ("{", "ends too early"), ('{"lesna": 1, "cuts": [', "ends too early"),
            ('{"lesna": 1,, }', "not valid JSON"), ('{"lesna": 1, "lesna": 1}', "given twice"), ("", "ends too early"),
            ("[" * 100_000, "nested too deeply"),
        )  # fmt: skip
        for text, words in cases:
            with self.subTest(text=text[:30]), self.assertRaises(InputError) as caught:
                job_from_text(text)
            self.assertIn(words, str(caught.exception))

    @settings(max_examples=60)
    @given(st.recursive(st.none() | st.booleans() | st.floats() | st.text(max_size=5),
                        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3),
                        max_leaves=6))  # fmt: skip
    def test_any_json_is_a_job_or_a_sentence(self, data: object) -> None:
        for text in (json.dumps(data), json.dumps({**PLAIN, "cuts": data}), json.dumps({**PLAIN, "machine": data})):
            try:
                job_from_text(text)
            except InputError as error:
                self.assertTrue(str(error))


class Accepted(unittest.TestCase):
    def test_spellings_of_the_tables_are_accepted(self) -> None:
        tool = {"kind": "corner-radius", "RE": 0.5, "substrate": "carbide-coated-altin", "coating": "altin"}
        found = job(tool=tool, holder="shrink-fit", coolant="through-tool").cuts[0]
        self.assertEqual(
            (found.tool.kind, found.tool.substrate, found.tool.coating), ("corner_radius", "carbide", "AlTiN")
        )
        self.assertEqual((found.holder.id, found.coolant), ("shrink-fit", "through"))

    def test_whole_numbers_may_be_written_with_a_point(self) -> None:
        self.assertEqual(job(tool={"ZEFP": 5.0}).cuts[0].tool.ZEFP, 5)

    def test_nulls_mean_left_out(self) -> None:
        self.assertNotIn("n_rpm", job().to_data()["cuts"][0])
        data = raw()
        data["cuts"][0]["n_rpm"] = None
        self.assertEqual(Job.read(data), job())

    def test_book_speed_serves_when_no_other_is_given(self) -> None:
        cut = job(vc_m_min=None, hex_mm=None, book={"vc_m_min": 90.0, "fz_mm": 0.05}).cuts[0]
        self.assertEqual(cut.vc_wanted, 90.0)
        cut = job(hex_mm=None, book={"vc_m_min": 90.0, "fz_mm": 0.05}).cuts[0]
        self.assertEqual(cut.vc_wanted, 120.0)

    def test_a_saved_job_reads_back_the_same(self) -> None:
        for path in DEMOS:
            first = job_from_text(path.read_text(encoding="utf-8"))
            self.assertEqual(job_from_text(job_text(first)), first)

    def test_an_id_alone_is_saved_as_text(self) -> None:
        data = job(holder="collet").to_data()["cuts"][0]
        self.assertEqual(data["holder"], "collet")

    def test_documents_are_frozen_and_copies_are_checked(self) -> None:
        cut: Cut = job().cuts[0]
        with self.assertRaises(ValueError):
            cut.ae_mm = 3.0  # type: ignore[misc]
        with self.assertRaises(InputError):
            cut.with_values(ae_mm=-3.0)

    def test_unknown_cut_name_lists_those_there_are(self) -> None:
        with self.assertRaises(InputError) as caught:
            job().cut_named("side")
        self.assertIn("'Side'", str(caught.exception))
