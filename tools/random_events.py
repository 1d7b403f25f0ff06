"""Somebody who presses anything anywhere: random events from a seed on the real window, offscreen.

``python tools/random_events.py --events 20000 --seed 1``; after every few dozen, each Result shown must equal a fresh
evaluation, and no slot or paint event may have raised.
"""

from __future__ import annotations

import argparse
import os
import random
import sys
import tempfile
import time
from unittest import mock

_SCRATCH = tempfile.mkdtemp(prefix="lesna-events-")
for _variable in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
    os.environ[_variable] = _SCRATCH
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QPoint, QPointF, Qt  # noqa: E402
from PySide6.QtGui import QWheelEvent  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QMenu, QMessageBox, QWidget  # noqa: E402

from lesna.data.places import shipped_folder  # noqa: E402
from lesna.desktop.app import OpenWindow, start  # noqa: E402
from lesna.model.resolve import parts_of  # noqa: E402
from lesna.physics import engine  # noqa: E402
from lesna.planning.cut.setup import setup_of  # noqa: E402
from lesna.planning.evaluate import result_of, with_timing  # noqa: E402
from lesna.planning.telling.figures import result_data  # noqa: E402

#: events between two looks at the Results
_LOOK = 60
_TEXTS = (
    "12",
    "0.5in",
    "10%",
    "1.75xD",
    "-3",
    "nonsense",
    "",
    "1e9",
    "0,5",
    "200 sfm",
    "d12 z4",
    "ti-6al",
    "35 HRC",
    "x" * 90,
)
_KEYS = (
    Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left,
    Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_B, Qt.Key.Key_Delete, Qt.Key.Key_F1, Qt.Key.Key_F2,
)  # fmt: skip
_WITH_CONTROL = (Qt.Key.Key_Z, Qt.Key.Key_Y, Qt.Key.Key_U, Qt.Key.Key_T, Qt.Key.Key_B, Qt.Key.Key_1, Qt.Key.Key_2, Qt.Key.Key_3,
                 Qt.Key.Key_PageDown, Qt.Key.Key_PageUp, Qt.Key.Key_L, Qt.Key.Key_E, Qt.Key.Key_N, Qt.Key.Key_C)  # fmt: skip
_NOTHING = Qt.KeyboardModifier.NoModifier
#: another job is opened after so many events
_OPENS = 400
_DEMOS = sorted((shipped_folder() / "demo").glob("*.lesna"))


class Somebody:
    """Presses anything; the same seed presses the same as far as the window answers alike."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)
        self.troubles: list[str] = []
        self.running: OpenWindow = start(recover=False)
        self.running.window.resize(1280, 800)
        self.running.window.show()
        # an open menu waits inside Qt until something is chosen; its commands are pressed by their shortcuts
        self.running.bench.top.job_button.setMenu(None)
        self.done = 0

    def widgets(self) -> list[QWidget]:
        """What can be pressed now: of the topmost dialog, else of a window."""
        tops = [
            top
            for top in QApplication.topLevelWidgets()
            if top.isVisible() and top.width() > 40 and not isinstance(top, QMenu)
        ]
        dialogs = [top for top in tops if isinstance(top, QDialog)]
        top = self.chance.choice(dialogs or tops)
        return [
            w
            for w in (top, *top.findChildren(QWidget))
            if w.isVisible() and w.isEnabled() and min(w.width(), w.height()) > 4
        ]

    def press(self) -> None:
        """One event."""
        widget = self.chance.choice(self.widgets())
        place = QPoint(self.chance.randrange(widget.width()), self.chance.randrange(widget.height()))
        deed = self.chance.random()
        if self.done % _OPENS == _OPENS - 1:
            # jobs with programs, with drawings, in inches and metric, each as it lies beside its files
            self.running.bench.open_path(self.chance.choice(_DEMOS))
        left = Qt.MouseButton.LeftButton
        if deed < 0.36:
            QTest.mouseClick(widget, left, _NOTHING, place)
        elif deed < 0.42:
            QTest.mouseDClick(widget, left, _NOTHING, place)
        elif deed < 0.56:
            self.drag(widget, place)
        elif deed < 0.68:
            target = QApplication.focusWidget() or widget
            QTest.keyClicks(target, self.chance.choice(_TEXTS))
        elif deed < 0.86:
            target = QApplication.focusWidget() or widget
            QTest.keyClick(
                target, self.chance.choice(_KEYS), Qt.KeyboardModifier.ShiftModifier if deed < 0.7 else _NOTHING
            )
        elif deed < 0.95:
            QTest.keyClick(
                QApplication.focusWidget() or widget,
                self.chance.choice(_WITH_CONTROL),
                Qt.KeyboardModifier.ControlModifier,
            )
        elif deed < 0.98:
            at = QPointF(place)
            QApplication.sendEvent(widget, QWheelEvent(at, widget.mapToGlobal(at), QPoint(0, -120), QPoint(0, -120),
                                   Qt.MouseButton.NoButton, _NOTHING, Qt.ScrollPhase.NoScrollPhase, False))  # fmt: skip
        else:
            self.running.window.resize(
                self.chance.choice(((1280, 800), (1100, 700), (1600, 1000)))[0], self.chance.choice((700, 800))
            )
        QApplication.processEvents()
        self.done += 1

    def drag(self, widget: QWidget, place: QPoint) -> None:
        """Presses, moves a little way, now and then with something else in between, and lets go."""
        from PySide6.QtCore import QEvent
        from PySide6.QtGui import QMouseEvent

        QTest.mousePress(widget, Qt.MouseButton.LeftButton, _NOTHING, place)
        for _ in range(self.chance.randrange(1, 5)):
            place = place + QPoint(self.chance.randrange(-40, 41), self.chance.randrange(-40, 41))
            event = QMouseEvent(QEvent.Type.MouseMove, QPointF(place), QPointF(widget.mapToGlobal(place)), Qt.MouseButton.NoButton,
                                Qt.MouseButton.LeftButton, _NOTHING)  # fmt: skip
            # a rail card would begin a drag of its own, which waits for a drop
            if type(widget).__name__ != "CutCard":
                QApplication.sendEvent(widget, event)
            QApplication.processEvents()
        if self.chance.random() < 0.1:
            key = self.chance.choice((Qt.Key.Key_Escape, Qt.Key.Key_2))
            QTest.keyClick(widget, key, self.chance.choice((_NOTHING, Qt.KeyboardModifier.ControlModifier)))
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, _NOTHING, place)

    def look(self) -> None:
        """Every Result shown against a fresh evaluation."""
        session = self.running.session
        for index, shown in enumerate(session.results):
            fresh = result_of(setup_of(parts_of(session.job, index, session.library)), shown.chatter)
            # how long it takes is found out behind the window, by its program or the way that would be made
            fresh = with_timing(fresh, shown.timing)
            if result_data(shown) != result_data(fresh):
                self.troubles.append(f"after {self.done} events the Result of '{shown.name}' is not what its cut gives")

    def close(self) -> None:
        """Ends the window."""
        self.running.session.stack.setClean()
        self.running.window.close()
        self.running.close()


def main() -> int:
    """Presses so often and gives 1 where something went wrong."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--events", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    engine.ready()
    no_file = mock.Mock(return_value=("", ""))
    with (
        mock.patch.object(QFileDialog, "getOpenFileName", no_file), mock.patch.object(QFileDialog, "exec", lambda self: 0),
        mock.patch.object(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard),
        mock.patch.object(QMessageBox, "exec", lambda self: 0), mock.patch.object(QMenu, "exec", lambda *a: None),
    ):  # fmt: skip
        somebody = Somebody(given.seed)
        sys.excepthook = lambda kind, error, trace: somebody.troubles.append(
            f"after {somebody.done}: {kind.__name__}: {error}"
        )
        begun = time.monotonic()
        while somebody.done < given.events and len(somebody.troubles) < 5:
            somebody.press()
            if somebody.done % _LOOK == 0:
                somebody.look()
        somebody.close()
    print(
        f"seed {given.seed}: {somebody.done} events in {time.monotonic() - begun:.0f} s, {len(somebody.troubles)} troubles"
    )
    print("\n".join(somebody.troubles))
    return 1 if somebody.troubles else 0


if __name__ == "__main__":
    sys.exit(main())
