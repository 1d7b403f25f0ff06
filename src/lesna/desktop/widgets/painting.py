"""Drawing shared by the widgets: hatching, text that fits, plates behind labels; panels and scrolled columns."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QBrush, QColor, QFont, QFontMetricsF, QImage, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from lesna.desktop.theme import GROUNDS, THEME, font
from lesna.desktop.widgets.words import Words


def hatch(color: QColor, spacing: int = 7, *, scale: float = 1.0) -> QBrush:
    """Brush of fine diagonal lines, as a drawing hatches cut material."""
    return _hatch(color.rgba(), spacing, scale)


@lru_cache(maxsize=32)
def _hatch(rgba: int, spacing: int, scale: float) -> QBrush:
    color, size = QColor.fromRgba(rgba), round(spacing * scale)
    pixmap = QPixmap(size, size)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(color, scale))
    for shift in (-size, 0, size):
        painter.drawLine(QPointF(shift, size), QPointF(shift + size, 0))
    painter.end()
    return QBrush(pixmap)


@lru_cache(maxsize=2048)
def text_width(face: QFont, text: str) -> float:
    """Width of a text."""
    return metrics(face).horizontalAdvance(text)


@lru_cache(maxsize=512)
def elided(face: QFont, text: str, room: int) -> str:
    """A text cut at its end so that it fits."""
    return QFontMetricsF(face).elidedText(text, Qt.TextElideMode.ElideRight, room)


@lru_cache(maxsize=64)
def metrics(face: QFont) -> QFontMetricsF:
    """Measures of a type, made once for each."""
    return QFontMetricsF(face)


def label_plate(painter: QPainter, rect: QRectF, text: str, face: QFont, *, ink: QColor, plate: QColor) -> None:
    """A text on a small plate, so that it reads on any ground."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(plate)
    painter.drawRoundedRect(rect, 2, 2)
    painter.setFont(face)
    painter.setPen(ink)
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)


#: time that pieces of a still part may take in one frame [s]
_A_FRAME = 0.008


class Panel(QFrame):
    """A framed area with a title line."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(12, 8, 12, 8)
        self.body.setSpacing(4)
        self.title = Words(title)
        self.title.setObjectName("title")
        self.body.addWidget(self.title)


class Canvas(QWidget):
    """Base of the painted widgets: repaints when the theme changes.

    It paints its own ground, so that nothing behind it is drawn again at each of its repaints.
    """

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._still: QImage | None = None
        self._still_key: tuple[object, ...] = ()
        #: pieces of the still part that are not painted yet
        self._left: Iterator[Callable[[QPainter], None]] | None = None
        self._ground = ""
        self._is_due = True
        THEME.changed.connect(self.update)

    def put_off(self, milliseconds: int) -> None:
        """Paints what `still` holds in a later frame, so that the hand is never kept waiting for several widgets at once."""
        self._is_due = False
        self.update()
        QTimer.singleShot(milliseconds, self, self._come_due)

    @property
    def is_late(self) -> bool:
        """Whether what was put off is not painted yet."""
        return not self._is_due or self._left is not None

    def _come_due(self) -> None:
        self._is_due = True
        self.update()

    def ground(self) -> QColor:
        """Colour of the container it stands in, which is looked for when it is first shown."""
        if not self._ground:
            holder = self.parentWidget()
            while holder is not None and holder.objectName() not in GROUNDS:
                holder = holder.parentWidget()
            self._ground = GROUNDS[holder.objectName()] if holder is not None else "paper"
        return THEME.color(self._ground)

    def begin(self) -> QPainter:
        """A painter on a fresh ground."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.ground())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        return painter

    def still(self, key: tuple[object, ...], paint: Callable[[QPainter], None]) -> QImage:
        """All that a drag does not change, painted once for each key, size and theme; as it was while that is put off."""
        if not self._is_due:
            return self._still or QImage()
        ratio = self.devicePixelRatioF()
        whole = (*key, self.width(), self.height(), ratio, THEME.palette.name)
        if self._still is None or whole != self._still_key:
            image = QImage(QSize(round(self.width() * ratio), round(self.height() * ratio)),
                           QImage.Format.Format_ARGB32_Premultiplied)  # fmt: skip
            image.setDevicePixelRatio(ratio)
            image.fill(Qt.GlobalColor.transparent)
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(painter)
            painter.end()
            self._still, self._still_key = image, whole
        return self._still

    def by_and_by(self, key: tuple[object, ...], pieces: Callable[[], Iterator[Callable[[QPainter], None]]]) -> QImage:
        """As `still`, for what takes longer than a frame: piece by piece, as many in each frame as it has time for."""
        if not self._is_due:
            return self._still or QImage()

        def begin(painter: QPainter) -> None:
            self._left = pieces()
            self._go_on(painter)

        known = self._still
        image = self.still(key, begin)
        if image is known and self._left is not None:
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._go_on(painter)
            painter.end()
        if self._left is not None:
            QTimer.singleShot(0, self, self.update)
        return image

    def _go_on(self, painter: QPainter) -> None:
        until = time.perf_counter() + _A_FRAME
        while self._left is not None and time.perf_counter() < until:
            piece = next(self._left, None)
            if piece is None:
                self._left = None
            else:
                piece(painter)

    @staticmethod
    def face(px: float, *, bold: bool = False) -> QFont:
        """The shipped type."""
        return font(px, bold=bold)


def scrolled(*parts: QWidget) -> tuple[QScrollArea, QVBoxLayout]:
    """A scroll area with a column of widgets."""
    inside = QWidget()
    column = QVBoxLayout(inside)
    column.setContentsMargins(0, 0, 6, 0)
    column.setSpacing(4)
    for part in parts:
        column.addWidget(part)
    area = QScrollArea()
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(inside)
    return area, column
