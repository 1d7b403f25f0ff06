"""What every painted view stands on: its own ground, and pictures of what a drag does not change."""

import unittest

from PySide6.QtCore import QPoint, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from lesna.desktop.theme import DAY, NIGHT, THEME
from lesna.desktop.widgets.painting import Canvas, hatch, label_plate, metrics, text_width
from tests.desktop.driver import APP, WindowTest, wait_for


class Square(Canvas):
    """A canvas that counts how often its still part is painted."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Square", parent)
        self.key: tuple[object, ...] = ()
        self.painted = 0

    def sizeHint(self) -> QSize:
        return QSize(40, 40)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        painter.drawImage(0, 0, self.still(self.key, self._paint_still))

    def _paint_still(self, painter: QPainter) -> None:
        self.painted += 1
        painter.fillRect(10, 10, 10, 10, THEME.color("ink"))


def held(name: str) -> tuple[QFrame, Square]:
    """A square in a container of some name."""
    frame = QFrame()
    frame.setObjectName(name)
    inside = QWidget(frame)  # a container without a ground of its own between the two
    square = Square(inside)
    for outer, inner in ((frame, inside), (inside, square)):
        box = QVBoxLayout(outer)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(inner)
    frame.resize(60, 60)
    frame.show()
    APP.processEvents()
    return frame, square


def at(widget: QWidget, x: int, y: int) -> QColor:
    return widget.grab().toImage().pixelColor(QPoint(x, y))


class Ground(unittest.TestCase):
    def setUp(self) -> None:
        THEME.use(DAY)
        self.addCleanup(THEME.use, DAY)

    def test_it_is_that_of_the_container_around_by_day_and_by_night(self) -> None:
        for name, role in (("page", "paper"), ("panel", "panel"), ("topbar", "bar"), ("anything", "paper")):
            frame, square = held(name)
            for palette in (DAY, NIGHT):
                THEME.use(palette)
                self.assertEqual(at(square, 2, 2).name(), QColor(getattr(palette, role)).name(), name)
                self.assertEqual(at(square, 15, 15).name(), QColor(palette.ink).name(), name)
            frame.close()
            THEME.use(DAY)

    def test_what_is_put_off_stands_as_it_was_and_comes_of_itself(self) -> None:
        frame, square = held("panel")
        square.grab()
        before = square.painted
        square.key = (2,)
        square.put_off(30)
        self.assertEqual(at(square, 15, 15).name(), QColor(DAY.ink).name())
        self.assertEqual(square.painted, before)
        wait_for(lambda: square.painted == before + 1)
        frame.close()

    def test_the_still_part_is_painted_anew_only_when_something_about_it_changes(self) -> None:
        frame, square = held("panel")
        square.grab()
        for change, times in (
            (lambda: None, 0), (square.update, 0), (lambda: setattr(square, "key", (1,)), 1), (lambda: None, 0),
            (lambda: THEME.use(NIGHT), 1), (lambda: frame.resize(80, 60), 1),
        ):  # fmt: skip
            before = square.painted
            change()
            APP.processEvents()
            square.grab()
            self.assertEqual(square.painted - before, times)
        frame.close()


class Marks(unittest.TestCase):
    def test_hatching_of_one_colour_is_made_once_and_keeps_its_transparency(self) -> None:
        ink = QColor("#203040")
        ink.setAlpha(50)
        first, again, wider = hatch(ink, 6), hatch(QColor(ink), 6), hatch(ink, 9)
        self.assertEqual(first.textureImage().cacheKey(), again.textureImage().cacheKey())
        self.assertEqual((first.textureImage().width(), wider.textureImage().width()), (6, 9))
        alphas = {first.textureImage().pixelColor(x, y).alpha() for x in range(6) for y in range(6)}
        self.assertLessEqual(max(alphas), 60)
        self.assertIn(0, alphas)

    def test_widths_of_texts(self) -> None:
        face = Canvas.face(12)
        self.assertEqual(text_width(face, ""), 0.0)
        self.assertGreater(text_width(face, "deflection"), text_width(face, "grip"))
        self.assertGreater(text_width(Canvas.face(24), "grip"), text_width(face, "grip"))
        self.assertIs(metrics(face), metrics(Canvas.face(12)))

    def test_a_plate_lies_under_its_text(self) -> None:
        image = QImage(80, 20, QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.red)
        painter = QPainter(image)
        label_plate(painter, QRectF(10, 2, 60, 16), "ae", Canvas.face(10), ink=QColor("black"), plate=QColor("white"))
        painter.end()
        self.assertEqual(image.pixelColor(2, 10).name(), "#ff0000")
        self.assertEqual(image.pixelColor(14, 10).name(), "#ffffff")
        self.assertTrue(any(image.pixelColor(x, 10).lightness() < 100 for x in range(30, 50)))


class Window(WindowTest):
    shares = True

    def test_every_painted_view_of_every_step_has_the_ground_it_stands_on(self) -> None:
        from lesna.desktop.widgets.lanes import LaneCard
        from lesna.desktop.widgets.rail import CutCard
        from lesna.desktop.widgets.tool_ranking import ToolCard

        framed = (CutCard, LaneCard, ToolCard)  # these draw a frame of their own up to their corners
        for palette in (DAY, NIGHT):
            THEME.use(palette)
            for step in range(3):
                self.bench.show_step(step)
                APP.processEvents()
                shown = [
                    c for c in self.running.window.findChildren(Canvas) if c.isVisible() and not isinstance(c, framed)
                ]
                self.assertTrue(shown)
                for canvas in shown:
                    with self.subTest(view=canvas.accessibleName(), step=step, theme=palette.name):
                        corner = at(canvas, canvas.width() - 1, canvas.height() - 1).name()
                        self.assertEqual(corner, canvas.ground().name())

    def test_a_limit_that_breaks_under_a_drag_changes_its_name_at_once(self) -> None:
        self.session.select(1)
        ladder = self.cut_page.ladder
        APP.processEvents()

        def alarms() -> int:
            image = ladder.grab().toImage()
            alarm = QColor(THEME.palette.alarm)
            return sum(
                abs(image.pixelColor(x, y).red() - alarm.red()) < 12 and abs(image.pixelColor(x, y).blue() - alarm.blue()) < 12
                for x in range(100) for y in range(0, ladder.height(), 2)
            )  # fmt: skip

        self.assertEqual(alarms(), 0)
        self.session.is_dragging = True
        self.session.edit_cut("Change", gesture=True, hex_mm=0.12)
        self.assertGreater(alarms(), 20)
        self.session.edit_cut("Change", gesture=True, hex_mm=0.04)
        self.assertEqual(alarms(), 0)
        self.session.is_dragging = False


if __name__ == "__main__":
    unittest.main()
