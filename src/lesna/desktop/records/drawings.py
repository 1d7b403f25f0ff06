"""Drawings beside a form: the tool to scale with its dimensions, and the curve of a machine while it is typed."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale, round_values
from lesna.desktop.widgets.painting import Canvas, label_plate, text_width
from lesna.geometry.elevation import Outline, tool_alone
from lesna.model import units
from lesna.model.library_records import Machine, Tool

_MARGIN = 34.0


class ToolDrawing(Canvas):
    """A tool from the side, to scale, its diameter and lengths as a drawing gives them."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The tool, to scale", parent)
        self.tool: Tool | None = None
        self._system: units.System = "metric"
        self.setMinimumSize(180, 220)

    def sizeHint(self) -> QSize:
        return QSize(270, 420)

    def show_tool(self, tool: Tool | None, system: units.System) -> None:
        """Draws a tool; None while what is typed makes none."""
        self.tool, self._system = tool, system
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.tool is None:
            painter.setPen(THEME.color("faint"))
            painter.setFont(self.face(12))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, "no tool as it stands"
            )
            return
        drawn = tool_alone(self.tool)
        half = max(x for outline in (drawn.flutes, drawn.body) for x, _ in outline)
        scale = min((self.width() - 3.4 * _MARGIN) / (2 * half), (self.height() - 2 * _MARGIN) / drawn.length)
        centre, floor = self.width() / 2, self.height() - _MARGIN

        def at(outline: Outline) -> QPolygonF:
            return QPolygonF([QPointF(centre + scale * x, floor - scale * y) for x, y in outline])

        for outline, role in ((drawn.body, "steel"), (drawn.flutes, "accent_soft")):
            painter.setPen(QPen(THEME.color("ink"), 1.2))
            painter.setBrush(THEME.color(role))
            painter.drawPolygon(at(outline))
        painter.setPen(QPen(THEME.color("faint"), 0.9))
        for line in drawn.helix_lines:
            painter.drawPolyline(at(line))
        self._dimension_across(painter, centre, floor, scale)
        for number, (name, length) in enumerate(
            (("APMX", self.tool.APMX), ("LU", self.tool.LU), ("OAL", self.tool.OAL))
        ):
            if length is not None:
                side = 1 if number % 2 else -1
                far = centre + side * (scale * half + 16 + (18 if number > 1 else 0))
                self._dimension_up(
                    painter, far, floor, scale * length, f"{name} {units.DIMENSION.text(length, self._system)}"
                )

    def _dimension_across(self, painter: QPainter, centre: float, floor: float, scale: float) -> None:
        assert self.tool is not None  # only a tool is dimensioned
        half, y = scale * self.tool.DC / 2, floor + 12
        painter.setPen(QPen(THEME.color("accent"), 1))
        painter.drawLine(QPointF(centre - half, y), QPointF(centre + half, y))
        for x in (centre - half, centre + half):
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        text = f"DC {units.DIMENSION.full(self.tool.DC, self._system)}"
        self._label(painter, QPointF(centre, y + 11), text)

    def _dimension_up(self, painter: QPainter, x: float, floor: float, high: float, text: str) -> None:
        painter.setPen(QPen(THEME.color("accent"), 1))
        painter.drawLine(QPointF(x, floor), QPointF(x, floor - high))
        for y in (floor, floor - high):
            painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
        painter.save()
        painter.translate(x, floor - high / 2)
        painter.rotate(-90)
        self._label(painter, QPointF(0, 0), text)
        painter.restore()

    def _label(self, painter: QPainter, centre: QPointF, text: str) -> None:
        face = self.face(11)
        width = text_width(face, text) + 8
        place = QRectF(centre.x() - width / 2, centre.y() - 8, width, 16)
        label_plate(painter, place, text, face, ink=THEME.color("accent"), plate=self.ground())


class CurveDrawing(Canvas):
    """Power over speed of a machine, by duty class, while its points are typed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Power over speed", parent)
        self.machine: Machine | None = None
        self._system: units.System = "metric"
        self.setMinimumSize(200, 160)

    def sizeHint(self) -> QSize:
        return QSize(270, 220)

    def show_machine(self, machine: Machine | None, system: units.System) -> None:
        """Draws a machine's curve; None while what is typed makes none."""
        self.machine, self._system = machine, system
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        painter.setFont(self.face(11))
        curve = None if self.machine is None else self.machine.curve
        if curve is None:
            painter.setPen(THEME.color("faint"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                             "no curve: power S1 and base speed count")  # fmt: skip
            return
        lines = {name: [(p.speed_rpm, p.power) for p in duty.points] for name, duty in curve.duty.items()}
        fast = max(speed for points in lines.values() for speed, _ in points)
        most = max(max(power for points in lines.values() for _, power in points), 1e-6)
        axes = Axes(
            QRectF(44, 22, self.width() - 58, self.height() - 58), Scale(0.0, max(fast, 1.0)), Scale(0.0, 1.1 * most)
        )
        self._paint_axes(painter, axes)
        for number, (name, points) in enumerate(lines.items()):
            style = Qt.PenStyle.SolidLine if name == "S1" else Qt.PenStyle.DashLine
            painter.setPen(QPen(THEME.color("ink" if number == 0 else "faint"), 1.6, style))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(QPolygonF([axes.at(speed, power) for speed, power in points]))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(THEME.color("accent"))
            for speed, power in points:
                painter.drawEllipse(axes.at(speed, power), 2.4, 2.4)

    def _paint_axes(self, painter: QPainter, axes: Axes) -> None:
        plot = axes.plot
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())
        painter.drawLine(plot.topLeft(), plot.bottomLeft())
        painter.setPen(THEME.color("faint"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        power = units.POWER
        shown = power.shown(axes.up.high, self._system)
        for value in round_values(0.0, shown, 4):
            y = axes.y(axes.up.high * value / shown)
            painter.drawText(QRectF(0, y - 8, 38, 16), right, f"{value:g}")
        for value in round_values(0.0, axes.across.high, 3):
            painter.drawText(QRectF(axes.x(value) - 30, plot.bottom() + 3, 60, 15), Qt.AlignmentFlag.AlignHCenter,
                             units.SPINDLE_SPEED.text(value, self._system))  # fmt: skip
        painter.drawText(QPointF(4, 13), f"{power.unit(self._system)}, solid S1, dashed S6")
        painter.drawText(
            QRectF(plot.left(), plot.bottom() + 18, plot.width(), 15), Qt.AlignmentFlag.AlignHCenter, "rpm"
        )
