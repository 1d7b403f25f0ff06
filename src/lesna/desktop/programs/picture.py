"""The part from above: the stock as it is at the cursor, the path in temper colours, the cutter, and the places to look at."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.programs.series import series_named
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.painting import Canvas
from lesna.geometry.motion import RAPID
from lesna.physics import Array
from lesna.planning.program.intents import INTENTS, intents_of
from lesna.planning.program.places import Finding
from lesna.planning.program.run import Run

_MARGIN, _LEGEND = 18.0, 22.0
#: colours along the path
_SHADES = 24
#: lines that are drawn in one piece
_PIECE = 1500
#: milliseconds until the path is painted over the stock
_LATER_MS = 20
#: a line of the picture is at least so long [px]
_SHORTEST = 1.2
#: lines that are not coloured are joined up to so long [px]
_APART = 3.0
#: what is drawn as a way between passes, as long as it engages less than this [rad]
_LINKS, _BRUSHES = ("link", "lift", "retract"), 0.05
#: heights nearer than this are one level [mm]
_SAME_LEVEL = 0.02
#: share of the way in the cut from which a height is a level
_LEVEL = 0.01
#: levels that are offered at most
_MOST_LEVELS = 60
#: how far a click may be from the path [px]
_NEAR = 14.0


def levels_of(run: Run) -> list[float]:
    """Heights at which a program cuts along a level, from the top down [mm]; none where there are too many to choose from."""
    g = run.geometry
    flat = g.contact & (np.abs(g.steps.end[:, 2] - g.steps.start[:, 2]) < 1e-9)
    cutting = np.isin(intents_of(g.program), [INTENTS.index("cut"), INTENTS.index("wall")])[g.steps.move]
    flat = flat & cutting if cutting.any() else flat
    found, which = np.unique(np.round(g.steps.end[flat, 2], 2), return_inverse=True)
    # links that brush material are no level
    length = np.bincount(which, weights=g.steps.length[flat], minlength=len(found))
    found = found[length > _LEVEL * length.sum()][::-1]
    return found.tolist() if 1 < len(found) <= _MOST_LEVELS else []


def _runs(start: Array, end: Array, rows: NDArray[np.intp], long: float) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """First and last place among rows of steps that go on from each other, each run no longer than so many pixels."""
    way = np.floor(np.cumsum(np.hypot(*(end - start)[rows].T)) / long)
    apart = np.abs(start[rows[1:]] - end[rows[:-1]]).max(axis=1) > 1e-6
    first = np.flatnonzero(np.append(True, (np.diff(way) > 0) | apart))
    return first, np.append(first[1:], len(rows)) - 1


def _lines_in_pieces(
    pen: QPen, start: Array, end: Array, rows: NDArray[np.intp], long: float
) -> Iterator[Callable[[QPainter], None]]:
    """Steps as lines, those that go on from each other joined until they are worth drawing."""
    if len(rows):
        first, last = _runs(start, end, rows, long)
        yield from _drawn(pen, np.hstack((start[rows[first]], end[rows[last]])))


def _drawn(pen: QPen, ends: Array) -> Iterator[Callable[[QPainter], None]]:
    """Lines (n, 4), so many in a piece as a frame has time for."""

    def piece(part: Array, painter: QPainter) -> None:
        painter.setPen(pen)
        painter.drawLines([QLineF(*line) for line in part.tolist()])

    for begin in range(0, len(ends), _PIECE):
        yield partial(piece, ends[begin : begin + _PIECE])


class PathPicture(Canvas):
    """A program seen from above."""

    #: a step was clicked
    chosen = Signal(int)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("The part from above, with the path", parent)
        self.session = session
        self.run: Run | None = None
        self.series = "force"
        self.here = 0
        self.findings: tuple[Finding, ...] = ()
        self.others: tuple[Run, ...] = ()
        self.level: float | None = None
        self._version = 0
        self._frame = (0.0, 0.0, 1.0, 1.0)
        self._stock: tuple[tuple[object, ...], QImage] | None = None
        self.setMinimumSize(260, 180)

    def sizeHint(self) -> QSize:
        return QSize(620, 360)

    def show_run(self, run: Run | None, findings: tuple[Finding, ...], others: Sequence[Run] = ()) -> None:
        """Draws a program, others faintly under it; None while there is none."""
        self.run, self.findings, self.others = run, findings, tuple(others)
        self.level = None
        self.here = 0 if run is None else len(run.geometry.steps) - 1
        self._frame = (0.0, 0.0, 1.0, 1.0) if run is None else self._frame_of(run)
        self._version += 1
        # the stock first, the path over it
        self.put_off(_LATER_MS)

    def show_series(self, id: str) -> None:
        """Colours the path by another quantity."""
        self.series = id
        self._version += 1
        self.update()

    def show_level(self, level: float | None) -> None:
        """Draws the path at one height of the tip alone, None for every height [mm]."""
        self.level = level
        self._version += 1
        self.update()

    def show_step(self, step: int) -> None:
        """Moves the cutter."""
        self.here = step
        self.update()

    # ------------------------------------------------------------ places

    def _frame_of(self, run: Run) -> tuple[float, float, float, float]:
        """Left, lower, right and upper edge of stock and path [mm]."""
        g = run.geometry
        cutting = g.steps.end[g.judged]
        R = g.work.radius
        (x0, y0, _), (x1, y1, _) = g.work.stock.low, g.work.stock.high
        low, high = cutting.min(axis=0), cutting.max(axis=0)
        return min(x0, low[0] - R), min(y0, low[1] - R), max(x1, high[0] + R), max(y1, high[1] + R)

    def _scale(self) -> float:
        x0, y0, x1, y1 = self._frame
        return min((self.width() - 2 * _MARGIN) / (x1 - x0), (self.height() - 2 * _MARGIN - _LEGEND) / (y1 - y0))

    def at(self, x: float, y: float) -> QPointF:
        """Where a place of the program is on the widget."""
        x0, y0, x1, y1 = self._frame
        scale = self._scale()
        return QPointF(self.width() / 2 + scale * (x - (x0 + x1) / 2),
                       (self.height() + _LEGEND) / 2 - scale * (y - (y0 + y1) / 2))  # fmt: skip

    def _on_widget(self, places: Array) -> Array:
        origin, scale = self.at(0.0, 0.0), self._scale()
        return np.stack((origin.x() + scale * places[:, 0], origin.y() - scale * places[:, 1]), axis=1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.run is None:
            return
        points = self._on_widget(self.run.geometry.steps.end)
        away = np.hypot(points[:, 0] - event.position().x(), points[:, 1] - event.position().y())
        # among steps over one place the next one after the cursor, so that clicks go down through the levels
        near = np.flatnonzero(away <= max(float(away.min()) + 1.0, 0.0))
        if away.min() <= _NEAR:
            later = near[near > self.here + 1]
            self.chosen.emit(int(later[0] if len(later) else near[0]))

    # ------------------------------------------------------------ painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.run is None:
            return
        self._paint_stock(painter)
        painter.drawImage(QPointF(0, 0), self.by_and_by((self._version, self.session.system), self._pieces))
        self._paint_cutter(painter)

    def _frame_number(self) -> int:
        """Number of the last look at the stock before the cutter came here."""
        assert self.run is not None  # asked only with a run
        steps = [step for step, _ in self.run.geometry.frames]
        return max(int(np.searchsorted(steps, self.here + 1, side="right")) - 1, 0)

    def _pieces(self) -> Iterator[Callable[[QPainter], None]]:
        yield self._paint_kept_out
        yield from self._path_in_pieces()
        yield self._paint_marks
        yield self._paint_legend

    def _paint_stock(self, painter: QPainter) -> None:
        """The stock by itself, because it changes with the cursor and the path does not."""
        assert self.run is not None  # painted only with a run
        g, number = self.run.geometry, self._frame_number()
        heights = g.frames[number][1]
        key = (self._version, number, THEME.palette.name)
        if self._stock is None or self._stock[0] != key:
            self._stock = key, _shaded(heights, g.work.stock.low[2], g.work.stock.high[2])
        left, low, _, _ = g.left.extent()
        # patches that do not fill the last row and column are left out of the picture
        size = max(g.left.height.shape[0] // heights.shape[0], 1) * g.left.cell
        right, high = left + heights.shape[1] * size, low + heights.shape[0] * size
        painter.drawImage(QRectF(self.at(left, high), self.at(right, low)), self._stock[1])

    def _path_in_pieces(self) -> Iterator[Callable[[QPainter], None]]:
        assert self.run is not None  # painted only with a run
        g = self.run.geometry
        values = series_named(self.run, self.series).of(self.run)
        most = float(values.max()) or 1.0
        start, end = self._on_widget(g.steps.start), self._on_widget(g.steps.end)
        for other in self.others:
            yield from self._other_in_pieces(other)
        here = self._on_level(self.run)
        intents = intents_of(g.program)[g.steps.move]
        rapid = g.program.moves.kind[g.steps.move] == RAPID
        linking = (
            ~rapid & np.isin(intents, [INTENTS.index(intent) for intent in _LINKS]) & (g.engagement.angle < _BRUSHES)
        )
        entering = ~rapid & (intents == INTENTS.index("entry"))
        for pen, some in (
            (QPen(THEME.color("faint"), 0.7, Qt.PenStyle.DotLine), rapid & (np.abs(end - start).max(axis=1) > 2)),
            (QPen(THEME.color("faint"), 0.9, Qt.PenStyle.DashLine), linking & here),
            (QPen(THEME.color("accent"), 2.2), entering & here),
        ):
            yield from _lines_in_pieces(pen, start, end, np.flatnonzero(some), _APART)
        drawn = g.judged & here & ~linking & ~entering
        shade = np.minimum((values / most * _SHADES).astype(int), _SHADES - 1)
        rows = np.flatnonzero(drawn)
        if not len(rows):
            return
        # steps are drawn together until they make a line worth drawing, in the colour of the worst of them
        first, last = _runs(start, end, rows, _SHORTEST)
        worst = np.maximum.reduceat(shade[rows], first)
        for number in range(_SHADES):
            some = np.flatnonzero(worst == number)
            ends = np.hstack((start[rows[first[some]]], end[rows[last[some]]]))
            yield from _drawn(QPen(temper(number / (_SHADES - 1)), 1.3), ends)

    def _paint_kept_out(self, painter: QPainter) -> None:
        """Clamps and the like, where the feature's drawing has them."""
        assert self.run is not None  # painted only with a run
        feature = self.run.geometry.work.parts.cut.feature
        if feature is None or feature.drawn is None:
            return
        painter.setPen(QPen(THEME.color("alarm"), 1.1))
        painter.setBrush(QBrush(THEME.color("alarm"), Qt.BrushStyle.BDiagPattern))
        for outline in feature.drawn.keep_out:
            painter.drawPolygon(QPolygonF([self.at(x, y) for x, y in outline]))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _on_level(self, run: Run) -> NDArray[np.bool_]:
        """Steps at the height that is looked at."""
        z = run.geometry.steps.end[:, 2]
        return np.ones(len(z), dtype=bool) if self.level is None else np.abs(z - self.level) < _SAME_LEVEL

    def _other_in_pieces(self, run: Run) -> Iterator[Callable[[QPainter], None]]:
        g = run.geometry
        rows = np.flatnonzero(g.contact & self._on_level(run))
        pen = QPen(THEME.color("hairline"), 1.0)
        yield from _lines_in_pieces(pen, self._on_widget(g.steps.start), self._on_widget(g.steps.end), rows, _APART)

    def _paint_marks(self, painter: QPainter) -> None:
        painter.setFont(self.face(10, bold=True))
        for number, finding in enumerate(self.findings[:40], start=1):
            place = self.at(finding.place[0], finding.place[1])
            painter.setPen(QPen(THEME.color("alarm"), 1.3))
            painter.setBrush(THEME.color("panel"))
            painter.drawEllipse(place, 8, 8)
            painter.drawText(QRectF(place.x() - 8, place.y() - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, str(number))

    def _paint_legend(self, painter: QPainter) -> None:
        assert self.run is not None  # painted only with a run
        series, system = series_named(self.run, self.series), self.session.system
        most = float(series.of(self.run).max())
        painter.setFont(self.face(10.5))
        painter.setPen(THEME.color("faint"))
        right = QRectF(self.width() - 330, 3, 322, 16)
        text = f"{series.quantity.full(most, system)}"
        painter.drawText(right, Qt.AlignmentFlag.AlignRight, text)
        wide = painter.fontMetrics().horizontalAdvance(text)
        bar = QRectF(right.right() - wide - 108, 7, 100, 8)
        for k in range(50):
            painter.fillRect(QRectF(bar.left() + 2 * k, bar.top(), 2.2, bar.height()), temper(k / 49))
        painter.drawText(
            QRectF(bar.left() - 200, 3, 192, 16), Qt.AlignmentFlag.AlignRight, f"{series.name.lower()}   0"
        )
        painter.drawText(
            QRectF(8, 3, 300, 16), Qt.AlignmentFlag.AlignLeft, f"{self.run.geometry.work.parts.cut.name}, from above"
        )
        painter.drawText(
            QRectF(8, self.height() - 19, self.width() - 16, 16), Qt.AlignmentFlag.AlignLeft, self._told_intents()
        )

    def _told_intents(self) -> str:
        """What the other lines are, where the program tells."""
        assert self.run is not None  # painted only with a run
        there = set(np.unique(intents_of(self.run.geometry.program)).tolist())
        return "thick: way in    dashed: links    dotted: rapids" if INTENTS.index("entry") in there else ""

    def _paint_cutter(self, painter: QPainter) -> None:
        assert self.run is not None  # painted only with a run
        g = self.run.geometry
        x, y, _ = g.steps.end[self.here].tolist()
        centre, R = self.at(x, y), self._scale() * g.work.radius
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color("ink"), 1.4))
        painter.drawEllipse(centre, R, R)
        painter.setPen(QPen(THEME.color("alarm"), 3.0))
        tx, ty = g.steps.heading[self.here].tolist()
        ahead = np.degrees(np.arctan2(ty, tx))
        for i in range(int(g.engagement.counts[self.here])):
            a, b = g.engagement.found[self.here, i, :2]
            begin = ahead + 90.0 - np.degrees(b)
            box = QRectF(centre.x() - R, centre.y() - R, 2 * R, 2 * R)
            painter.drawArc(box, round(16 * begin), round(16 * np.degrees(b - a)))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("ink"))
        painter.drawEllipse(centre, 2, 2)


def _shaded(heights: Array, floor: float, top: float) -> QImage:
    """Heights as a picture: material in the colour of stock, cleared floors paler the deeper they lie, light from the upper left."""
    stock, deep, air = (THEME.color(role) for role in ("stock", "field", "paper"))
    share = np.clip((heights - floor) / max(top - floor, 1e-9), 0.0, 1.0)

    def channel(of: str) -> Array:
        a, b = getattr(deep, of)(), getattr(stock, of)()
        return np.asarray(a + (0.88 * b - a) * share)

    slope_y, slope_x = np.gradient(heights / max(top - floor, 1e-9))
    light = np.clip(1.0 + 0.5 * (slope_x - slope_y), 0.7, 1.12)
    rgb = np.stack([channel(of) * light for of in ("red", "green", "blue")], axis=-1)
    gone = heights < floor - 0.5
    rgb[gone] = (air.red(), air.green(), air.blue())
    data = np.ascontiguousarray(np.clip(rgb[::-1], 0, 255).astype(np.uint8))
    image = QImage(data.tobytes(), data.shape[1], data.shape[0], 3 * data.shape[1], QImage.Format.Format_RGB888)
    return image.copy()
