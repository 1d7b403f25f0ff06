"""Area over slope, face by face, with the threshold as a line that is dragged: what it cuts off stands beside it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, Chart
from lesna.desktop.widgets.painting import label_plate, text_width
from lesna.model import units
from lesna.planning.surface.decide import Decision

#: faces that have a shade of their own; the others share the last
_SHADES = 7
#: pixels from the line within which it is taken hold of
_NEAR = 9
_LOWEST, _HIGHEST = 1.0, 89.0


class SlopeChart(Chart):
    """Bars of area by degree of slope."""

    #: the threshold was dragged to, or typed by the arrow keys [deg]
    moved = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__("Area by slope")
        self.session = session
        self.setMinimumHeight(96)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(
            "Drag the line, or use the arrow keys: what the threshold cuts off its faces is told as it moves"
        )
        self.decision: Decision | None = None
        self._dragged: float | None = None

    def show_decision(self, decision: Decision | None) -> None:
        """Another part, or other decisions for it."""
        self.decision, self._dragged = decision, None
        self.update()

    @property
    def threshold(self) -> float | None:
        """Where the line stands [deg]."""
        if self._dragged is not None:
            return self._dragged
        return None if self.decision is None else self.decision.threshold

    def axes(self) -> Axes:
        """Degrees across, area up; small areas are seen beside a large plane."""
        plot = QRectF(46, 20, max(self.width() - 58, 20), max(self.height() - 56, 20))
        most = 1.0
        if self.decision is not None:
            most = float(np.sqrt(self.decision.ground_faces.by_degree.sum(axis=0).max()))
        return Axes(plot, Scale(0.0, 90.0), Scale(0.0, max(most, 1e-6)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.decision is not None:
            self._to(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() and self.decision is not None:
            self._to(event.position())

    def _to(self, place: QPointF) -> None:
        value, _ = self.axes().values_at(place)
        self._dragged = float(np.clip(round(value), _LOWEST, _HIGHEST))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self.moved.emit(self._dragged)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1.0, Qt.Key.Key_Right: 1.0}.get(Qt.Key(event.key()))
        if step is None or self.decision is None:
            super().keyPressEvent(event)
            return
        at = self.threshold if self.threshold is not None else 45.0
        self._dragged = float(np.clip(at + step, _LOWEST, _HIGHEST))
        self.moved.emit(self._dragged)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.decision is None:
            self.say(painter, "Area by slope")
            return
        axes = self.axes()
        image = self.still((id(self.decision), self.session.system), lambda p: self._bars(p, axes))
        painter.drawImage(0, 0, image)
        self._line(painter, axes)

    def _bars(self, p: QPainter, axes: Axes) -> None:
        assert self.decision is not None  # looked at before
        by_degree = self.decision.ground_faces.by_degree
        shades = np.minimum(np.arange(len(by_degree)), _SHADES - 1)
        foot = np.zeros(90)
        p.setPen(Qt.PenStyle.NoPen)
        for face, areas in enumerate(by_degree):
            top = foot + areas
            p.setBrush(temper(0.12 + 0.8 * shades[face] / _SHADES))
            for k in np.flatnonzero(areas > 0).tolist():
                # heights by the root of the whole, shared in it as the areas are
                low, high = (float(v[k] / np.sqrt(max(by_degree[:, k].sum(), 1e-12))) for v in (foot, top))
                left, right = axes.x(k), axes.x(k + 1)
                p.drawRect(QRectF(left, axes.y(high), max(right - left - 0.6, 0.6), axes.y(low) - axes.y(high)))
            foot = top
        self.frame(p, axes.plot, foot_only=True)
        self.ticks_across(p, axes, [(v, f"{v:g}°") for v in range(0, 91, 15)])
        self.title_across(p, axes.plot, "slope; height by the root of the area, shaded by face")

    def _line(self, p: QPainter, axes: Axes) -> None:
        at, decision = self.threshold, self.decision
        if at is None or decision is None:
            return
        x = axes.x(at)
        used = decision.chosen.threshold_counts or self._dragged is not None
        p.setPen(QPen(THEME.color("accent"), 1.8, Qt.PenStyle.SolidLine if used else Qt.PenStyle.DashLine))
        p.drawLine(QPointF(x, axes.plot.top() - 6), axes.at(at, 0.0))
        k = int(np.clip(round(at), 0, 90))
        split = decision.split
        count = int(split.cut_faces[k])
        length = units.DIMENSION.text(round(float(split.seam[k])), self.session.system)
        unit = units.DIMENSION.unit(self.session.system)
        told = f"{at:g}°: {100 * float(split.cut_area[k]):.1f} % cut off {count} {'face' if count == 1 else 'faces'}, seam {length} {unit}"
        path = float(split.path[k])
        if np.isfinite(path):
            told += f", path {units.ROUGH_LENGTH.full(path, self.session.system)}"
        face = self.face(SMALL, bold=True)
        width = text_width(face, told) + 12
        left = min(max(x - width / 2, axes.plot.left()), axes.plot.right() - width)
        label_plate(p, QRectF(left, 1, width, 17), told, face, ink=THEME.color("ink"), plate=THEME.color("accent_soft"))
