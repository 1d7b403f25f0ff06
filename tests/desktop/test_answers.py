"""Answers: by their question and nothing else, only while somebody looks, delivered where they belong or dropped."""

import threading
import unittest
from typing import Any, cast

import numpy as np

from lesna.data.library import Library
from lesna.desktop.answers import Answers, Kind, Question
from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.kept import Kept, size_of
from lesna.desktop.programs.answers import Simulated
from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.work import Pulse
from tests.desktop.driver import wait_for
from tests.support import LIBRARY, job, raw


class KeptByBytes(unittest.TestCase):
    def test_the_oldest_go_until_all_have_room(self) -> None:
        kept = Kept(most=10_000)
        arrays = [np.zeros(500) for _ in range(4)]
        for number, array in enumerate(arrays[:2]):
            kept.put(number, (array, "text"), size_of((array, "text")))
        self.assertIs(kept.get(0)[0], arrays[0])  # asked for again: now 1 is the oldest
        kept.put(2, [arrays[2], arrays[2]], size_of([arrays[2], arrays[2]]))  # the same array counts once
        self.assertEqual([kept.get(number) is None for number in range(3)], [False, True, False])
        self.assertLess(kept.bytes, 10_000)
        kept.put(3, np.zeros(5_000), size_of(np.zeros(5_000)))  # larger than all together: it stays alone
        self.assertEqual(len(kept), 1)
        kept.clear()
        self.assertEqual((len(kept), kept.bytes), (0, 0))

    def test_what_is_inside_is_counted(self) -> None:
        held = Simulated(cast(Any, {"a": np.zeros(1000), "b": (b"x" * 500,)}), cast(Any, None))
        self.assertGreater(size_of(held), 8500)
        self.assertLess(size_of(held), 9500)


class AnswersTest(unittest.TestCase):
    def setUp(self) -> None:
        self.session, self.runner = Session(LIBRARY), Runner()
        self.addCleanup(self.runner.close)
        self.session.open(job(), None)
        self.session.edit("Add", job_with_two())
        self.session.select(0)
        self.asked: list[Question] = []
        self.gate = threading.Event()
        self.gate.set()
        self.fails = False
        self.said: list[tuple[str, str]] = []
        self.session.said.connect(lambda kind, text: self.said.append((kind, text)))
        self.answers = Answers(self.session, self.runner)
        self.answer = self.answers.of(Kind("test", "urgent", (), self.ask, self.compute, "test"))

    @staticmethod
    def ask(result: Any) -> Question:
        return Question(result.setup.parts)

    def compute(self, question: Question, library: Any, pulse: Pulse) -> str:
        self.asked.append(question)
        while not self.gate.wait(0.005):
            pulse.check()
        if self.fails:
            raise InputError("is missing", "field")
        return f"ae {question.parts.cut.ae_mm:g}"

    def wait_for_value(self, value: str) -> None:
        wait_for(lambda: self.answer.value == value)

    def test_nothing_is_asked_before_somebody_looks(self) -> None:
        self.session.edit_cut("Change", ae_mm=2.0)
        self.assertEqual(self.asked, [])
        self.answer.watch(self, True)
        self.wait_for_value("ae 2")

    def test_asked_once_for_each_question_also_on_the_way_back(self) -> None:
        self.answer.watch(self, True)
        self.wait_for_value("ae 1.2")
        self.session.edit_cut("Change", ae_mm=2.0)
        self.assertIsNone(self.answer.value)
        self.wait_for_value("ae 2")
        self.session.stack.undo()
        self.assertEqual(self.answer.value, "ae 1.2")  # at once: it was known
        self.session.select(1)
        self.wait_for_value("ae 3")
        self.session.select(0)
        self.assertEqual((self.answer.value, len(self.asked)), ("ae 1.2", 3))

    def test_an_answer_to_what_is_not_asked_any_more_is_dropped(self) -> None:
        for leave in (lambda: self.session.select(1), lambda: self.session.edit_cut("Change", ae_mm=2.5),
                      lambda: self.session.open(job(ae_mm=0.7), None)):  # fmt: skip
            self.gate.clear()
            self.answer.watch(self, True)
            leave()
            self.gate.set()
            self.wait_for_value(f"ae {self.session.cut.ae_mm:g}")
            self.assertEqual(self.answer.former[0].cut, self.session.cut.id)  # type: ignore[index]

    def test_a_hidden_view_ends_the_work(self) -> None:
        self.gate.clear()
        self.answer.watch(self, True)
        wait_for(lambda: bool(self.asked))
        self.answer.watch(self, False)
        self.assertFalse(self.answer.is_asked)
        done: list[str] = []  # the lane is free although the gate is shut
        self.runner.run("next", lambda pulse: "free", done.append, done.append)
        wait_for(lambda: done == ["free"])

    def test_how_far_it_is_moves_nothing_but_its_words(self) -> None:
        self.gate.clear()
        self.answer.watch(self, True)
        changes, words = [], []
        self.answer.changed.connect(lambda: changes.append(self.answer.value))
        self.answer.progressed.connect(lambda: words.append(self.answer.progress))
        for target, text in (("test", "3 of 14"), ("another", "4 of 14"), ("test", "5 of 14")):
            self.runner.progressed.emit(target, text)
        self.assertEqual((changes, words), ([], ["3 of 14", "5 of 14"]))
        self.gate.set()
        wait_for(lambda: self.answer.value is not None)
        self.assertEqual((changes, self.answer.progress), ([self.answer.value], ""))

    def test_one_of_two_views_hidden_changes_nothing(self) -> None:
        self.gate.clear()
        self.answer.watch("a", True)
        self.answer.watch("b", True)
        self.answer.watch("a", False)
        self.assertTrue(self.answer.is_asked)
        self.gate.set()
        self.wait_for_value("ae 1.2")

    def test_a_drag_asks_when_the_hand_lets_go(self) -> None:
        self.answer.watch(self, True)
        self.wait_for_value("ae 1.2")
        self.session.is_dragging = True
        for step in range(40):
            self.session.edit_cut("Drag", gesture=True, ae_mm=1.3 + 0.01 * step)
        self.session.is_dragging = False
        self.session.result_changed.emit()
        self.wait_for_value("ae 1.69")
        self.assertEqual(len(self.asked), 2)

    def test_stopped_and_asked_again(self) -> None:
        self.gate.clear()
        self.answer.watch(self, True)
        self.answer.stop()
        self.assertEqual((self.answer.value, self.answer.trouble), (None, "stopped"))
        self.gate.set()
        self.answer.again()
        self.wait_for_value("ae 1.2")
        self.answer.stop()  # nothing under way: nothing happens
        self.assertEqual(self.answer.trouble, "")

    def test_a_refusal_is_kept_and_said(self) -> None:
        self.fails = True
        self.answer.watch(self, True)
        wait_for(lambda: bool(self.answer.trouble))
        self.assertEqual(self.answer.trouble, "field: is missing")
        self.assertEqual(self.said, [("wrong", "test: field: is missing")])

    def test_what_waits_for_the_answer_waits_for_that_of_this_cut(self) -> None:
        done: list[Any] = []
        self.gate.clear()
        self.answer.when_there(lambda: done.append(self.answer.value))
        self.assertEqual(done, [])
        self.session.edit_cut("Change", ae_mm=2.0)
        self.gate.set()
        wait_for(lambda: bool(done))
        self.assertEqual(done, ["ae 2"])

    def test_names_and_money_are_no_part_of_what_the_map_depends_on(self) -> None:
        parts = self.session.result.setup.parts
        over = parts.over_engagement()
        for values in ({"name": "Other"}, {"ae_mm": 2.0}, {"ap_mm": 3.0}):
            self.assertEqual(parts.with_cut(**values).over_engagement(), over)
        for values in ({"vc_m_min": 90.0}, {"stick_out_mm": 50.0}, {"role": "finish"}, {"locks": ("ae_mm",)}):
            self.assertNotEqual(parts.with_cut(**values).over_engagement(), over)


class Inputs(unittest.TestCase):
    """What a question holds besides the cut."""

    def setUp(self) -> None:
        self.session, self.runner = Session(Library()), Runner()
        self.addCleanup(self.runner.close)
        self.answers = CutAnswers(self.session, self.runner)
        first = job()
        other = {**raw()["cuts"][0], "id": "other", "name": "Other", "tool": {"id": "sq-d10-z4"}, "stick_out_mm": 30.0}
        self.session.open(Job.read({**raw(), "cuts": [dict(first.cuts[0]), other]}), None)

    def asked(self) -> list[Question]:
        kinds = (self.answers.offers, self.answers.comparison, self.answers.ranking, self.answers.map)
        return [answer.kind.ask(self.session.result) for answer in kinds]

    def test_a_row_that_the_job_keeps_changes_what_looks_into_the_library(self) -> None:
        before, rows = self.asked(), self.session.job.rows
        assert rows is not None
        self.assertEqual(before, self.asked())
        # the tool of another cut: the chosen one's own parts stay what they are
        kept = rows.tools["sq-d10-z4"].with_values(ZEFP=3)
        self.session.edit(
            "Keep", self.session.job.with_values(rows=rows.with_values(tools={**rows.tools, kept.id: kept}))
        )
        self.assertEqual(
            [one != other for one, other in zip(before, self.asked(), strict=True)], [True, True, True, False]
        )
        self.session.stack.undo()
        self.assertEqual(before, self.asked())

    def test_a_change_of_the_library_does_so_too(self) -> None:
        before = self.asked()
        self.session.library.version += 1
        self.assertEqual(
            [one != other for one, other in zip(before, self.asked(), strict=True)], [True, True, True, False]
        )


class Chatter(unittest.TestCase):
    def test_it_arrives_also_where_a_job_is_opened_twice(self) -> None:
        session, runner = Session(LIBRARY), Runner()
        self.addCleanup(runner.close)
        answers = CutAnswers(session, runner)
        mode = {"axis": "x", "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03}
        measured = job(tap_modes=[mode, {**mode, "axis": "y"}])
        held, begun = threading.Event(), threading.Event()
        runner.run("blocker", lambda pulse: (begun.set(), held.wait(60)), lambda _: None, lambda _: None)
        wait_for(begun.is_set)
        for _ in range(2):
            session.open(measured, None)
            self.assertTrue(session.result.is_waiting)
        held.set()
        wait_for(lambda: not session.result.is_waiting)
        self.assertEqual(session.result.chatter.basis, "measured")
        self.assertIs(answers.session, session)

    def test_every_cut_is_asked_about_and_what_belongs_to_a_gone_one_ends(self) -> None:
        session, runner = Session(LIBRARY), Runner()
        self.addCleanup(runner.close)
        answers = CutAnswers(session, runner)
        mode = {"axis": "x", "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03}
        first = job(tap_modes=[mode, {**mode, "axis": "y"}])
        both = (first.cuts[0], first.cuts[0].with_values(id="other", name="Other", ae_mm=3.0))
        session.open(first.with_values(cuts=both), None)
        wait_for(lambda: not any(result.is_waiting for result in session.results))
        self.assertNotEqual(session.results[0].chatter.depth, session.results[1].chatter.depth)
        session.edit("Delete", session.job.with_values(cuts=both[:1]))
        self.assertTrue(answers.runner.is_idle)


def job_with_two() -> Any:
    """The plain job with a second cut at ae 3."""
    first = job()
    second = first.cuts[0].with_values(id="other", name="Other", ae_mm=3.0)
    return first.with_values(cuts=(*first.cuts, second))


if __name__ == "__main__":
    unittest.main()
