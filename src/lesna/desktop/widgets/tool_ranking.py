"""The shop's tools for the feature: a chart of length against what the aim counts, and a list with reasons."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QPushButton

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.answer_face import AnswerFace
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.painting import Canvas, scrolled
from lesna.desktop.widgets.words import tip
from lesna.model import units
from lesna.planning.schools.lanes import Lane
from lesna.planning.schools.ranking import ToolRank, with_ranked_tool
from lesna.planning.search.aims import Aim

#: tools that are listed, and that are drawn
_LISTED, _DRAWN = 12, 30
#: height of a card's first line and of each reason [px]
_FIRST_LINE, _LINE = 21, 15


def figure(aim: Aim, lane: Lane, system: units.System) -> str:
    """What the aim counts, of a lane."""
    if aim == "cost" and lane.cost is not None:
        return f"{units.MONEY.text(lane.cost, system)} a part"
    if aim == "life":
        return units.LONG_MINUTES.full(lane.life, system)
    if aim == "unattended":
        return f"{units.LONG_MINUTES.full(lane.alone, system)} alone"
    return f"{units.clock(lane.minutes)} a part"


class LengthChart(Canvas):
    """Each tool at its stick-out over diameter and its worth; the disc carries its number of teeth."""

    def __init__(self, answers: CutAnswers) -> None:
        super().__init__("Length and teeth of the tools against what the aim counts")
        self.answer = answers.ranking
        self.setFixedHeight(150)
        self.answer.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(700, 150)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()  # whatever there is to draw: nobody else paints its ground
        ranking: tuple[ToolRank, ...] | None = self.answer.value
        there = [entry for entry in ranking or () if entry.lane is not None][:_DRAWN]
        if not there:
            return
        area = QRectF(10, 18, self.width() - 20, self.height() - 50)
        slim = [entry.stick_out / entry.tool.DC for entry in there]
        low, high = min(slim) * 0.9, max(slim) * 1.06
        best, worst = max(e.score for e in there), min(e.score for e in there)
        axes = Axes(area.adjusted(0, 9, 0, -9), Scale(low, high), Scale(worst, best if best > worst else worst + 1.0))
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.setFont(self.face(10))
        painter.setPen(THEME.color("faint"))
        painter.drawText(
            QRectF(10, 0, 400, 14), Qt.AlignmentFlag.AlignLeft, "better ↑   the number is that of the teeth"
        )
        painter.drawText(QRectF(0, self.height() - 15, self.width() - 10, 14), Qt.AlignmentFlag.AlignRight,
                         "stick-out over diameter")  # fmt: skip
        for times in range(int(low) + 1, int(high) + 1):
            x = axes.x(times)
            painter.drawText(QRectF(x - 20, area.bottom() + 3, 40, 13), Qt.AlignmentFlag.AlignCenter, f"{times} x D")
        for entry, length in reversed(list(zip(there, slim, strict=True))):
            place = axes.at(length, entry.score)
            first = entry is there[0]
            painter.setPen(QPen(THEME.color("accent" if first else "ink"), 2.0 if entry.is_shortest else 1.0))
            painter.setBrush(THEME.color("accent" if first else "panel"))
            painter.drawEllipse(place, 8, 8)
            painter.setPen(THEME.color("panel" if first else "ink"))
            painter.drawText(
                QRectF(place.x() - 8, place.y() - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, f"{entry.tool.ZEFP}"
            )


class ToolCard(Canvas):
    """One tool: what it costs and gives, what speaks for it and what against."""

    def __init__(
        self, session: Session, aim: Aim, place: int, entry: ToolRank, lane: Lane, use: Callable[[ToolRank], None]
    ) -> None:
        super().__init__(entry.tool.name)
        self.session, self.aim, self.place, self.entry, self.lane = session, aim, place, entry, lane
        self.reasons = [
            units.said(f"{sign} {'; '.join(texts)}", session.system)
            for sign, texts in (("+", entry.speaks_for), ("−", entry.speaks_against))
            if texts
        ]
        self.setAccessibleDescription(" ".join(self.reasons))
        self.setToolTip(tip("\n".join(self.reasons)))
        self.setFixedHeight(_FIRST_LINE + _LINE * max(1, len(self.reasons)) + 6)
        self.button = QPushButton("Use this", self)
        self.button.setObjectName("link")
        self.button.setAccessibleName(f"Use {entry.tool.name}")
        self.button.setToolTip("Take this tool, cut like its best school")
        self.button.clicked.connect(lambda checked=False: use(entry))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        size = self.button.sizeHint()
        self.button.setGeometry(self.width() - size.width() - 8, self.height() - size.height() - 1, *size.toTuple())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        first, system = self.place == 0, self.session.system
        painter.setPen(QPen(THEME.color("accent" if first else "hairline"), 1))
        painter.setBrush(THEME.color("field" if first else "panel"))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 3, 3)
        middle, wide = Qt.AlignmentFlag.AlignVCenter, self.width() - 24.0
        painter.setFont(self.face(12, bold=True))
        painter.setPen(THEME.color("ink"))
        painter.drawText(QRectF(12, 3, 0.52 * wide, 17), middle, f"{self.place + 1}  {self.entry.tool.name}")
        painter.drawText(QRectF(12, 3, wide, 17), middle | Qt.AlignmentFlag.AlignRight,
                         figure(self.aim, self.lane, system))  # fmt: skip
        painter.setFont(self.face(11))
        painter.setPen(THEME.color("faint"))
        out = f"{units.DIMENSION.full(self.entry.stick_out, system)} out, {self.lane.strategy.short}"
        painter.drawText(QRectF(12 + 0.54 * wide, 3, 0.3 * wide, 17), middle, out)
        room = wide - self.button.sizeHint().width() - 8
        for line, text in enumerate(self.reasons):
            painter.setPen(THEME.color("ink" if text.startswith("+") else "faint"))
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room))
            painter.drawText(QRectF(12, _FIRST_LINE + line * _LINE, room, _LINE), middle, shown)


class ToolRanking(AnswerFace):
    """The list; it takes some seconds."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__(session, answers.ranking, "Trying the tools of the library")
        self.answers = answers
        self.answered.connect(self.show_answer)
        self.chart = LengthChart(answers)
        self.cards: list[ToolCard] = []
        area, self.list = scrolled()
        self.list.addStretch(1)
        self.column.addWidget(self.chart)
        self.column.addWidget(area, 1)

    def show_answer(self, answer: tuple[ToolRank, ...] | None) -> None:
        """Shows the tools of a ranking."""
        for card in self.cards:
            self.list.removeWidget(card)
            card.deleteLater()
        there = [(entry, entry.lane) for entry in answer or () if entry.lane is not None]
        self.cards = [
            ToolCard(self.session, self.answers.aim, place, entry, lane, self._use)
            for place, (entry, lane) in enumerate(there[:_LISTED])
        ]
        for place, card in enumerate(self.cards):
            self.list.insertWidget(place, card)
        if answer is not None:
            self.words.setText(self._head(answer, [entry for entry, _ in there]))

    def _head(self, answer: tuple[ToolRank, ...], there: list[ToolRank]) -> str:
        if not there:
            return units.said(
                f"None of the {len(answer)} tools makes this feature: {answer[0].why_not}.", self.session.system
            )
        short = next((entry for entry in there if entry.is_shortest), None)
        words = f"{len(there)} of {len(answer)} tools can make it, each at the shortest length that reaches the floor."
        if short is not None:
            length = units.DIMENSION.full(short.stick_out, self.session.system)
            words += f" Stiffest in reach: {short.tool.name}, {length} out."
        return words

    def _use(self, entry: ToolRank) -> None:
        session = self.session
        session.attempt(
            lambda: session.edit(f"Use {entry.tool.name}", with_ranked_tool(session.job, session.index, entry))
        )
