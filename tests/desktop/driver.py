"""A furnished window for tests, waiting on what it does, and nothing left alive afterwards."""

from __future__ import annotations

import shutil
import sys
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import ClassVar
from unittest import mock

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from lesna.desktop import runner
from lesna.desktop.app import OpenWindow, application, demo_job, start
from lesna.desktop.recovery import recovery_folder
from lesna.desktop.theme import DAY, THEME
from lesna.model.files import load_job
from lesna.physics import compiled, engine
from tests.desktop.coarse import coarse
from tests.desktop.remembering import remembering

APP = application()
# tests run beside each other: what takes long would wait for those of the other worker
runner.NICE = 0
# compiled before the first window, whose map is not waited for that long; what is loaded need not be looked at by each window
engine.ready(names=tuple(compiled.KERNELS))


#: between two looks, so that what is waited for has the processor [s]
_PAUSE = 0.002
#: nothing that is waited for takes so long on any machine: whoever waits longer waits for something that never comes [s]
_FOREVER = 300.0


def wait_for(condition: Callable[[], bool]) -> None:
    """Runs the event loop until something holds; a loaded machine does not fail it."""
    deadline = time.monotonic() + _FOREVER
    while not condition():
        APP.processEvents()
        if time.monotonic() > deadline:
            raise AssertionError("it did not happen")
        time.sleep(_PAUSE)


class WindowTest(unittest.TestCase):
    """Each test has a shown window with the demo job and its map."""

    running: OpenWindow
    #: whether answers are taken from former windows of this process; tests of how work goes on have it done
    remembers = True
    #: whether the tests of a class follow each other in one window, into which each opens the demo job anew
    shares = False
    _shared: ClassVar[OpenWindow | None] = None
    _threads: ClassVar[int]

    def setUp(self) -> None:
        # what goes wrong in a slot or in a paint event ends there; it must not pass unseen
        self.troubles: list[BaseException] = []
        hook = mock.patch.object(sys, "excepthook", lambda kind, error, trace: self.troubles.append(error))
        hook.start()
        self.addCleanup(hook.stop)
        self.enterContext(coarse())
        if self.remembers:
            self.enterContext(remembering())
        shutil.rmtree(recovery_folder(), ignore_errors=True)
        if self._shared is None:
            type(self)._threads = threading.active_count()
            self.start()
        else:
            self.running = self._shared
            self.anew()
        if self.shares:
            type(self)._shared = self.running

    def anew(self) -> None:
        """The shared window as it is at first: the demo job at its first step, in daylight."""
        THEME.use(DAY)
        self.running.window.resize(1280, 800)
        self.session.open(load_job(demo_job()), None, folder=demo_job().parent)
        self.bench.show_step(1)
        self.bench.working.hide()
        self.bench.banner.clear()
        APP.processEvents()

    def start(self, path: Path | None = None, *, recover: bool = False) -> None:
        """A fresh window."""
        THEME.use(DAY)
        self.running = start(path, recover=recover)
        self.running.window.resize(1280, 800)
        self.running.window.show()
        APP.processEvents()

    def wait_for_map(self) -> None:
        """Until the map of the chosen cut is drawn."""
        wait_for(lambda: self.answers.map.value is not None)
        APP.processEvents()

    def tearDown(self) -> None:
        self.assertEqual(self.troubles, [])
        self.session.stack.setClean()
        if not self.shares:
            self._end(self.running)

    @classmethod
    def tearDownClass(cls) -> None:
        if cls._shared is not None:
            cls._end(cls._shared)
            cls._shared = None

    @classmethod
    def _end(cls, running: OpenWindow) -> None:
        """Closes a window; nothing of it is left."""
        running.window.close()
        running.close()
        running.window.deleteLater()
        APP.processEvents()
        # without its loop Qt keeps what is to be deleted, and every later test would have these widgets follow
        APP.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        left = [widget for widget in QApplication.topLevelWidgets() if widget.isVisible()]
        if left or threading.active_count() > cls._threads:
            raise AssertionError(f"a window leaves {left} and {threading.active_count()} threads behind")

    @property
    def session(self):  # type: ignore[no-untyped-def]
        """The window's session."""
        return self.running.session

    @property
    def bench(self):  # type: ignore[no-untyped-def]
        """The workbench."""
        return self.running.bench

    @property
    def answers(self):  # type: ignore[no-untyped-def]
        """What is computed behind the window."""
        return self.running.answers

    @property
    def setup_page(self):  # type: ignore[no-untyped-def]
        """The step Setup."""
        return self.bench.page("setup")

    @property
    def cut_page(self):  # type: ignore[no-untyped-def]
        """The step Cut."""
        return self.bench.page("cut")

    @property
    def compare_page(self):  # type: ignore[no-untyped-def]
        """The step Compare."""
        return self.bench.page("compare")

    # ------------------------------------------------------------ gestures

    def type_into(self, edit: QWidget, text: str, key: Qt.Key = Qt.Key.Key_Return) -> None:
        """Selects all, types, presses Enter."""
        edit.setFocus()
        QTest.keyClick(edit, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClick(edit, Qt.Key.Key_Delete)
        QTest.keyClicks(edit, text)
        QTest.keyClick(edit, key)

    def drag(self, widget: QWidget, start: QPointF, end: QPointF, *, steps: int = 4,
             modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:  # fmt: skip
        """Presses, moves in steps, releases."""

        def at(share: float) -> QPoint:
            return (start + (end - start) * share).toPoint()

        QTest.mousePress(widget, Qt.MouseButton.LeftButton, modifier, at(0))
        for step in range(1, steps + 1):
            self.move(widget, at(step / steps), modifier)
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, modifier, at(1))

    def move(self, widget: QWidget, place: QPoint, modifier: Qt.KeyboardModifier) -> None:
        """A mouse move with the left button down (QTest's own forgets buttons and modifiers)."""
        from PySide6.QtGui import QMouseEvent

        event = QMouseEvent(QEvent.Type.MouseMove, QPointF(place), QPointF(widget.mapToGlobal(place)),
                            Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, modifier)  # fmt: skip
        QApplication.sendEvent(widget, event)
