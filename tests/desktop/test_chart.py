"""Charts: numbers at their ticks are round in the units shown and stay on the widget; wheel, drag and double click."""

import unittest

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QWheelEvent
from PySide6.QtTest import QTest

from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import CloseChart, round_ticks
from lesna.model import units
from tests.desktop.driver import APP


class Close(CloseChart):
    def looked_at(self) -> Axes | None:
        return Axes(QRectF(50, 10, 300, 150), Scale(0.0, 1000.0), Scale(0.0, 30.0), self.view)


class Charts(unittest.TestCase):
    def setUp(self) -> None:
        self.chart = Close("a chart")
        self.chart.resize(360, 200)
        self.chart.show()
        self.addCleanup(self.chart.deleteLater)

    def axes(self) -> Axes:
        axes = self.chart.looked_at()
        assert axes is not None
        return axes

    def test_numbers_are_round_in_what_is_shown_and_stand_at_their_values(self) -> None:
        for system, step in (("metric", 5.0), ("inch", 0.2 * 25.4)):
            ticks = round_ticks((0.0, 25.4), units.LENGTH, system, 5)
            for number, (value, text) in enumerate(ticks):
                self.assertAlmostEqual(value, number * step)
                self.assertAlmostEqual(float(text), units.LENGTH.shown(value, system))
        self.assertEqual(round_ticks((0.0, 12000.0), units.SPINDLE_SPEED, "metric", 3)[-1][1], "10\xa0000")

    def test_numbers_stay_on_the_widget_at_both_ends(self) -> None:
        image = QImage(360, 200, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(image)
        wide = Axes(QRectF(2, 10, 356, 150), Scale(0.0, 1.0), Scale(0.0, 1.0))
        places = self.chart.ticks_across(painter, wide, [(0.0, "100 000"), (0.5, "half"), (1.0, "100 000")])
        painter.end()
        for place in places:
            self.assertTrue(QRectF(0, 0, 360, 200).contains(place), place)
        self.assertAlmostEqual(places[1].center().x(), wide.x(0.5))

    def test_the_wheel_looks_closer_a_drag_moves_a_double_click_shows_the_whole(self) -> None:
        place = QPointF(125, 85)
        before = self.axes().values_at(place)
        wheel = QWheelEvent(place, QPointF(self.chart.mapToGlobal(place.toPoint())), QPoint(), QPoint(0, 480),
                            Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase,
                            False)  # fmt: skip
        APP.sendEvent(self.chart, wheel)
        self.assertGreater(self.chart.view.zoom, 2.0)
        for now, then in zip(self.axes().values_at(place), before, strict=True):
            self.assertAlmostEqual(now, then)
        QTest.mousePress(self.chart, Qt.MouseButton.LeftButton, pos=QPoint(125, 85))
        QTest.mouseMove(self.chart, QPoint(155, 85))
        QTest.mouseRelease(self.chart, Qt.MouseButton.LeftButton, pos=QPoint(155, 85))
        self.assertAlmostEqual(self.axes().values_at(QPointF(155, 85))[0], before[0])
        QTest.mouseDClick(self.chart, Qt.MouseButton.LeftButton, pos=QPoint(125, 85))
        self.assertEqual(self.chart.view.zoom, 1.0)
