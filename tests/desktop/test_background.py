"""The runner: exactly one end for each job, stale answers dropped."""

import threading
import unittest

from PySide6.QtTest import QTest

from lesna.desktop.background import Background
from lesna.model.errors import Cancelled, InputError
from tests.desktop.driver import wait_for


class Runner(unittest.TestCase):
    def setUp(self) -> None:
        self.background = Background()
        self.addCleanup(self.background.close)
        self.ends: list[object] = []

    def run_one(self, work: object, target: str = "x") -> None:
        self.background.run(
            target, work, lambda v: self.ends.append(("done", v)), lambda t: self.ends.append(("failed", t))
        )  # type: ignore[arg-type]

    def test_done_and_failed(self) -> None:
        self.run_one(lambda cancelled: 42)
        wait_for(lambda: bool(self.ends))
        self.assertEqual(self.ends, [("done", 42)])

        def fail(cancelled: object) -> None:
            raise InputError("no good", "ae")

        self.run_one(fail)
        wait_for(lambda: len(self.ends) == 2)
        self.assertEqual(self.ends[1], ("failed", "ae: no good"))
        self.assertFalse(self.background.is_busy("x"))

    def test_work_is_held_until_the_first_picture_and_dropped_by_closing(self) -> None:
        for lets_go in (True, False):
            held, begun = Background(held=True), threading.Event()
            held.run("a", lambda cancelled, begun=begun: begun.set(), lambda answer: None, lambda text: None)
            QTest.qWait(30)
            self.assertFalse(begun.is_set())
            self.assertTrue(held.is_busy("a"))
            if lets_go:
                held.begin()
                wait_for(begun.is_set)
            held.close()
            self.assertEqual(begun.is_set(), lets_go)

    def test_a_defect_becomes_a_sentence(self) -> None:
        self.run_one(lambda cancelled: 1 / 0)
        wait_for(lambda: bool(self.ends))
        self.assertIn("ZeroDivisionError", self.ends[0][1])  # type: ignore[index]

    def test_a_newer_request_makes_the_older_one_stale(self) -> None:
        gate = threading.Event()

        def slow(cancelled: object) -> str:
            gate.wait(5)
            if cancelled():  # type: ignore[operator]
                raise Cancelled
            return "old"

        self.run_one(slow)
        self.run_one(lambda cancelled: "new")
        wait_for(lambda: bool(self.ends))
        gate.set()
        self.background.close()
        self.assertEqual(self.ends, [("done", "new")])

    def test_cancel_silences(self) -> None:
        gate = threading.Event()
        self.run_one(lambda cancelled: gate.wait(5))
        self.background.cancel("x")
        gate.set()
        self.run_one(lambda cancelled: 1, "y")
        wait_for(lambda: bool(self.ends))
        self.assertEqual(self.ends, [("done", 1)])
