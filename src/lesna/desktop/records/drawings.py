"""Drawings beside a form: a tool and a holder to scale, with their dimensions."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, label_plate, text_width
from lesna.geometry.elevation import Outline, holder_outline, tool_alone
from lesna.geometry.holder import holder_shape
from lesna.model import units
from lesna.model.library_records import Holder, Tool

_MARGIN = 34.0
#: the shank that a holder is drawn around, whose nose its row names [mm], and how far it stands out
_SHANK, _SHANK_SHOWN = 12.0, 18.0


class ToScale(Canvas):
    """Outlines that stand on the lower edge, as large as there is room, with dimension lines."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(name, parent)
        self._system: units.System = "metric"
        self._scale = 1.0
        self.setMinimumSize(180, 220)

    def sizeHint(self) -> QSize:
        return QSize(270, 420)

    def _say(self, painter: QPainter, text: str) -> None:
        painter.setPen(THEME.color("faint"))
        painter.setFont(self.face(12))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)

    def _fit(self, width: float, height: float) -> None:
        """Takes the scale at which an area fits, beside its dimension lines."""
        self._scale = min((self.width() - 3.4 * _MARGIN) / width, (self.height() - 2 * _MARGIN) / height)

    def _at(self, x: float, y: float) -> QPointF:
        return QPointF(self.width() / 2 + self._scale * x, self.height() - _MARGIN - self._scale * y)

    def _outlines(self, painter: QPainter, outlines: Sequence[tuple[Outline, str]]) -> None:
        for outline, role in outlines:
            painter.setPen(QPen(THEME.color("ink"), 1.2))
            painter.setBrush(THEME.color(role))
            painter.drawPolygon(QPolygonF([self._at(x, y) for x, y in outline]))

    def _across(self, painter: QPainter, y: float, diameter: float, name: str) -> None:
        """Dimensions a diameter, below a height [mm]."""
        left, right = self._at(-diameter / 2, y) + QPointF(0, 12), self._at(diameter / 2, y) + QPointF(0, 12)
        painter.setPen(QPen(THEME.color("accent"), 1))
        painter.drawLine(left, right)
        for end in (left, right):
            painter.drawLine(end - QPointF(0, 4), end + QPointF(0, 4))
        text = f"{name} {units.DIMENSION.full(diameter, self._system)}"
        self._label(painter, QPointF(self.width() / 2, left.y() + 11), text)

    def _up(self, painter: QPainter, x: float, span: tuple[float, float], name: str) -> None:
        """Dimensions heights [mm] at a place across the widget [px]."""
        low, high = self._at(0, span[0]).y(), self._at(0, span[1]).y()
        painter.setPen(QPen(THEME.color("accent"), 1))
        painter.drawLine(QPointF(x, low), QPointF(x, high))
        for y in (low, high):
            painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
        painter.save()
        painter.translate(x, (low + high) / 2)
        painter.rotate(-90)
        self._label(painter, QPointF(0, 0), f"{name} {units.DIMENSION.text(span[1] - span[0], self._system)}")
        painter.restore()

    def _label(self, painter: QPainter, centre: QPointF, text: str) -> None:
        face = self.face(11)
        width = text_width(face, text) + 8
        place = QRectF(centre.x() - width / 2, centre.y() - 8, width, 16)
        label_plate(painter, place, text, face, ink=THEME.color("accent"), plate=self.ground())


class ToolDrawing(ToScale):
    """A tool from the side, its diameter and lengths as a drawing gives them."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The tool, to scale", parent)
        self.tool: Tool | None = None

    def show_tool(self, tool: Tool | None, system: units.System) -> None:
        """Draws a tool; None while what is typed makes none."""
        self.tool, self._system = tool, system
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, tool = self.begin(), self.tool
        if tool is None:
            self._say(painter, "no tool as it stands")
            return
        drawn = tool_alone(tool)
        half = max(x for outline in (drawn.flutes, drawn.body) for x, _ in outline)
        self._fit(2 * half, drawn.length)
        self._outlines(painter, ((drawn.body, "steel"), (drawn.flutes, "accent_soft")))
        painter.setPen(QPen(THEME.color("faint"), 0.9))
        for low, high in drawn.helix_lines:
            painter.drawLine(self._at(*low), self._at(*high))
        self._across(painter, 0.0, tool.DC, "DC")
        for number, (name, length) in enumerate((("APMX", tool.APMX), ("LU", tool.LU), ("OAL", tool.OAL))):
            if length is not None:
                side = 1 if number % 2 else -1
                x = self.width() / 2 + side * (self._scale * half + 16 + (18 if number > 1 else 0))
                self._up(painter, x, (0.0, length), name)


class HolderDrawing(ToScale):
    """A holder around a shank of 12 mm in a 40 taper, as it is bent and kept clear of the part."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The holder, to scale", parent)
        self.holder: Holder | None = None

    def show_holder(self, holder: Holder | None, system: units.System) -> None:
        """Draws a holder; None while what is typed makes none."""
        self.holder, self._system = holder, system
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.holder is None:
            self._say(painter, "no holder as it stands")
            return
        shape = holder_shape(self.holder, None, _SHANK)
        widest = max(shape.nose, shape.body)
        self._fit(widest, _SHANK_SHOWN + shape.projection)
        half, top = _SHANK / 2, _SHANK_SHOWN + shape.projection
        shank = ((-half, 0.0), (half, 0.0), (half, _SHANK_SHOWN), (-half, _SHANK_SHOWN))
        self._outlines(
            painter, ((shank, "accent_soft"), (holder_outline(shape, _SHANK_SHOWN, shape.projection), "steel"))
        )
        self._across(painter, 0.0, _SHANK, "shank")
        edge = self.width() / 2 + self._scale * widest / 2
        self._up(painter, edge + 16, (_SHANK_SHOWN, top), "to the gauge line")
        face = self._at(0, _SHANK_SHOWN + 0.12 * shape.projection)
        self._label(painter, face, f"nose {units.DIMENSION.full(shape.nose, self._system)}")
        self._label(
            painter,
            self._at(0, top - 0.12 * shape.projection),
            f"body {units.DIMENSION.full(shape.body, self._system)}",
        )
