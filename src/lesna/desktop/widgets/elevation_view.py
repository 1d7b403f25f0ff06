"""The tool in its holder against the part, to scale; the holder face and the depth are dragged."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, hatch, label_plate, text_width
from lesna.geometry.elevation import Elevation, Height, Shape, What, elevation_of
from lesna.model import units
from lesna.model.errors import InputError

_GRAB = 9.0
#: the tip is drawn bent by this share of the diameter
_BENT_SHARE = 0.3
_LABEL_ROOM = 40.0
_ROLES: dict[What, str] = {"part": "stock", "holder": "steel", "shank": "field", "flutes": "field"}


class ElevationView(Canvas):
    """Draws the elevation; the two dimension lines are handles."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Tool in its holder, to scale; drag the holder face or the depth", parent)
        self.session = session
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(190, 240)
        self._held = ""
        self._frozen: tuple[float, float, float, float] | None = None
        self._view: Elevation | None = None
        session.result_changed.connect(self._on_result)

    def sizeHint(self) -> QSize:
        return QSize(300, 420)

    # ------------------------------------------------------------ geometry

    def view(self) -> Elevation:
        """What is drawn, made once for each Result."""
        if self._view is None:
            self._view = elevation_of(self.session.result.setup.parts)
        return self._view

    def _on_result(self) -> None:
        self._view = None
        self.update()

    def _bounds(self) -> tuple[float, float, float, float]:
        """What the drawing spans; it does not rescale under the hand that drags."""
        return self._frozen or self.view().bounds

    def _scale(self) -> float:
        left, bottom, right, top = self._bounds()
        room = QRectF(0, 0, self.width() - 2 * _LABEL_ROOM, self.height() - 24)
        return min(room.width() / (right - left), room.height() / (top - bottom))

    def at(self, x: float, y: float) -> QPointF:
        """Where a point of the drawing is on the widget."""
        left, bottom, right, top = self._bounds()
        scale = self._scale()
        return QPointF(
            self.width() / 2 + scale * (x - (left + right) / 2), self.height() / 2 - scale * (y - (bottom + top) / 2)
        )

    def height_at(self, y: float) -> float:
        """Height above the tool tip of a place on the widget [mm]."""
        _, bottom, _, top = self._bounds()
        return (self.height() / 2 - y) / self._scale() + (bottom + top) / 2

    def handle(self, name: str) -> QPointF:
        """Middle of a handle: ``stick_out`` or ``ap``."""
        cut = self.session.result.setup.parts.cut
        left, _, right, _ = self._bounds()
        return self.at(left, cut.stick_out_mm) if name == "stick_out" else self.at(right, cut.ap_mm)

    def _handle_near(self, place: QPointF) -> str:
        for name in ("ap", "stick_out"):
            if abs(self.handle(name).y() - place.y()) <= _GRAB:
                wants_left = name == "stick_out"
                if (place.x() < self.width() / 2) == wants_left:
                    return name
        return ""

    # ------------------------------------------------------------ dragging

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = self._handle_near(event.position())
        self.setFocus()
        if self._held:
            self._frozen = self.view().bounds
            self.session.begin_gesture()
            self.session.is_dragging = True

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held and self.session.is_dragging:
            self.drag_to(self._held, self.height_at(event.position().y()))
        near = self._held or self._handle_near(event.position())
        self.setCursor(Qt.CursorShape.SizeVerCursor if near else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held, self._frozen = "", None
            self.session.end_drag()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: 0.5, Qt.Key.Key_Down: -0.5}.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self._held:
            self._held, self._frozen = "", None
            self.session.give_up_drag()
            return
        if step is None:
            super().keyPressEvent(event)
            return
        if not event.isAutoRepeat():
            self.session.begin_gesture()
        name = "ap" if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else "stick_out"
        now = self.session.cut.ap_mm if name == "ap" else self.session.cut.stick_out_mm
        self.drag_to(name, now + step)

    def drag_to(self, name: str, height: float) -> None:
        """Sets stick-out or depth to a height, kept to what tool and holder allow [mm]."""
        parts = self.session.result.setup.parts
        cut, tool = parts.cut, parts.tool
        if f"{name}_mm" in cut.locks:
            word = "depth" if name == "ap" else "stick-out"
            self.session.say("note", f"the {word} is held; free it on the step Cut to move it")
            return
        if name == "ap":
            top = min(tool.usable_length, cut.stick_out_mm)
            label, values = "Change the depth", {"ap_mm": round(min(max(height, 0.01 * tool.DC), top), 2)}
        else:
            longest = tool.OAL if tool.OAL is not None and tool.kind != "face" else 10 * tool.DC
            label, values = "Change the stick-out", {"stick_out_mm": round(min(max(height, cut.ap_mm), longest), 1)}
        try:
            self.session.edit_cut(label, gesture=True, **values)
        except InputError as error:
            self.session.say("note", error.message)

    # ------------------------------------------------------------ painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        view = self.view()
        for shape in view.shapes:
            self._fill(painter, shape)
        painter.setPen(QPen(THEME.color("ink"), 0.8))
        for a, b in view.helix_lines:
            painter.drawLine(self.at(*a), self.at(*b))
        centre = QPen(THEME.color("faint"), 0.8, Qt.PenStyle.DashDotLine)
        painter.setPen(centre)
        _, bottom, _, top = self._bounds()
        painter.drawLine(self.at(0, bottom), self.at(0, top))
        self._paint_bent(painter)
        for height in view.heights:
            self._paint_dimension(painter, height)

    def _paint_bent(self, painter: QPainter) -> None:
        """The axis under the peak force, exaggerated so that the tip moves by a share of the diameter."""
        result = self.session.result
        bar, state = result.setup.structure.beam, result.state
        z = np.linspace(0.0, bar.length, 24)
        bend = state.fxy_peak * bar.compliance(z, min(state.height, bar.length))
        factor = _BENT_SHARE * result.setup.shape.DC / max(float(bend[0]), 1e-9)
        points = [self.at(-factor * float(d), float(h)) for d, h in zip(bend, z, strict=True)]
        painter.setPen(QPen(THEME.color("alarm"), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(points))
        text = f"tip bends {units.SMALL.full(state.deflection, self.session.system)}, drawn {factor:.0f} ×"
        face = self.face(10.5)
        width = text_width(face, text) + 8
        place = QRectF(self.width() / 2 - width / 2, self.height() - 16, width, 16)
        label_plate(painter, place, text, face, ink=THEME.color("alarm"), plate=THEME.color("panel"))

    def _fill(self, painter: QPainter, shape: Shape) -> None:
        left, bottom, right, top = self._bounds()
        scale = self._scale()
        across, up = self.width() / 2 - scale * (left + right) / 2, self.height() / 2 + scale * (bottom + top) / 2
        polygon = QPolygonF([QPointF(across + scale * x, up - scale * y) for x, y in shape.outline])
        painter.setPen(QPen(THEME.color("ink"), 1.2))
        painter.setBrush(THEME.color(_ROLES[shape.what]))
        painter.drawPolygon(polygon)
        # cut material is hatched, the edges shine
        ink, edges = THEME.color("ink"), THEME.color("amber")
        ink.setAlpha(45)
        edges.setAlpha(70)
        if shape.what in ("part", "flutes"):
            painter.setBrush(hatch(ink, 6) if shape.what == "part" else edges)
            painter.drawPolygon(polygon)

    def _paint_dimension(self, painter: QPainter, height: Height) -> None:
        left, _, right, _ = self._bounds()
        side, text = height.side, height.text(self.session.system)
        x = left if side < 0 else right
        low, top = self.at(x, height.low), self.at(x, height.high)
        px = low.x() + side * 12
        painter.setPen(QPen(THEME.color("accent"), 1.2))
        for y in (low.y(), top.y()):
            painter.drawLine(QPointF(px - 5, y), QPointF(px + 5, y))
        painter.drawLine(QPointF(px, low.y()), QPointF(px, top.y()))
        painter.setBrush(THEME.color("accent"))
        painter.drawEllipse(QPointF(px, top.y()), 4.5, 4.5)
        face = self.face(12, bold=True)
        width = text_width(face, text) + 8
        painter.save()
        if side < 0:  # along the line, where a drawing writes it
            painter.translate(px - 13, (low.y() + top.y()) / 2)
            painter.rotate(-90)
            place = QRectF(-width / 2, -9, width, 18)
        else:
            place = QRectF(min(px - width / 2, self.width() - width - 1), top.y() - 27, width, 18)
        label_plate(painter, place, text, face, ink=THEME.color("accent"), plate=THEME.color("panel"))
        painter.restore()
