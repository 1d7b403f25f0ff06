"""One tooth seen from above: the engaged arc and the chip, its thickness exaggerated."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.painting import Canvas, hatch, text_width
from lesna.model import units
from lesna.physics.edge.chip import thickness_at
from lesna.physics.edge.engagement import entry_exit

#: the thickest chip is drawn as this share of the radius
_DRAWN_THICKNESS = 0.24
_ARC_STEPS = 20


class ToothView(Canvas):
    """The cutter turning clockwise and feeding to the right through the stock."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("One tooth, seen from above", parent)
        self.session = session
        self.setMinimumSize(170, 130)
        session.result_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(230, 170)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        area = QRectF(0, 0, self.width(), self.height() - 18)
        radius = min(area.height() * 0.40, area.width() * 0.30)
        centre = QPointF(area.width() * 0.40, area.center().y())
        self._paint_stock(painter, centre, radius, area)
        self._paint_cutter(painter, centre, radius)
        scale = self._paint_chip(painter, centre, radius)
        self._paint_words(painter, centre, area, scale)

    def _flip(self) -> float:
        """Down milling has the stock below, up milling above; y of the screen grows downwards."""
        return 1.0 if self.session.cut.direction == "down" else -1.0

    def _paint_stock(self, painter: QPainter, centre: QPointF, radius: float, area: QRectF) -> None:
        x = float(self.session.result.state.x)
        flip = self._flip()
        wall = centre.y() + flip * radius
        top = wall - flip * 2 * radius * min(x, 1.0)
        edge = area.bottom() if flip > 0 else area.top()
        stock = QPolygonF([
            QPointF(area.left(), wall), QPointF(centre.x(), wall), QPointF(centre.x(), top), QPointF(area.right(), top),
            QPointF(area.right(), edge), QPointF(area.left(), edge),
        ])  # fmt: skip
        ink = THEME.color("ink")
        ink.setAlpha(50)
        painter.setPen(QPen(THEME.color("faint"), 1))
        for brush in (THEME.color("stock"), hatch(ink, 6)):
            painter.setBrush(brush)
            painter.drawPolygon(stock)

    def _paint_cutter(self, painter: QPainter, centre: QPointF, radius: float) -> None:
        setup = self.session.result.setup
        painter.setPen(QPen(THEME.color("ink"), 1.4))
        painter.setBrush(self.ground())  # what it has swept is cut away
        painter.drawEllipse(centre, radius, radius)
        chips = self.session.result.turn.chips
        nominal = max(float(chips.mean()), 1e-12)
        first = self._angles()[1] - math.radians(12.0)
        most = setup.chip.most or self.session.result.state.hex or 1e-9
        for place, chip in zip(setup.cutter.places, chips, strict=False):
            phi = first - float(place)
            painter.setPen(QPen(THEME.color("ink"), 1.4))
            painter.drawLine(self._on(centre, radius, phi), self._on(centre, 0.8 * radius, phi))
            # the thickest chip of each tooth beside it: with runout they differ
            painter.setPen(QPen(temper(float(chip) / most), 4))
            length = 0.16 * radius * min(float(chip) / nominal, 2.0)
            if length > 0.5:
                painter.drawLine(self._on(centre, 0.76 * radius, phi), self._on(centre, 0.76 * radius - length, phi))

    def _angles(self) -> tuple[float, float]:
        state = self.session.result.state
        start, end = entry_exit(state.phi_s, self.session.cut.direction)
        return float(start), float(end)

    @staticmethod
    def _on(centre: QPointF, radius: float, phi: float) -> QPointF:
        """A place on the cutter: phi from the upward normal, clockwise."""
        return QPointF(centre.x() + radius * math.sin(phi), centre.y() - radius * math.cos(phi))

    def _paint_chip(self, painter: QPainter, centre: QPointF, radius: float) -> float:
        """Draws the chip and gives the exaggeration."""
        result = self.session.result
        s, R = result.state, result.state.d_eff / 2
        start, end = self._angles()
        steps = np.linspace(start, end, _ARC_STEPS + 1)
        chips = np.maximum(thickness_at(steps, s.fz, R, s.z), 0.0)
        thickest = float(chips.max()) or 1e-9
        most = result.setup.chip.most or s.hex or 1e-9
        rim, root = (
            [QPointF(x, y) for x, y in zip((centre.x() + r * np.sin(steps)).tolist(),
                                           (centre.y() - r * np.cos(steps)).tolist(), strict=True)]
            for r in (radius, radius * (1 - _DRAWN_THICKNESS * chips / thickest))
        )  # fmt: skip
        shares = ((chips[1:] + chips[:-1]) / 2 * s.s_top / most).tolist()
        for k, share in enumerate(shares):
            colour = temper(share)
            painter.setPen(QPen(colour, 0.5))
            painter.setBrush(colour)
            painter.drawPolygon(QPolygonF([rim[k], rim[k + 1], root[k + 1], root[k]]))
        painter.setPen(QPen(THEME.color("ink"), 0.8, Qt.PenStyle.DotLine))
        for phi in (start, end):
            painter.drawLine(centre, self._on(centre, radius, phi))
        return _DRAWN_THICKNESS * R / thickest

    def _paint_words(self, painter: QPainter, centre: QPointF, area: QRectF, scale: float) -> None:
        s, system = self.session.result.state, self.session.system
        painter.setPen(THEME.color("ink"))
        painter.setFont(self.face(14, bold=True))
        box = QRectF(centre.x() - 40, centre.y() - (22 if self._flip() > 0 else 0), 80, 22)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{math.degrees(s.phi_s):.1f}°")
        painter.setFont(self.face(10.5))
        painter.setPen(THEME.color("faint"))
        y = area.top() + 12 if self._flip() > 0 else area.bottom() - 6
        painter.drawText(QPointF(area.right() - 50, y), "feed →")
        words: tuple[str, ...] = (
            f"hex {units.CHIP.full(s.hex, system)}",
            f"hm {units.CHIP.full(s.hm, system)}",
            f"worst tooth {self.session.result.overload:+.0%}",
            f"chip drawn {scale:.0f} ×",
        )
        while len(words) > 1 and text_width(self.face(10.5), "   ".join(words)) > self.width():
            words = words[1:]  # the figures stand in other places too, the scale only here
        text = "   ".join(words)
        painter.drawText(QRectF(0, area.bottom() + 2, self.width(), 16), Qt.AlignmentFlag.AlignLeft, text)
