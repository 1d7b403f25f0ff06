"""The runner: queues, exactly one end for each job, staleness asked before the start, stale answers dropped."""

import threading
import time
import unittest
from collections.abc import Callable
from typing import Any
from unittest import mock

from PySide6.QtTest import QTest

from lesna.desktop import runner
from lesna.desktop.runner import Queue, Runner
from lesna.desktop.troubles import TROUBLES
from lesna.model.errors import InputError
from lesna.model.work import Pulse
from tests.desktop.driver import wait_for


class RunnerTest(unittest.TestCase):
    def setUp(self) -> None:
        self.runner = Runner()
        self.addCleanup(self.runner.close)
        self.ends: list[Any] = []

    def run_one(self, work: Callable[[Pulse], Any], target: str = "x", queue: Queue = "urgent", **options: Any) -> None:
        self.runner.run(target, work, lambda v: self.ends.append(("done", v)), lambda t: self.ends.append(("failed", t)),
                        queue=queue, **options)  # fmt: skip

    def block(self, queue: Queue = "urgent") -> threading.Event:
        """A queue that waits for the returned gate."""
        gate, begun = threading.Event(), threading.Event()
        self.addCleanup(gate.set)
        self.run_one(lambda pulse: (begun.set(), gate.wait(5)), f"blocker of {queue}", queue)
        wait_for(begun.is_set)
        return gate


class Ends(RunnerTest):
    def test_done_or_failed_never_both(self) -> None:
        def fail(pulse: Pulse) -> None:
            raise InputError("no good", "ae")

        self.run_one(lambda pulse: 42)
        self.run_one(fail, "y")
        wait_for(lambda: self.runner.is_idle)
        QTest.qWait(20)
        self.assertEqual(self.ends, [("done", 42), ("failed", "ae: no good")])

    def test_a_defect_is_logged_and_becomes_a_sentence(self) -> None:
        told: list[str] = []
        TROUBLES.happened.connect(told.append)
        self.addCleanup(TROUBLES.happened.disconnect, told.append)
        with self.assertLogs("lesna", "ERROR") as log:
            self.run_one(lambda pulse: 1 / 0)
            wait_for(lambda: bool(self.ends) and bool(told))
        self.assertIn("ZeroDivisionError", log.output[0])
        self.assertIn("ZeroDivisionError", told[0])
        self.assertEqual(self.ends[0][0], "failed")
        self.assertNotIn("Zero", self.ends[0][1])

    def test_a_newer_request_makes_the_older_one_stale_and_it_is_not_begun(self) -> None:
        gate, begun = self.block(), []
        for name in ("old", "older", "new"):
            self.run_one(lambda pulse, name=name: begun.append(name) or name)
        gate.set()
        wait_for(lambda: ("done", "new") in self.ends)
        self.assertEqual(begun, ["new"])

    def test_asked_whether_it_is_still_wanted_before_it_begins(self) -> None:
        begun: list[int] = []
        self.run_one(lambda pulse: begun.append(1), is_wanted=lambda: False)
        wait_for(lambda: self.runner.is_idle)
        self.assertEqual((begun, self.ends), ([], []))

    def test_progress_is_told_in_words_and_only_for_the_newest(self) -> None:
        told: list[tuple[str, str]] = []
        self.runner.progressed.connect(lambda target, text: told.append((target, text)))

        def work(pulse: Pulse) -> None:
            pulse.begin("warming up")
            pulse.tell(1, 3)
            pulse.tell(3, 3)

        self.run_one(work)
        wait_for(lambda: bool(self.ends))
        self.assertEqual(told, [("x", "warming up: 1 of 3"), ("x", "")])

    def test_progress_is_told_no_more_often_than_it_can_be_read(self) -> None:
        told: list[str] = []
        self.runner.progressed.connect(lambda target, text: told.append(text))

        def work(pulse: Pulse) -> None:
            for done in (*range(501), 500):
                pulse.tell(done, 500)

        with mock.patch.object(runner, "READ", 1e9):
            self.run_one(work)
            wait_for(lambda: bool(self.ends))
        self.assertEqual(told, ["0 of 500", ""])


class Cancelling(RunnerTest):
    def test_reaches_inside_loops(self) -> None:
        begun = threading.Event()

        def work(pulse: Pulse) -> None:
            while True:
                begun.set()
                pulse.check()
                time.sleep(0.005)

        self.run_one(work)
        wait_for(begun.is_set)
        self.runner.cancel("x")
        self.assertFalse(self.runner.is_busy("x"))
        self.run_one(lambda pulse: "next", "y")  # the queue is free again
        wait_for(lambda: self.ends == [("done", "next")])

    def test_closing_drops_what_waits_but_writes_what_was_to_be_written(self) -> None:
        gate, written = self.block("disk"), []
        self.run_one(lambda pulse: written.append(1), "autosave", "disk")
        self.run_one(lambda pulse: written.append(2), "forget", "disk")
        threading.Timer(0.05, gate.set).start()
        self.runner.close()
        self.assertEqual(written, [1, 2])

    def test_says_whether_work_is_still_under_way(self) -> None:
        gate = self.block("long")
        self.assertTrue(self.runner.close(wait=False))
        gate.set()
        idle = Runner()
        self.assertFalse(idle.close(wait=False))


class Queues(RunnerTest):
    def test_what_is_looked_at_waits_for_nothing_that_takes_long(self) -> None:
        gate = self.block("long")
        self.run_one(lambda pulse: "map", "map", "urgent")
        self.run_one(lambda pulse: "saved", "autosave", "disk")
        wait_for(lambda: len(self.ends) == 2)
        self.assertFalse(gate.is_set())
        self.assertEqual({value for _, value in self.ends}, {"map", "saved"})

    def test_one_thing_that_takes_minutes_does_not_hold_up_another(self) -> None:
        gate = self.block("long")
        self.run_one(lambda pulse: "ranked", "tools", "long")
        wait_for(lambda: self.ends == [("done", "ranked")])
        gate.set()

    def test_what_takes_long_rests_while_something_is_looked_at(self) -> None:
        told: list[int] = []

        def work(pulse: Pulse) -> None:
            while True:
                pulse.check()
                told.append(1)
                time.sleep(0.002)

        self.run_one(work, "long", "long")
        wait_for(lambda: bool(told))
        gate = self.block()
        time.sleep(0.02)
        before = len(told)
        time.sleep(0.12)
        self.assertEqual(len(told), before)
        gate.set()
        wait_for(lambda: len(told) > before)
        self.runner.cancel("long")

    def test_work_is_held_until_the_first_picture_but_saving_is_not(self) -> None:
        held, begun, saved = Runner(held=True), threading.Event(), threading.Event()
        self.addCleanup(held.close)
        for event, queue in ((begun, "urgent"), (saved, "disk")):
            held.run(queue, lambda pulse, event=event: event.set(), lambda v: None, lambda t: None, queue=queue)  # type: ignore
        wait_for(saved.is_set)
        self.assertFalse(begun.is_set())
        held.begin()
        wait_for(begun.is_set)


if __name__ == "__main__":
    unittest.main()
