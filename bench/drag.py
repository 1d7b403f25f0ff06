"""From a mouse move on the map to every view repainted, offscreen at 1280 x 800."""

from __future__ import annotations

import os
import statistics
import tempfile

from bench.timing import millis, report


def main() -> None:
    """Drags the point along a curve and prints median and 95th percentile."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as scratch:
        for variable in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
            os.environ[variable] = scratch
        _run()


def _run() -> None:
    from PySide6.QtCore import QEvent, QPointF, Qt
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from lesna.desktop.app import start
    from lesna.desktop.shots import settle

    running = start(recover=False)
    running.window.resize(1280, 800)
    running.window.show()
    running.session.select(1)
    settle(running)
    view = running.bench.page("cut").map
    steps = iter(range(10_000))
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, view.at(1.2, 24.0).toPoint())

    def move() -> None:
        step = next(steps)
        place = view.at(0.6 + 0.02 * (step % 200), 4.0 + 0.1 * (step % 180))
        event = QMouseEvent(QEvent.Type.MouseMove, place, QPointF(view.mapToGlobal(place.toPoint())),
                            Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)  # fmt: skip
        QApplication.sendEvent(view, event)
        QApplication.processEvents()

    for name, index in (("Cut", 1), ("Setup", 0)):
        running.bench.show_step(index)
        # another step lets go of what is dragged
        running.session.begin_gesture()
        running.session.is_dragging = True
        QApplication.processEvents()
        millis(move, 20)
        times = sorted(millis(move, 300))
        report(f"drag to full repaint, {name} step", median_ms=statistics.median(times),
               p95_ms=times[int(0.95 * len(times))], p95_of_33_ms=times[int(0.95 * len(times))] / 33)  # fmt: skip
    running.session.stack.setClean()
    running.window.close()
    running.close()
