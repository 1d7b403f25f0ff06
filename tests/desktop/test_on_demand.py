"""Answers that are computed only while somebody looks: asked once, again on change, stopped, refused, forgotten."""

import unittest
from collections.abc import Callable
from typing import Any

from lesna.desktop.background import Background
from lesna.desktop.on_demand import OnDemand
from lesna.model.errors import InputError
from tests.desktop.driver import wait_for


class Answers(unittest.TestCase):
    def setUp(self) -> None:
        self.background = Background()
        self.addCleanup(self.background.close)
        self.key: Any = 1
        self.asked: list[Any] = []
        self.said: list[str] = []
        self.hold = False
        self.fails = False
        self.answer = OnDemand(self.background, "test", lambda: self.key, self.work, self.said.append)

    def work(self) -> Callable[[Callable[[int, int], None]], Any]:
        key = self.key
        self.asked.append(key)

        def run(tell: Callable[[int, int], None]) -> Any:
            while self.hold:
                tell(0, 1)  # raises once the answer is stale
            if self.fails:
                raise InputError("is missing", "field")
            return f"answer to {key}"

        return run

    def test_nothing_is_asked_before_somebody_looks(self) -> None:
        self.answer.want()
        self.assertEqual(self.asked, [])
        self.answer.watch(True)
        wait_for(lambda: self.answer.answer is not None)
        self.assertEqual(self.answer.answer, "answer to 1")

    def test_asked_again_only_when_it_would_differ(self) -> None:
        self.answer.watch(True)
        wait_for(lambda: self.answer.answer is not None)
        self.answer.want()
        self.assertEqual(self.asked, [1])
        self.answer.watch(False)
        self.key = 2
        self.answer.want()
        self.assertEqual(self.asked, [1])
        self.answer.watch(True)
        self.assertIsNone(self.answer.answer)
        wait_for(lambda: self.answer.answer == "answer to 2")

    def test_no_key_means_not_now(self) -> None:
        self.key = None
        self.answer.watch(True)
        self.assertEqual(self.asked, [])

    def test_a_newer_question_makes_the_older_answer_stale(self) -> None:
        self.hold = True
        self.answer.watch(True)
        self.key = 2
        self.answer.want()
        self.hold = False
        wait_for(lambda: self.answer.answer is not None)
        self.assertEqual(self.answer.answer, "answer to 2")

    def test_stopped_and_asked_again(self) -> None:
        self.hold = True
        self.answer.watch(True)
        self.answer.stop()
        self.assertEqual((self.answer.answer, self.answer.trouble), (None, "stopped"))
        self.hold = False
        self.answer.again()
        wait_for(lambda: self.answer.answer is not None)
        self.assertEqual((self.asked, self.answer.trouble), ([1, 1], ""))
        self.answer.stop()  # nothing under way: nothing happens
        self.assertEqual(self.answer.trouble, "")

    def test_a_refusal_is_kept_as_a_sentence(self) -> None:
        self.fails = True
        self.answer.watch(True)
        wait_for(lambda: bool(self.answer.trouble))
        self.assertEqual((self.said, self.answer.trouble), (["field: is missing"], "field: is missing"))

    def test_forgotten_with_the_job(self) -> None:
        self.answer.watch(True)
        wait_for(lambda: self.answer.answer is not None)
        self.answer.forget()
        self.assertIsNone(self.answer.answer)
        self.answer.want()
        wait_for(lambda: self.answer.answer is not None)
        self.assertEqual(self.asked, [1, 1])


class Closing(unittest.TestCase):
    def test_says_whether_work_is_still_under_way(self) -> None:
        idle = Background()
        self.assertFalse(idle.close(wait=False))
        busy, go = Background(), []
        started: list[bool] = []

        def work(cancelled: Callable[[], bool]) -> None:
            started.append(True)
            while not go:
                pass

        busy.run("test", work, lambda answer: None, lambda text: None)
        wait_for(lambda: bool(started))
        self.assertTrue(busy.close(wait=False))
        go.append(True)
        busy.close()


if __name__ == "__main__":
    unittest.main()
