"""Somebody who works all day: nothing grows with the edits, in handlers, widgets, threads or kept Results."""

import gc
import threading
from unittest import mock

from PySide6.QtCore import QEvent, QObject

from lesna.desktop.theme import THEME
from lesna.document import results
from tests.desktop.driver import APP, WindowTest, wait_for

#: steps that undo remembers here
_UNDONE = 90
#: signals of which every follower is a subscription
SIGNALS = ("2result_changed()", "2job_changed()", "2cut_selected()", "2opened()", "2library_changed()")


class Endurance(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(1)
        for step in (0, 1, 2):
            self.bench.show_step(step)
            APP.processEvents()
        self.bench.show_step(1)

    def subscriptions(self) -> int:
        APP.processEvents()
        APP.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        gc.collect()
        return sum(self.session.receivers(signal) for signal in SIGNALS) + THEME.receivers("2changed()")

    def round(self, number: int) -> None:
        """Edits of every kind, some taken back."""
        session = self.session
        session.begin_gesture()
        session.edit_cut("Move", gesture=True, ae_mm=0.5 + 0.01 * (number % 90))
        session.edit_cut("Depth", ap_mm=5.0 + 0.1 * (number % 100))
        self.bench.rail.add_cut()
        self.bench.rail.delete_cut()
        session.select(1)
        for _ in range(3):
            self.bench.undo()
        self.bench.redo()
        self.bench.show_step(number % 2)
        self.bench.banner.say("note", f"round {number}", (("Do", lambda: None),))
        self.bench.banner.clear()

    def test_subscriptions_widgets_and_threads_stay_level(self) -> None:
        for number in range(4):
            self.round(number)
        APP.processEvents()
        before = self.subscriptions()
        widgets = len(self.running.window.findChildren(QObject))
        threads = threading.active_count()
        for number in range(16):
            self.round(number)
        self.assertLessEqual(self.subscriptions(), before)
        self.assertLessEqual(len(self.running.window.findChildren(QObject)), widgets + 12)
        self.assertLessEqual(threading.active_count(), threads + 3)

    @mock.patch.object(results, "KEPT", 100)
    def test_memory_stays_level_over_many_edits(self) -> None:
        session = self.session

        def edits(count: int, start: int) -> None:
            for number in range(start, start + count):
                session.edit_cut("Move", ae_mm=0.5 + 0.001 * (number % 900))
                if number % 3 == 0:
                    session.stack.undo()
                    session.stack.redo()

        # small bounds: by then all that is kept to undo, and every Result that is kept, has its fill
        session.stack.clear()
        session.stack.setUndoLimit(_UNDONE)
        edits(130, 0)
        counts = []
        for part in range(3):
            edits(40, 130 + 40 * part)
            gc.collect()
            counts.append(len(gc.get_objects()))
        self.assertLess(counts[-1], 1.005 * counts[0])
        self.assertLessEqual(session.stack.count(), _UNDONE)

    def test_a_comparison_shown_and_left_again_leaves_nothing_behind(self) -> None:
        self.bench.show_step(2)
        wait_for(lambda: self.answers.comparison.value is not None)
        before, cards = self.subscriptions(), len(self.compare_page.schools.lanes.cards)
        self.assertGreater(cards, 5)
        for number in range(12):
            self.compare_page.schools.show_answer(self.answers.comparison.value)
            self.bench.show_step(1 + number % 2)
        self.assertLessEqual(self.subscriptions(), before)
