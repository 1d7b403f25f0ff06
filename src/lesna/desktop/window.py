"""The window itself: up before anything heavy is loaded, then it takes in the workbench."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QCloseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QMainWindow, QWidget

from lesna.desktop.memory import Memory
from lesna.desktop.theme import DAY, NIGHT, THEME, font, style_sheet

if TYPE_CHECKING:
    from lesna.desktop.workbench import Workbench


class MainWindow(QMainWindow):
    """Frame of the workbench; asks about unsaved work when it is closed."""

    def __init__(self, memory: Memory) -> None:
        super().__init__()
        self.memory = memory
        self.bench: Workbench | None = None
        self.setMinimumSize(1060, 660)
        self.resize(1280, 800)
        self.setWindowTitle("Lesna")
        THEME.changed.connect(self._restyle)
        THEME.use(NIGHT if memory.theme == "night" else DAY)
        self._restyle()
        self._ground = _Ground()
        self.setCentralWidget(self._ground)

    def furnish(self, bench: Workbench) -> None:
        """Takes in the workbench."""
        self.bench = bench
        bench.title_changed.connect(self._show_title)
        bench.close_asked.connect(self.close)
        self.setCentralWidget(bench)

    def say(self, text: str) -> None:
        """Shows a sentence in place of the workbench that could not be loaded."""
        self._ground.word = text
        self._ground.update()

    def _show_title(self, title: str, modified: bool) -> None:
        self.setWindowTitle(title)
        self.setWindowModified(modified)

    def _restyle(self) -> None:
        self.setStyleSheet(style_sheet(THEME.palette))

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.bench is not None and not self.bench.may_leave():
            event.ignore()
            return
        if self.bench is not None and self.bench.library is not None:
            self.bench.library.close()
        self.memory.geometry = self.saveGeometry()
        event.accept()


class _Ground(QWidget):
    """What stands in the window while the workbench is loaded: its own bar and paper, and a word."""

    word = "opening the job"

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), THEME.color("paper"))
        painter.fillRect(QRectF(0, 0, self.width(), 46), THEME.color("bar"))
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(0, self.height() - 74, self.width(), self.height() - 74)
        painter.setPen(THEME.color("bar_ink"))
        painter.setFont(font(15, bold=True))
        painter.drawText(QRectF(16, 0, 400, 46), Qt.AlignmentFlag.AlignVCenter, "Lesna")
        painter.setPen(THEME.color("faint"))
        painter.setFont(font(13))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.word)
