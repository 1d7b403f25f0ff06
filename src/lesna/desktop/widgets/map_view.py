"""The engagement map: stepover across, depth up, and the point that is dragged."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QHideEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QShowEvent,
)
from PySide6.QtWidgets import QPushButton, QToolTip, QWidget

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.map_picture import PLAIN_VOLUME, Layer, MapPicture
from lesna.desktop.point import Point
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.axes import Axes, Scale, round_values
from lesna.desktop.widgets.chart import Chart
from lesna.desktop.widgets.painting import hatch, label_plate, text_width
from lesna.model import names, units
from lesna.physics import Array
from lesna.planning.cut.features import volume
from lesna.planning.cut.life import law_of
from lesna.planning.cut.limits import BY_ID

_MARGIN_LEFT, _MARGIN_RIGHT, _MARGIN_TOP, _MARGIN_BOTTOM = 76.0, 18.0, 32.0, 40.0
#: ink on the coloured map, which is the same by day and by night
_GRAPHITE = QColor("#1F2B36")
#: one nudge, and one fine nudge, as a share of the diameter
_NUDGE, _FINE = 0.01, 0.001
_LINE_COLOURS = (
    "#7A3B22", "#5B3F78", "#2F5B93", "#6B5A16", "#8C4A52", "#37624A", "#54432F", "#3B5560", "#70326B", "#0B5A60",
    "#9A3B1E", "#44506A", "#7A6A2A", "#5A2E2E",
)  # fmt: skip


#: what the colours tell: name, quantity, and the layer of the picture that holds it
COLOURS: dict[str, tuple[str, units.Quantity, str]] = {
    "removal": ("removal", units.REMOVAL, "removal"),
    "equal": ("removal at equal edge life", units.REMOVAL, "removal"),
    "life": ("edge life", units.LONG_MINUTES, "life"),
    "cost": ("cost in the cut", units.MONEY, "cost"),
    "heat": ("heat of the edge over the tables' own", units.SHARE, "heat"),
}


class MapView(Chart):
    """The map of the chosen cut; drags, nudges and B change its stepover and depth, M what its colours tell."""

    def __init__(self, session: Session, answers: CutAnswers, parent: QWidget | None = None) -> None:
        super().__init__("Engagement map: stepover across, depth up", parent)
        self.session, self.answer = session, answers.map
        self.point = Point(session, answers)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(330, 220)
        self._drag_q: float | None = None
        self._axes: Axes | None = None
        self._axes_key: tuple[float, ...] = ()
        #: where the numbers under and beside the plot stand
        self._numbers: tuple[list[QRectF], list[QRectF]] = ([], [])
        self._answers = answers
        self.colour = QPushButton(self)
        self.colour.setObjectName("link")
        self.colour.setToolTip("What the colours tell; M goes on to the next")
        self.colour.setAccessibleName("What the colours of the map tell")
        self.colour.clicked.connect(lambda checked=False: self.next_colour())
        self.answer.changed.connect(self._on_changed)
        self.answer.progressed.connect(self.update)
        session.result_changed.connect(self._on_changed)

    # ------------------------------------------------------------ what the colours tell

    @property
    def told(self) -> str:
        """What the colours tell; removal where a map does not know what was chosen."""
        wanted, picture = self._answers.colour, self.picture
        return wanted if picture is None or COLOURS[wanted][2] in picture.layers else "removal"

    def next_colour(self) -> None:
        """Goes on to the next thing that the colours of this map can tell."""
        known = {"removal"} if self.picture is None else set(self.picture.layers)
        law = law_of(self.session.result.setup)
        ids = [id for id, (_, _, layer) in COLOURS.items() if layer in known and (id != "equal" or law is not None)]
        place = ids.index(self.told) if self.told in ids else -1
        self._answers.colour_map(ids[(place + 1) % len(ids)])
        self._on_changed()

    def _on_changed(self) -> None:
        told, setup = self.told, self.session.result.setup
        words = f"Colour (M): {COLOURS[told][0]}"
        law = law_of(setup)
        if told == "cost":
            words += f" of {PLAIN_VOLUME:g} cm³" if volume(setup.parts.cut.feature) is None else ", a part"
        if told == "equal" and law is not None:
            words += (
                f", {units.LONG_MINUTES.full(setup.parts.cut.life_min_wanted or law.life_ref, self.session.system)}"
            )
        self.colour.setText(words)
        self.colour.adjustSize()
        self.colour.move(int(_MARGIN_LEFT) - 4, 3)
        self.update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.answer.watch(self, True)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.answer.watch(self, False)

    def sizeHint(self) -> QSize:
        return QSize(520, 430)

    # ------------------------------------------------------------ what is drawn

    @property
    def picture(self) -> MapPicture | None:
        """The map of the cut as it stands, once it is there."""
        picture: MapPicture | None = self.answer.value
        return picture

    @property
    def former(self) -> MapPicture | None:
        """The map of this cut before it changed, for as long as the new one is computed and its axes are the same."""
        if self.answer.value is not None or self.answer.former is None:
            return None
        address, picture = self.answer.former
        setup = self.session.result.setup
        is_alike = address.cut == self.session.cut.id and address.job == self.session.job_number
        return picture if is_alike and (picture.DC, picture.depth_top) == (setup.shape.DC, setup.depth_top) else None

    # ------------------------------------------------------------ coordinates

    def plot(self) -> QRectF:
        """The rectangle between the axes."""
        return QRectF(
            _MARGIN_LEFT, _MARGIN_TOP, self.width() - _MARGIN_LEFT - _MARGIN_RIGHT,
            self.height() - _MARGIN_TOP - _MARGIN_BOTTOM,
        )  # fmt: skip

    def axes(self) -> Axes:
        """Stepover across and depth up [mm]."""
        setup = self.session.result.setup
        key = (self.width(), self.height(), setup.shape.DC, setup.depth_top)
        # asked for at every line of every repaint, and the same all through a drag
        if self._axes is None or self._axes_key != key:
            self._axes = Axes(self.plot(), Scale(0.0, setup.shape.DC), Scale(0.0, setup.depth_top))
            self._axes_key = key
        return self._axes

    def at(self, ae: float, ap: float) -> QPointF:
        """Where a point of the map is on the widget."""
        return self.axes().at(ae, ap)

    def engagement_at(self, place: QPointF) -> tuple[float, float]:
        """Stepover and depth under a place on the widget, kept on the map [mm]."""
        setup = self.session.result.setup
        ae, ap = self.axes().values_at(place)
        least = 0.001 * setup.shape.DC
        return min(max(ae, least), setup.shape.DC), min(max(ap, least), setup.depth_top)

    # ------------------------------------------------------------ moving the point

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.plot().adjusted(-8, -8, 8, 8).contains(
            event.position()
        ):
            self.setFocus()
            self.session.begin_gesture()
            self.session.is_dragging = True
            self._drag_q = self.session.result.state.q
            self._follow(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.session.is_dragging and event.buttons() & Qt.MouseButton.LeftButton:
            self._follow(event)
        elif self.plot().contains(event.position()):
            self._tell(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.session.end_drag()

    def _follow(self, event: QMouseEvent) -> None:
        ae, ap = self.engagement_at(event.position())
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._drag_q:
            # where one of the two is held, the removal stays only where the point is
            is_held = bool({"ae_mm", "ap_mm"} & set(self.session.cut.locks))
            depth = None if is_held or self.picture is None else self.picture.depth_for(ae, self._drag_q)
            if depth is None:
                return
            ap = depth
        self.point.move_to(ae, ap)

    def _tell(self, place: QPointF) -> None:
        """Says what is at a place of the map."""
        picture = self.picture
        if picture is None:
            return
        ae, ap = self.engagement_at(place)
        name, use = picture.holding_back(ae, ap)
        system = self.session.system
        told = [f"{units.REMOVAL.full(picture.value_at('removal', ae, ap), system)}"]
        word, quantity, layer = COLOURS[self.told]
        if layer != "removal":
            told.append(f"{word} {quantity.full(picture.value_at(layer, ae, ap), system)}")
        text = (
            f"ae {units.LENGTH.full(ae, system)}, ap {units.LENGTH.full(ap, system)}: "
            f"{', '.join(told)}, {name.lower()} {use:.0%}"
        )
        QToolTip.showText(self.mapToGlobal(place.toPoint()), text, self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1),
        }  # fmt: skip
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape and self.session.is_dragging:
            self.session.give_up_drag()
        elif key == Qt.Key.Key_Space:
            # what the pointer tells under it, for the point
            self._tell(self.at(self.session.cut.ae_mm, self.session.cut.ap_mm))
        elif key == Qt.Key.Key_M:
            self.next_colour()
        elif key in steps:
            if not event.isAutoRepeat():
                self.session.begin_gesture()
            self._nudge(*steps[key], fine=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            super().keyPressEvent(event)

    def _nudge(self, across: int, up: int, *, fine: bool) -> None:
        setup, cut = self.session.result.setup, self.session.cut
        step = setup.shape.DC * (_FINE if fine else _NUDGE)
        ae = min(max(cut.ae_mm + across * step, step if fine else _FINE * setup.shape.DC), setup.shape.DC)
        ap = min(max(cut.ap_mm + up * step, _FINE * setup.shape.DC), setup.depth_top)
        self.point.move_to(ae, ap)

    # ------------------------------------------------------------ painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        setup = self.session.result.setup
        key = (id(self.picture), id(self.former), self.session.cut.id, self.session.system, self.session.cut.strategy,
               setup.shape.DC, setup.depth_top, self.told)  # fmt: skip
        painter.drawImage(QPointF(0, 0), self.still(key, self._paint_ground))
        self._paint_progress(painter)
        if self.picture is not None:
            self._paint_equal(painter, self.picture)
        self._paint_point(painter)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(THEME.color("accent"), 2))
            painter.drawRect(self.plot())

    def _paint_ground(self, painter: QPainter) -> None:
        plot, picture, former = self.plot(), self.picture, self.former
        if picture is not None:
            taken = self._paint_picture(painter, picture)
            self._paint_limit_names(painter, picture, taken)
            self._paint_scale(painter, picture)
        else:
            if former is not None:
                self._paint_picture(painter, former)
            veil = THEME.color("panel")
            veil.setAlpha(150 if former is not None else 255)
            painter.fillRect(plot, veil)
        self._paint_axes(painter)

    def _paint_progress(self, painter: QPainter) -> None:
        """How far the map is, while there is none or only a rough one."""
        plot, progress = self.plot(), self.answer.progress
        if self.picture is None:
            face, words, ink = self.face(12), progress or "computing the map", "faint"
            width = text_width(face, words) + 16
            plate = QRectF(plot.center().x() - width / 2, plot.center().y() - 10, width, 20)
        elif self.answer.is_rough:
            face, words, ink = self.face(11), f"a rough map; {progress or 'the fine one is computed'}", "ink"
            plate = QRectF(plot.left() + 6, plot.top() + 6, text_width(face, words) + 14, 18)
        else:
            return
        label_plate(painter, plate, words, face, ink=THEME.color(ink), plate=THEME.color("panel"))

    def _paint_picture(self, painter: QPainter, picture: MapPicture) -> list[QRectF]:
        """Colours, hatching, limit lines, school and best point; gives the places that are taken."""
        plot = self.plot()
        pixels = self._layer(picture).pixels
        rows, columns = pixels.shape[:2]
        image = QImage(pixels[::-1].tobytes(), columns, rows, 4 * columns, QImage.Format.Format_RGBA8888)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(plot, image)
        painter.save()
        painter.setClipRect(plot)
        path = QPainterPath()
        path.setFillRule(Qt.FillRule.OddEvenFill)
        for rings in picture.outside:
            for ring in rings:
                path.addPolygon(self._polygon(ring))
        ground = THEME.color("outside")
        ground.setAlpha(232)
        painter.fillPath(path, ground)
        ink = THEME.color("ink")
        ink.setAlpha(58)
        painter.fillPath(path, hatch(ink))
        for number, lines in enumerate(picture.limit_lines.values()):
            painter.setPen(QPen(self._line_colour(number), 1.6))
            for line in lines:
                painter.drawPolyline(self._polygon(line))
        painter.restore()
        return self._paint_school(painter, picture)

    def _line_colour(self, number: int) -> QColor:
        colour = QColor(_LINE_COLOURS[number % len(_LINE_COLOURS)])
        return colour if THEME.palette.name == "day" else colour.lighter(210)

    def _polygon(self, points: Array) -> QPolygonF:
        """Points of the map, (n, 2) in mm, on the widget."""
        return self.axes().polygon(points)

    def _paint_school(self, painter: QPainter, picture: MapPicture) -> list[QRectF]:
        taken: list[QRectF] = []
        best, window = picture.map.best_in_school, picture.map.window
        if best is not None:
            centre = self.at(best.ae, best.ap)
            diamond = QPolygonF([centre + QPointF(*d) for d in ((0, -7), (7, 0), (0, 7), (-7, 0))])
            painter.setPen(QPen(_GRAPHITE, 1.4))
            painter.setBrush(QColor("#FFFFFF"))
            painter.drawPolygon(diamond)
            taken.append(QRectF(centre.x() - 8, centre.y() - 8, 16, 16))
            beside = [centre + QPointF(dx, dy) for dx, dy in ((52, 0), (-52, 0), (0, 18), (0, -18))]
            self._paint_name(painter, "best here (B)", beside, taken)
        if window is not None:
            low = self.at(window.ae_min, 0.0)
            high = self.at(max(window.ae_max, window.ae_min), min(window.ap_max, picture.depth_top))
            rect = QRectF(low, high).normalized()
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(_GRAPHITE, 1, Qt.PenStyle.DotLine))
            painter.drawRect(rect)
            name = names.STRATEGIES[self.session.cut.strategy]
            foot = QPointF(rect.left() + 28, rect.bottom() - 10)
            self._paint_name(painter, name, [foot + QPointF(0, -17 * step) for step in range(12)], taken)
        return taken

    def _paint_name(self, painter: QPainter, text: str, centres: list[QPointF], taken: list[QRectF]) -> None:
        """A name at the first of some places that is free, which it then takes."""
        face = self.face(10)
        width = text_width(face, text) + 8
        plot = self.plot().adjusted(2, 2, -2, -2)
        for centre in centres:
            place = _kept_inside(QRectF(centre.x() - width / 2, centre.y() - 7.5, width, 15), plot)
            if not any(place.intersects(other) for other in taken):
                label_plate(painter, place, text, face, ink=THEME.color("ink"), plate=self._plate())
                taken.append(place)
                return

    @staticmethod
    def _plate() -> QColor:
        plate = THEME.color("panel")
        plate.setAlpha(225)
        return plate

    def _paint_limit_names(self, painter: QPainter, picture: MapPicture, taken: list[QRectF]) -> None:
        """Each name on its own line, at the first place along it that is still free."""
        face, plot = self.face(11), self.plot().adjusted(2, 2, -2, -2)
        for number, (key, lines) in enumerate(picture.limit_lines.items()):
            text = BY_ID[key].name.lower()
            width = text_width(face, text) + 10
            points = [self.at(float(ae), float(ap)) for line in lines for ae, ap in line]
            place = self._free_place(points, width, plot, taken)
            if place is not None:
                label_plate(painter, place, text, face, ink=self._line_colour(number), plate=self._plate())
                taken.append(place)

    @staticmethod
    def _free_place(points: list[QPointF], width: float, plot: QRectF, taken: list[QRectF]) -> QRectF | None:
        count = len(points)
        order = sorted(range(count), key=lambda i: abs(i / max(count - 1, 1) - 0.42))
        for index in order:
            centre = points[index]
            for shift in (0.0, -17.0, 17.0):
                place = QRectF(centre.x() - width / 2, centre.y() - 8 + shift, width, 16)
                place = _kept_inside(place, plot)
                if not any(place.adjusted(-3, -2, 3, 2).intersects(other) for other in taken):
                    return place
        return None

    def _paint_scale(self, painter: QPainter, picture: MapPicture) -> None:
        plot = self.plot()
        width, left = 150.0, plot.right() - 150.0
        for step in range(int(width)):
            painter.fillRect(QRectF(left + step, plot.top() - 12, 1.5, 7), temper(step / width))
        painter.setFont(self.face(10))
        painter.setPen(THEME.color("faint"))
        quantity, (low, high) = COLOURS[self.told][1], self._layer(picture).ends
        last = quantity.full(high, self.session.system)
        first = "0" if low == 0 else "dear"
        last = last if low == 0 else f"least {last}"
        painter.drawText(QRectF(left - 80, plot.top() - 30, 80 + width, 14), Qt.AlignmentFlag.AlignRight, last)
        painter.drawText(QRectF(left - 44, plot.top() - 16, 40, 14), Qt.AlignmentFlag.AlignRight, first)

    def _layer(self, picture: MapPicture) -> Layer:
        """What the colours of a picture tell, the former one's included."""
        return picture.layers.get(COLOURS[self.told][2], picture.layers["removal"])

    def _paint_axes(self, painter: QPainter) -> None:
        """Frame, ticks and titles."""
        axes, DC = self.axes(), self.session.result.setup.shape.DC
        self.box(painter, axes.plot)
        across = [(percent / 100 * DC, f"{percent}") for percent in (0, 10, 25, 50, 75, 100)]
        up = [(depths * DC, f"{depths:g}") for depths in round_values(0.0, axes.up.high / DC, 6)]
        self._numbers = (self.ticks_across(painter, axes, across), self.ticks_up(painter, axes, up))
        self.title_across(painter, axes.plot, "stepover ae, % of diameter")
        self.title_up(painter, axes.plot, "depth ap, × diameter")

    def _paint_equal(self, painter: QPainter, picture: MapPicture) -> None:
        """The line on which the colours tell the same as at the point."""
        painter.save()
        painter.setClipRect(self.plot())
        # every third vertex: a smooth curve needs no more, and this line is stroked anew at every move
        cut, layer = self.session.cut, self._layer(picture)
        here = (
            self.session.result.state.q
            if self.told == "removal"
            else picture.value_at(COLOURS[self.told][2], cut.ae_mm, cut.ap_mm)
        )
        found = layer.lines(here)
        lines = [self._polygon(np.vstack((line[:-1:3], line[-1:]))) for line in found]
        shade = QColor(_GRAPHITE)
        shade.setAlpha(110)
        dashes = QPen(QColor("#FFFFFF"), 1.0)
        dashes.setDashPattern([6.4, 3.2])
        # reads on pale and on dark; strokes of one pixel beside each other are drawn far faster than one thicker stroke
        for pen, beside in ((QPen(shade, 1.0), (-0.9, 0.0, 0.9)), (dashes, (-0.3, 0.3))):
            painter.setPen(pen)
            for line in lines:
                for shift in beside:
                    painter.drawPolyline(line.translated(shift, shift))
        painter.restore()

    def _paint_point(self, painter: QPainter) -> None:
        """Ring and cross hairs, and the two tags on the axes, which take the place of the numbers they lie on."""
        cut, system = self.session.cut, self.session.system
        place, plot = self.at(cut.ae_mm, cut.ap_mm), self.plot()
        painter.setPen(QPen(QColor("#FFFFFF"), 4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(place, 8, 8)
        painter.setPen(QPen(_GRAPHITE, 2))
        painter.drawEllipse(place, 8, 8)
        for dx, dy in ((-1, 0), (1, 0), (0, -1), (0, 1)):
            painter.drawLine(place + QPointF(4 * dx, 4 * dy), place + QPointF(13 * dx, 13 * dy))
        face, ground = self.face(10), self.ground()
        across = QRectF(place.x() - 33, plot.bottom() + 4, 66, 15)
        across.moveLeft(min(across.left(), self.width() - across.width() - 1))
        up = QRectF(plot.left() - 57, place.y() - 7.5, 56, 15)
        for value, rect, numbers in zip((cut.ae_mm, cut.ap_mm), (across, up), self._numbers, strict=True):
            for number in numbers:
                if number.intersects(rect):
                    painter.fillRect(number, ground)
            text = units.LENGTH.full(value, system)
            label_plate(painter, rect, text, face, ink=THEME.color("panel"), plate=THEME.color("accent"))


def _kept_inside(place: QRectF, plot: QRectF) -> QRectF:
    """A place moved as little as it takes to lie inside the plot."""
    left = min(max(place.left(), plot.left()), plot.right() - place.width())
    top = min(max(place.top(), plot.top()), plot.bottom() - place.height())
    return QRectF(left, top, place.width(), place.height())
