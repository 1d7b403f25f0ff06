"""The rotary axes of a machine as a drawing: which turn the part and which the tool, about what, which way and how far."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.surfaces.eye import Eye
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, label_plate
from lesna.geometry.kinematics import Turning, kinematics_of
from lesna.model.library_records import Machine
from lesna.physics import Array

#: everything stands in a box of this half size; part, tool and axes over it [-]
_PART, _TOOL, _LONG, _ARC = 0.36, 0.09, 0.95, 0.26
_HEIGHT = 150
#: an arc shows so much of a travel without end [deg]
_SHOWN = 300.0
_EYE = Eye(-35.0, 24.0)


class AxesDrawing(Canvas):
    """A part, a tool over it, and the axes through both."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Rotary axes", parent)
        self.machine: Machine | None = None
        self.setFixedHeight(_HEIGHT)
        self.hide()

    def sizeHint(self) -> QSize:
        return QSize(270, _HEIGHT)

    def show_machine(self, machine: Machine | None) -> None:
        """Draws the axes of a machine; a machine without any takes no room."""
        self.machine = machine
        self.setVisible(machine is not None and bool(machine.rotary))
        self.update()

    def _at(self, places: Array) -> list[QPointF]:
        size = 0.85
        seen = _EYE.project(np.atleast_2d(places), np.full(3, -size), np.full(3, size), self.width(), self.height())
        return [QPointF(x + 0.14 * self.width(), y + 10) for x, y, _ in seen.tolist()]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        kinematics = None if self.machine is None else kinematics_of(self.machine)
        if kinematics is None:
            return
        self._box(painter, np.array((-_PART, -_PART, -0.42)), np.array((_PART, _PART, 0.0)), "stock")
        self._box(painter, np.array((-_TOOL, -_TOOL, 0.05)), np.array((_TOOL, _TOOL, 0.75)), "steel")
        for number, axis in enumerate(kinematics.axes):
            self._axis(painter, axis)
            self._words(painter, number, axis)

    def _box(self, painter: QPainter, low: Array, high: Array, role: str) -> None:
        """Its three faces that are seen."""
        (x0, y0, z0), (x1, y1, z1) = low, high
        faces = (
            ((x0, y0, z1), (x1, y0, z1), (x1, y1, z1), (x0, y1, z1)), ((x0, y0, z0), (x1, y0, z0), (x1, y0, z1), (x0, y0, z1)),
            ((x0, y0, z0), (x0, y1, z0), (x0, y1, z1), (x0, y0, z1)),
        )  # fmt: skip
        painter.setPen(QPen(THEME.color("ink"), 1.0))
        for shade, face in zip((100, 110, 125), faces, strict=True):
            painter.setBrush(THEME.color(role).darker(shade))
            painter.drawPolygon(QPolygonF(self._at(np.array(face))))

    def _axis(self, painter: QPainter, axis: Turning) -> None:
        """Its line, and an arrow round it the way in which it counts up."""
        direction = np.array(axis.direction)
        middle = np.array((0.0, 0.0, -0.2 if axis.is_table else 0.75))
        ends = self._at(np.stack((middle - _LONG * direction, middle + _LONG * direction)))
        # a table turns below the part, where no tool stands in its way
        side = -1.0 if axis.is_table and abs(direction[2]) > 0.9 else 1.0
        colour = THEME.color("accent" if axis.is_table else "ink")
        painter.setPen(QPen(colour, 1.2, Qt.PenStyle.DashDotLine))
        painter.drawLine(*ends)
        low, high = (axis.low, axis.high) if np.isfinite(axis.low) else (0.0, _SHOWN)
        across = np.cross(direction, (0.0, 0.0, 1.0) if abs(direction[2]) < 0.9 else (1.0, 0.0, 0.0))
        across /= np.linalg.norm(across)
        beside = np.cross(direction, across)
        angle = np.radians(np.linspace(low, high, 40))[:, None]
        ring = middle + side * 0.75 * _LONG * direction + _ARC * (np.cos(angle) * across + np.sin(angle) * beside)
        painter.setPen(QPen(colour, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(self._at(ring)))
        tangent = -np.sin(angle[-1]) * across + np.cos(angle[-1]) * beside
        outward = np.cos(angle[-1]) * across + np.sin(angle[-1]) * beside
        tip = self._at(np.stack((ring[-1] + 0.12 * tangent, ring[-1] + 0.07 * outward, ring[-1] - 0.07 * outward)))
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF(tip))
        self._label(painter, axis, ends[1 if side > 0 else 0])

    def _label(self, painter: QPainter, axis: Turning, end: QPointF) -> None:
        face = self.face(11, bold=True)
        plate = QRectF(end.x() - 8, min(end.y() - 8, self.height() - 17.0), 16.0, 16.0)
        label_plate(painter, plate, axis.letter, face, ink=THEME.color("ink"), plate=THEME.color("panel"))

    def _words(self, painter: QPainter, number: int, axis: Turning) -> None:
        travel = f"{axis.low:g}° to {axis.high:g}°" if np.isfinite(axis.low) else "without end"
        painter.setPen(THEME.color("faint"))
        painter.setFont(self.face(10.5))
        for row, words in enumerate((f"{axis.letter} turns the {'table' if axis.is_table else 'head'}", travel)):
            place = QRectF(4, 4 + 40 * number + 15 * row, self.width() - 8, 15)
            painter.drawText(place, Qt.AlignmentFlag.AlignLeft, words)
