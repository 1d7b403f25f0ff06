"""The schools of roughing side by side: a lane each, the best on top, with what it costs and why."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.engagement_glyph import paint_engagement
from lesna.desktop.widgets.painting import Canvas, metrics, text_width
from lesna.model import units
from lesna.model.library_records import Tool
from lesna.planning.schools.lanes import Comparison, Lane, is_in_use
from lesna.planning.telling.verdicts import verdict

#: height of a lane without its words, least height of one that is not there, and of the line of column names
_FIGURES, _MISSING, HEAD = 37, 30, 18
#: room around words
_AROUND = 4
_LEFT = 14.0
#: width of a lane up to which its columns move together
_NARROW = 660.0


class Columns:
    """Where the columns of a lane begin, by its width."""

    def __init__(self, width: float) -> None:
        self.name = _LEFT
        numbers = 4 * 0.105 * width
        self.glyph = (0.27 if width > _NARROW else 0.32) * width
        self.time = self.glyph + 62
        self.step = 0.105 * width
        self.numbers = width - numbers - 8
        self.time_width = self.numbers - self.time - 10

    def number(self, place: int) -> QRectF:
        """Box of one of the four numbers, without its height."""
        return QRectF(self.numbers + place * self.step, 0, self.step, 0)


class LaneHead(Canvas):
    """Names of the columns."""

    def __init__(self, session: Session) -> None:
        super().__init__("Columns of the comparison")
        self.session = session
        self.setFixedHeight(HEAD)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        painter.setFont(self.face(10.5))
        painter.setPen(THEME.color("faint"))
        columns, system = Columns(self.width()), self.session.system
        flags = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(columns.glyph - 4, 0, 60, HEAD), flags, "in the cut")
        painter.drawText(
            QRectF(columns.time, 0, columns.time_width, HEAD),
            flags,
            "time, against today" if self.width() > _NARROW else "time",
        )
        names = (
            units.REMOVAL.unit(system), "edge, min", f"side, {units.FORCE.unit(system)}", "part",
        )  # fmt: skip
        for place, name in enumerate(names):
            box = columns.number(place)
            box.setHeight(HEAD)
            painter.drawText(box, flags | Qt.AlignmentFlag.AlignRight, name)


def other_tools(tool: Tool, lane: Lane) -> list[str]:
    """Names of the tools that a lane works with beside the one in the cut."""
    found = (state.task.setup.parts.tool for _, state in lane.stages)
    return list(dict.fromkeys(other.name or other.id or other.kind for other in found if other != tool))


def against(value: float, today: float) -> str:
    """How much more or less than the cut as it stands, with its sign.

    Examples
    --------
    >>> against(3.0, 4.0), against(4.2, 4.0), against(4.001, 4.0)
    ('−25 %', '+5 %', 'as today')
    """
    share = round(100 * (value / today - 1.0))
    return "as today" if not share else f"{'+' if share > 0 else chr(0x2212)}{abs(share)} %"


class LaneCard(Canvas):
    """One strategy."""

    def __init__(self, session: Session, comparison: Comparison, lane: Lane, use: Callable[[Lane], None]) -> None:
        super().__init__(lane.strategy.name)
        self.session, self.comparison, self.lane = session, comparison, lane
        self.sentence = units.said(verdict(comparison, lane), session.system)
        self.note = units.said(lane.note, session.system)
        self.in_use = lane.is_there and is_in_use(session.job, session.index, lane)
        self.setAccessibleDescription(f"{self.sentence} {lane.strategy.when}")
        brings = other_tools(session.result.setup.parts.tool, lane)
        with_tool = f"Brings another tool: {', '.join(brings)}." if brings else ""
        if with_tool:
            self.sentence = f"{self.sentence} {with_tool}"
        self.setToolTip(
            "\n".join(text for text in (self._points(), self.sentence, self.note, lane.strategy.when) if text)
        )
        self.button = QPushButton("in use" if self.in_use else "Use with its tool" if brings else "Use this", self)
        self.button.setToolTip(with_tool or "With the tool that is in the cut")
        self.button.setObjectName("link")
        self.button.setAccessibleName(f"Use {lane.strategy.name}")
        self.button.setEnabled(not self.in_use)
        self.button.setVisible(lane.is_there)
        self.button.clicked.connect(lambda checked=False: use(lane))

    def sizeHint(self) -> QSize:
        return QSize(760, self._height(760))

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self._height(max(self.width(), 300)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        # as high as its sentence needs at this width, so that none ends in the middle
        self.setFixedHeight(self._height(self.width()))
        size = self.button.sizeHint()
        self.button.setGeometry(self.width() - size.width() - 8, self.height() - size.height() - 1, *size.toTuple())

    def _words_width(self, width: int) -> float:
        columns = Columns(width)
        if self.lane.is_there:
            return width - columns.name - self.button.sizeHint().width() - 16
        return width - columns.glyph - 6

    def _words_height(self, width: int) -> float:
        return self._height_of(self.sentence, width)

    def _height_of(self, text: str, width: int) -> float:
        """Height of words that are wrapped, not cut, at a width of the lane."""
        room = QRectF(0, 0, self._words_width(width), 1000)
        return metrics(self.face(11.5)).boundingRect(room, Qt.TextFlag.TextWordWrap, text).height() if text else 0.0

    def _when(self, width: int) -> str:
        """When practitioners prefer it, with its note where both fit into a line; the rest stands in the tip."""
        if not self.lane.is_there:
            return ""
        words = f"{self.lane.strategy.when} {self.note}".strip()
        fits = text_width(self.face(11.5), words) <= self._words_width(width)
        return words if fits else self.lane.strategy.when

    def _height(self, width: int) -> int:
        words = self._words_height(width) + self._height_of(self._when(width), width)
        return round(_FIGURES + words + _AROUND if self.lane.is_there else max(words + 2 * _AROUND, _MISSING))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        best = self.lane is self.comparison.winner
        painter.setPen(QPen(THEME.color("accent" if best else "hairline"), 1))
        painter.setBrush(THEME.color("field" if best else "panel"))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 3, 3)
        if best:
            painter.fillRect(QRectF(0, 1, 4, self.height() - 2), THEME.color("accent"))
        columns = Columns(self.width())
        if self.lane.is_there:
            self._paint_name(painter, columns)
            self._paint_engagement(painter, columns)
            self._paint_time(painter, columns)
            self._paint_numbers(painter, columns)
        else:
            painter.setFont(self.face(11.5))
            painter.setPen(THEME.color("faint"))
            painter.drawText(QRectF(columns.name, 0, columns.glyph - columns.name, self.height()),
                             Qt.AlignmentFlag.AlignVCenter, self.lane.strategy.name)  # fmt: skip
        self._paint_sentence(painter, columns)

    def _paint_name(self, painter: QPainter, columns: Columns) -> None:
        wide = columns.glyph - columns.name - 14
        painter.setFont(self.face(12, bold=True))
        painter.setPen(THEME.color("ink"))
        name = painter.fontMetrics().elidedText(self.lane.strategy.name, Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QRectF(columns.name, 3, wide, 17), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(self.face(11))
        painter.setPen(THEME.color("faint"))
        points = painter.fontMetrics().elidedText(self._points(), Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QRectF(columns.name, 20, wide, 15), Qt.AlignmentFlag.AlignVCenter, points)

    def _points(self) -> str:
        """Where it is cut; of two steps each has its depth."""
        system = self.session.system
        found = [optimum for _, optimum in self.lane.stages]
        length, chip = units.LENGTH, units.CHIP
        if len(found) == 1:
            p, s = found[0].point, found[0].state
            return f"ae {length.text(p.ae, system)}  ap {length.text(p.ap, system)}  fz {chip.text(s.fz, system)}"
        return ", then ".join(
            f"ae {length.text(f.point.ae, system)} ap {length.text(f.point.ap, system)}" for f in found
        )

    def _paint_engagement(self, painter: QPainter, columns: Columns) -> None:
        main = self.lane.main
        use = main.limits[0].use if main.limits else 0.0
        paint_engagement(
            painter, QPointF(columns.glyph + 16, 20), 14.0, phi=main.state.phi_s,
            depth_share=main.point.ap / main.setup.parts.tool.APMX, up=main.setup.parts.cut.direction == "up",
            color=temper(min(use * main.state.phi_s / math.pi, 1.0)),
        )  # fmt: skip

    def _paint_time(self, painter: QPainter, columns: Columns) -> None:
        """Minutes on a part, and a bar of how they are spent, to one scale for all lanes."""
        longest = max(lane.minutes for lane in self.comparison.lanes if lane.is_there)
        painter.setFont(self.face(13, bold=True))
        painter.setPen(THEME.color("ink"))
        room = QRectF(columns.time, 2, columns.time_width, 18)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, units.clock(self.lane.minutes))
        today = self.comparison.today
        if today is not None:
            used = text_width(self.face(13, bold=True), units.clock(self.lane.minutes)) + 8
            painter.setFont(self.face(11 if self.width() > _NARROW else 10))
            painter.setPen(THEME.color("faint"))
            painter.drawText(
                room.adjusted(used, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, against(self.lane.minutes, today.minutes)
            )
        left, top = columns.time, 23.0
        # cutting as hot steel, moving as cold, changing as ink
        split = (
            (self.lane.cutting, temper(0.4)), (self.lane.linking, THEME.color("stock")),
            (self.lane.changing, THEME.color("faint")),
        )  # fmt: skip
        for minutes, color in split:
            wide = columns.time_width * minutes / longest
            painter.fillRect(QRectF(left, top, max(wide, 0.6), 8), color)
            left += wide

    def _paint_numbers(self, painter: QPainter, columns: Columns) -> None:
        lane, system = self.lane, self.session.system
        cost = "no price" if lane.cost is None else units.MONEY.text(lane.cost, system)
        minutes, now = units.LONG_MINUTES, None if self.comparison.today is None else self.comparison.today.cost
        pairs = (
            (units.REMOVAL.text(lane.q, system), ""),
            (minutes.text(lane.life, system), f"{minutes.text(lane.alone, system)} alone"),
            (units.FORCE.text(lane.side, system), f"axial {units.FORCE.text(lane.axial, system)}"),
            (cost, "" if now is None or lane.cost is None else against(lane.cost, now)),
        )
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for place, (upper, lower) in enumerate(pairs):
            box = columns.number(place)
            box.setTop(2)
            box.setHeight(18)
            painter.setFont(self.face(12, bold=True))
            painter.setPen(THEME.color("ink"))
            painter.drawText(box, right, upper)
            painter.setFont(self.face(11 if self.width() > _NARROW else 10))
            painter.setPen(THEME.color("faint"))
            box.setTop(20)
            box.setHeight(15)
            painter.drawText(box, right, lower)

    def _paint_sentence(self, painter: QPainter, columns: Columns) -> None:
        painter.setFont(self.face(11.5))
        painter.setPen(THEME.color("ink" if self.lane.is_there else "faint"))
        wide, high = self._words_width(self.width()), self._words_height(self.width())
        if not self.lane.is_there:
            flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(columns.glyph - 4, 0, wide, self.height()), flags, self.sentence)
            return
        painter.drawText(QRectF(columns.name, _FIGURES, wide, high + 2), Qt.TextFlag.TextWordWrap, self.sentence)
        painter.setPen(THEME.color("faint"))
        when = self._when(self.width())
        place = QRectF(columns.name, _FIGURES + high, wide, self._height_of(when, self.width()) + 2)
        painter.drawText(place, Qt.TextFlag.TextWordWrap, when)


class LaneList(QWidget):
    """All lanes of a comparison."""

    def __init__(self, session: Session, use: Callable[[Lane], None]) -> None:
        super().__init__()
        self.session, self._use = session, use
        self.cards: list[LaneCard] = []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 6, 0)
        self.column.setSpacing(4)
        self.column.addStretch(1)

    def show_lanes(self, comparison: Comparison | None) -> None:
        """Shows a comparison, or none."""
        for card in self.cards:
            self.column.removeWidget(card)
            card.deleteLater()
        self.cards = (
            [LaneCard(self.session, comparison, lane, self._use) for lane in comparison.lanes] if comparison else []
        )
        for place, card in enumerate(self.cards):
            self.column.insertWidget(place, card)
