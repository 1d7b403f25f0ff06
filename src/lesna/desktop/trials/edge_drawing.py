"""The edge of the chosen tool, drawn to its own proportions: where wear sits is clicked, or chosen with the arrow keys."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.chart import SMALL
from lesna.desktop.widgets.painting import Canvas, hatch
from lesna.model.trials import WEAR_ZONES, WearZone

#: order in which the arrow keys go through the places, from the tip up
_ORDER: tuple[WearZone, ...] = ("tip", "corner", "flute", "depth_line", "gullet")
#: how far a place reaches [px]
_REACH = 11.0
#: height of a name, and how far it is moved before a line leads to its place [px]
_LINE, _MOVED = 15.0, 4.0


class EdgeDrawing(Canvas):
    """One flute from the side, the depth of this cut on it; `chosen` tells the place."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__("Place of the wear on the edge")
        self.session = session
        self.zone: WearZone | None = None
        self.setMinimumSize(172, 150)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Click where the wear sits, or go through the places with the arrow keys")
        session.result_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(178, 210)

    def show_zone(self, zone: WearZone | None) -> None:
        """Marks a place."""
        self.zone = zone
        self.update()

    def _choose(self, zone: WearZone) -> None:
        self.show_zone(zone)
        self.chosen.emit(zone)

    # ------------------------------------------------------------ shape

    def _outline(self) -> tuple[QRectF, float, float]:
        """The flute's rectangle on the widget, its corner radius and the height of the depth line [px]."""
        parts = self.session.result.setup.parts
        tool, ap = parts.tool, float(self.session.result.state.ap)
        deep = max(min(tool.edge_depth, 3.0 * tool.DC), ap * 1.15)
        room = QRectF(16, 12, self.width() * 0.34, self.height() - 34)
        scale = min(room.width() / (tool.DC / 2), room.height() / deep)
        wide, high = max(tool.DC / 2 * scale, 30.0), max(deep * scale, 60.0)
        wide, high = min(wide, room.width()), min(high, room.height())
        body = QRectF(room.left(), room.bottom() - high, wide, high)
        round_ = min(tool.corner / tool.DC * 2 * wide, wide, high) if tool.corner else 3.0
        return body, round_, body.bottom() - min(ap / deep, 1.0) * high

    def _places(self) -> dict[WearZone, QPointF]:
        body, round_, line = self._outline()
        side = body.right()
        turn = round_ * 0.29
        return {
            "tip": QPointF(body.left() + body.width() * 0.35, body.bottom()),
            "corner": QPointF(side - turn, body.bottom() - turn),
            "flute": QPointF(side, (line + body.bottom() - round_) / 2),
            "depth_line": QPointF(side, line),
            "gullet": QPointF(body.left() + body.width() * 0.35, (line + body.bottom()) / 2),
        }

    # ------------------------------------------------------------ painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        body, round_, line = self._outline()
        shape = QPainterPath(body.topLeft())
        shape.lineTo(body.topRight())
        shape.lineTo(body.right(), body.bottom() - round_)
        shape.arcTo(QRectF(body.right() - 2 * round_, body.bottom() - 2 * round_, 2 * round_, 2 * round_), 0, -90)
        shape.lineTo(body.bottomLeft())
        shape.closeSubpath()
        painter.setPen(QPen(THEME.color("ink"), 1.3))
        painter.setBrush(THEME.color("steel"))
        painter.drawPath(shape)
        # the work on the far side, as deep as it is cut
        work = QRectF(body.right() + 1, line, 12, body.bottom() - line)
        painter.fillRect(work, hatch(THEME.color("stock")))
        painter.setPen(QPen(THEME.color("faint"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(body.left() - 6, line), QPointF(body.right() + 20, line))
        painter.setPen(QPen(THEME.color("faint"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(body.topLeft(), body.bottomLeft() + QPointF(0, 8))
        self._paint_places(painter)
        if self.hasFocus():
            painter.setPen(QPen(THEME.color("accent"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def _paint_places(self, painter: QPainter) -> None:
        painter.setFont(self.face(SMALL))
        side, places = self._outline()[0].right(), self._places()
        for zone, name in self.names().items():
            is_chosen, place = zone == self.zone, places[zone]
            painter.setPen(QPen(THEME.color("accent" if is_chosen else "faint"), 1.8 if is_chosen else 1.0))
            painter.setBrush(THEME.color("accent") if is_chosen else THEME.color("panel"))
            painter.drawEllipse(place, 5.5 if is_chosen else 4.0, 5.5 if is_chosen else 4.0)
            if abs(name.center().y() - place.y()) > _MOVED:
                painter.setPen(QPen(THEME.color("faint"), 1))
                painter.drawLine(QPointF(side + 14, place.y()), QPointF(name.left() - 2, name.center().y()))
            painter.setPen(THEME.color("accent" if is_chosen else "ink"))
            painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, WEAR_ZONES[zone])

    def names(self) -> dict[WearZone, QRectF]:
        """Where the names of the places stand, from above down: one under the other, and none below the drawing [px]."""
        places = sorted(self._places().items(), key=lambda item: item[1].y())
        heights: list[float] = []
        for _, place in places:
            heights.append(max(place.y(), heights[-1] + _LINE) if heights else place.y())
        lowest = self.height() - _LINE / 2
        for k in reversed(range(len(heights))):
            heights[k] = min(heights[k], lowest)
            lowest = heights[k] - _LINE
        left = self._outline()[0].right() + 24
        return {
            zone: QRectF(left, height - _LINE / 2, self.width() - left, _LINE)
            for (zone, _), height in zip(places, heights, strict=True)
        }

    # ------------------------------------------------------------ hand and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        near = {zone: (place - at).manhattanLength() for zone, place in self._places().items()}
        zone = min(near, key=lambda zone: near[zone])
        if near[zone] <= 3 * _REACH:
            self._choose(zone)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: 1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_Left: -1}.get(
            Qt.Key(event.key()), 0
        )
        if not step:
            super().keyPressEvent(event)
            return
        place = _ORDER.index(self.zone) + step if self.zone in _ORDER else (0 if step > 0 else -1)
        self._choose(_ORDER[place % len(_ORDER)])

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()
