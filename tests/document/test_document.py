"""The open job: checked changes, undo to the letter, listeners, saving."""

import tempfile
import unittest
from pathlib import Path

from lesna.document import edits
from lesna.document.document import Document, Edit
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import job_text, load_job
from lesna.model.job import Job
from lesna.planning.cut.starting import starting_values
from tests.document.every_edit import EDITS
from tests.support import HINGE, LIBRARY, READ_ONLY, job


class Changes(unittest.TestCase):
    def setUp(self) -> None:
        self.document = Document.load(HINGE, LIBRARY)

    def test_each_edit_does_undoes_and_redoes_to_the_letter(self) -> None:
        for label, edit in EDITS.items():
            with self.subTest(edit=label):
                before = job_text(self.document.job)
                change = self.document.change(label, edit(self.document.job))
                assert change is not None
                self.document.do(change)
                after = job_text(self.document.job)
                self.assertNotEqual(before, after)
                self.document.undo(change)
                self.assertEqual(job_text(self.document.job), before)
                self.document.do(change)
                self.assertEqual(job_text(self.document.job), after)
                self.document.undo(change)
                self.assertEqual(
                    {cut.id for cut in change.after.cuts} - {cut.id for cut in change.before.cuts} != set(),
                    label in ("new cut", "variant", "two steps"), "only a cut that is new has an id of its own",
                )  # fmt: skip

    def test_nothing_changed_is_no_change(self) -> None:
        self.assertIsNone(self.document.change("same", edits.with_cut(self.document.job, 0)))

    def test_a_way_back_to_the_beginning_is_nothing(self) -> None:
        there = self.document.change("drag", edits.with_cut(self.document.job, 0, ae_mm=10.0), merges="x")
        assert there is not None
        self.document.do(there)
        back = self.document.change("drag", there.before, merges="x")
        assert back is not None
        self.assertTrue(there.joined(back).is_nothing)

    def test_a_change_that_cannot_be_computed_is_refused_and_nothing_happens(self) -> None:
        before = self.document.job
        bad = (
            lambda: edits.with_cut(before, 1, ae_mm=99.0), lambda: edits.with_cut(before, 1, ap_mm=60.0),
            lambda: edits.with_cut(before, 1, stick_out_mm=5.0), lambda: before.with_values(machine="none"),
            lambda: edits.with_cut(before, 1, ae_mm=float("nan")), lambda: edits.with_cut(before, 1, tool={"kind": "ball"}),
        )  # fmt: skip
        for edit in bad:
            with self.assertRaises(InputError):
                self.document.change("bad", edit())
            self.assertIs(self.document.job, before)

    def test_listeners_hear_before_and_after_until_they_leave(self) -> None:
        heard: list[tuple[Job, Job]] = []
        leave = self.document.listen(lambda before, after: heard.append((before, after)))
        change = self.document.change("move", edits.with_cut(self.document.job, 0, ae_mm=10.0))
        assert change is not None
        self.document.do(change)
        self.assertEqual(heard, [(change.before, change.after)])
        leave()
        self.document.undo(change)
        self.assertEqual(len(heard), 1)

    def test_joined_changes_span_both(self) -> None:
        a, b, c = job(), job(ae_mm=2.0), job(ae_mm=3.0)
        joined = Edit("drag", a, b, "x").joined(Edit("drag", b, c, "x"))
        self.assertEqual((joined.before, joined.after), (a, c))

    def test_save_and_failed_save(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "saved.lesna"
            self.document.save(path)
            self.assertEqual(load_job(path), self.document.job)
            with self.assertRaises(FileProblem):
                self.document.save(READ_ONLY / "x.lesna")
            self.assertEqual(self.document.path, path)

    def test_a_job_that_cannot_be_computed_does_not_open(self) -> None:
        with self.assertRaises(InputError) as caught:
            Document(job(ap_mm=40.0, stick_out_mm=50.0), LIBRARY)
        self.assertIn("cuts[0].ap_mm", str(caught.exception))


class Edits(unittest.TestCase):
    def test_one_way_to_give_speed_and_feed_replaces_the_other(self) -> None:
        cut = edits.with_cut(job(), 0, n_rpm=4000.0).cuts[0]
        self.assertEqual((cut.n_rpm, cut.vc_m_min), (4000.0, None))
        cut = edits.with_cut(job(), 0, book={"fz_mm": 0.05}).cuts[0]
        self.assertEqual((cut.hex_mm, cut.fz_mm), (None, None))

    def test_another_tool_keeps_the_stepover_in_percent_and_takes_table_values(self) -> None:
        cut = edits.with_tool(job(), 0, "sq-d6-z4", LIBRARY).cuts[0]
        self.assertAlmostEqual(cut.ae_mm, 0.6)
        self.assertLessEqual(cut.ap_mm, 13.0)
        start = starting_values(LIBRARY.tools["sq-d6-z4"], LIBRARY.materials["42crmo4-qt30"], "light_radial", LIBRARY)
        assert start is not None and start.vc is not None
        self.assertAlmostEqual(cut.vc_m_min or 0, round(start.vc))

    def test_every_tool_of_the_library_can_be_taken(self) -> None:
        for key in LIBRARY.tools:
            with self.subTest(tool=key):
                Document(edits.with_tool(job(), 0, key, LIBRARY), LIBRARY)

    def test_new_cuts_compute_in_every_material(self) -> None:
        for key in LIBRARY.materials:
            base = edits.with_workpiece(job(), material=key)
            Document(edits.with_new_cut(base, LIBRARY, after=0)[0], LIBRARY)

    def test_names_stay_distinct(self) -> None:
        first, place = edits.with_variant(job(), 0)
        second, _ = edits.with_variant(first, 0)
        self.assertEqual(place, 1)
        self.assertEqual(len({cut.name for cut in second.cuts}), 3)

    def test_the_last_cut_stays(self) -> None:
        with self.assertRaises(InputError):
            edits.without_cut(job(), 0)

    def test_one_hardness_replaces_the_other(self) -> None:
        piece = edits.with_workpiece(edits.with_workpiece(job(), hardness_hrc=30.0), hardness_hb=280.0).workpiece
        self.assertEqual((piece.hardness_hrc, piece.hardness_hb), (None, 280.0))

    def test_no_starting_values_is_said(self) -> None:
        bare = edits.with_workpiece(job(), material={"kc11_n_mm2": 1800.0, "mc": 0.25, "name": "Mystery"})
        with self.assertRaises(InputError) as caught:
            edits.with_starting_values(bare, 0, LIBRARY)
        self.assertIn("Mystery", str(caught.exception))

    def test_a_feature_starts_as_a_shelf(self) -> None:
        feature = edits.with_feature(job(), 0, depth_mm=5.0).cuts[0].feature
        assert feature is not None
        self.assertEqual((feature.kind, feature.depth_mm), ("shelf", 5.0))
