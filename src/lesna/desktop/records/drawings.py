"""Drawings beside a form: a tool and a holder to scale, with their dimensions."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, label_plate, text_width
from lesna.geometry.elevation import Diameter, Elevation, What, holder_alone, tool_alone
from lesna.model import units
from lesna.model.library_records import Holder, Tool

_MARGIN = 34.0
#: dimension lines stand beside the shapes, and one beside the other [px]
_BESIDE, _APART = 16.0, 18.0
_ROLES: dict[What, str] = {"part": "stock", "holder": "steel", "shank": "steel", "flutes": "accent_soft"}


class ToScale(Canvas):
    """An elevation that stands on the lower edge, as large as there is room, with its dimension lines."""

    def __init__(self, name: str, instead: str, parent: QWidget | None = None) -> None:
        super().__init__(name, parent)
        self._instead = instead
        self._drawn: Elevation | None = None
        self._system: units.System = "metric"
        self._scale = 1.0
        self.setMinimumSize(180, 220)

    def sizeHint(self) -> QSize:
        return QSize(270, 420)

    def show_drawn(self, drawn: Elevation | None, system: units.System) -> None:
        """Draws an elevation; None while what is typed makes none."""
        self._drawn, self._system = drawn, system
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, drawn = self.begin(), self._drawn
        if drawn is None:
            painter.setPen(THEME.color("faint"))
            painter.setFont(self.face(12))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._instead)
            return
        left, bottom, right, top = drawn.bounds
        self._scale = min(
            (self.width() - 3.4 * _MARGIN) / (right - left), (self.height() - 2 * _MARGIN) / (top - bottom)
        )
        for shape in drawn.shapes:
            painter.setPen(QPen(THEME.color("ink"), 1.2))
            painter.setBrush(THEME.color(_ROLES[shape.what]))
            painter.drawPolygon(QPolygonF([self._at(x, y) for x, y in shape.outline]))
        painter.setPen(QPen(THEME.color("faint"), 0.9))
        for a, b in drawn.helix_lines:
            painter.drawLine(self._at(*a), self._at(*b))
        if drawn.foot is not None:
            self._paint_foot(painter, drawn.foot)
        for diameter in drawn.diameters:
            self._label(painter, self._at(0, diameter.y), diameter.text(self._system))
        self._paint_heights(painter, drawn)

    def _at(self, x: float, y: float) -> QPointF:
        return QPointF(self.width() / 2 + self._scale * x, self.height() - _MARGIN - self._scale * y)

    def _paint_foot(self, painter: QPainter, foot: Diameter) -> None:
        """Dimensions a diameter across, below its height."""
        left, right = (self._at(side * foot.size / 2, foot.y) + QPointF(0, 12) for side in (-1, 1))
        painter.setPen(QPen(THEME.color("accent"), 1))
        painter.drawLine(left, right)
        for end in (left, right):
            painter.drawLine(end - QPointF(0, 4), end + QPointF(0, 4))
        self._label(painter, QPointF(self.width() / 2, left.y() + 11), foot.text(self._system))

    def _paint_heights(self, painter: QPainter, drawn: Elevation) -> None:
        """Dimensions heights on their sides, each further out than the one before it."""
        left, _, right, _ = drawn.bounds
        out = {-1: self._at(left, 0).x() - _BESIDE, 1: self._at(right, 0).x() + _BESIDE}
        for height in drawn.heights:
            x = out[height.side]
            out[height.side] += height.side * _APART
            low, high = self._at(0, height.low).y(), self._at(0, height.high).y()
            painter.setPen(QPen(THEME.color("accent"), 1))
            painter.drawLine(QPointF(x, low), QPointF(x, high))
            for y in (low, high):
                painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
            painter.save()
            painter.translate(x, (low + high) / 2)
            painter.rotate(-90)
            self._label(painter, QPointF(0, 0), height.text(self._system))
            painter.restore()

    def _label(self, painter: QPainter, centre: QPointF, text: str) -> None:
        face = self.face(11)
        width = text_width(face, text) + 8
        place = QRectF(centre.x() - width / 2, centre.y() - 8, width, 16)
        label_plate(painter, place, text, face, ink=THEME.color("accent"), plate=self.ground())


class ToolDrawing(ToScale):
    """A tool from the side, its diameter and lengths as a drawing gives them."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The tool, to scale", "no tool as it stands", parent)
        self.tool: Tool | None = None

    def show_tool(self, tool: Tool | None, system: units.System) -> None:
        """Draws a tool; None while what is typed makes none."""
        self.tool = tool
        self.show_drawn(None if tool is None else tool_alone(tool), system)


class HolderDrawing(ToScale):
    """A holder around a shank in a 40 taper."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The holder, to scale", "no holder as it stands", parent)
        self.holder: Holder | None = None

    def show_holder(self, holder: Holder | None, system: units.System) -> None:
        """Draws a holder; None while what is typed makes none."""
        self.holder = holder
        self.show_drawn(None if holder is None else holder_alone(holder), system)
