"""A job keeps the rows it was computed with; a change in the library is told, and taken only when somebody says so."""

import json
import tempfile
import unittest
from pathlib import Path

from lesna.data.library import Library
from lesna.document import edits
from lesna.document.document import Document
from lesna.document.rows import changed_rows, with_rows, with_rows_of_today
from lesna.model.files import job_from_text, job_text, load_job
from lesna.model.job import Job
from lesna.model.kept import over
from lesna.model.resolve import parts_of
from lesna.planning.evaluate import evaluate
from tests.document.every_edit import CAVITY, EDITS
from tests.support import HINGE, LIBRARY


class Kept(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.library = Library(Path(scratch.name))
        self.document = Document(load_job(HINGE), self.library)
        self.tool = parts_of(self.document.job, CAVITY, self.library).tool

    def reground(self) -> Library:
        """The library after somebody corrected the diameter and price of the cavity's tool."""
        row = self.library.tools[self.tool.id]
        self.library.keep("tools", row.with_values(DC=row.DC - 0.2, price=99.0))
        return self.library

    def removal(self, job: Job) -> float:
        return float(evaluate(job, CAVITY, self.library).state.q)

    def test_every_row_that_is_looked_up_is_kept_and_no_other(self) -> None:
        rows = self.document.job.rows
        assert rows is not None
        job = self.document.job
        self.assertEqual(set(rows.tools), {parts_of(job, k, LIBRARY).tool.id for k in range(len(job.cuts))})
        self.assertEqual(list(rows.machines), [parts_of(job, 0, LIBRARY).machine.id])
        self.assertEqual(len(rows.materials), 1)
        self.assertTrue(rows.cutting_data)
        for cut in range(len(job.cuts)):
            self.assertEqual(parts_of(job, cut, LIBRARY), parts_of(load_job(HINGE), cut, LIBRARY))

    def test_a_change_in_the_library_changes_no_job(self) -> None:
        before = self.removal(self.document.job)
        self.reground()
        self.assertEqual(self.removal(self.document.job), before)
        self.assertNotEqual(self.removal(load_job(HINGE)), before, "a job that kept nothing follows the library")
        reopened = Document(job_from_text(job_text(self.document.job)), self.library)
        self.assertEqual(self.removal(reopened.job), before)
        self.assertEqual(reopened.job, self.document.job)

    def test_the_change_is_told_by_row_and_field_and_taken_as_an_edit(self) -> None:
        self.assertEqual(changed_rows(self.document.job, self.library), ())
        self.reground()
        (change,) = changed_rows(self.document.job, self.library)
        self.assertEqual((change.table, change.id), ("tools", self.tool.id))
        self.assertIn(("DC", self.tool.DC, self.tool.DC - 0.2), change.fields)
        self.assertEqual({field for field, _, _ in change.fields}, {"DC", "price"})
        edit = self.document.change("Take the new rows", with_rows_of_today(self.document.job, self.library))
        assert edit is not None
        self.document.do(edit)
        self.assertEqual(changed_rows(self.document.job, self.library), ())
        self.assertEqual(parts_of(self.document.job, CAVITY, self.library).tool.DC, self.tool.DC - 0.2)
        self.document.undo(edit)
        self.assertEqual(parts_of(self.document.job, CAVITY, self.library).tool, self.tool)

    def test_a_row_that_is_gone_or_broken_leaves_the_job_as_it_is(self) -> None:
        own = self.tool.with_values(id="own-one")
        self.library.keep("tools", own)
        edit = self.document.change("Tool", edits.with_tool(self.document.job, CAVITY, "own-one", self.library))
        assert edit is not None
        self.document.do(edit)
        before = self.removal(self.document.job)
        self.library.drop("tools", "own-one")
        self.assertEqual(changed_rows(self.document.job, self.library), ())
        self.assertEqual(self.removal(self.document.job), before)
        self.assertEqual(self.removal(job_from_text(job_text(self.document.job))), before, "opens on another machine")

    def test_after_every_edit_what_is_kept_is_what_is_named(self) -> None:
        for name, make in EDITS.items():
            with self.subTest(edit=name):
                edit = self.document.change(name, make(self.document.job))
                if edit is None:
                    continue
                self.assertEqual(edit.after, with_rows(edit.after.with_values(rows=None), self.library))

    def test_a_value_of_the_job_alone_stands_over_the_kept_row(self) -> None:
        job = edits.with_cut(self.document.job, CAVITY, tool={"id": self.tool.id, "runout_um": 12.0})
        self.reground()
        tool = parts_of(job, CAVITY, self.library).tool
        self.assertEqual((tool.runout_um, tool.DC), (12.0, self.tool.DC))

    def test_rows_are_checked_like_any_field(self) -> None:
        data = json.loads(job_text(self.document.job))
        data["rows"]["tools"][self.tool.id]["ZEFP"] = 0
        with self.assertRaisesRegex(ValueError, rf"rows\.tools\.{self.tool.id}\.ZEFP: must be at least 1"):
            job_from_text(json.dumps(data))

    def test_the_shelf_of_a_job_is_made_once(self) -> None:
        rows = self.document.job.rows
        self.assertIs(over(rows, self.library), over(rows, self.library))
        self.assertIs(over(None, self.library), self.library)
        self.assertEqual(len(over(rows, self.library).tools), len(self.library.tools))
