"""The shop's tools for the feature: a chart of length against what the aim counts, and a list with reasons."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QScrollArea, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.asked import Asked
from lesna.desktop.widgets.painting import Canvas
from lesna.model import units
from lesna.planning.aims import Aim
from lesna.planning.compare import Lane
from lesna.planning.ranking import Ranked, taken_tool

#: tools that are listed, and that are drawn
_LISTED, _DRAWN = 12, 30


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

    def __init__(self, session: Session) -> None:
        super().__init__("Length and teeth of the tools against what the aim counts")
        self.session = session
        self.setFixedHeight(150)
        session.ranking.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(700, 150)

    def paintEvent(self, event: QPaintEvent) -> None:
        ranking: tuple[Ranked, ...] | None = self.session.ranking.answer
        there = [entry for entry in ranking or () if entry.lane is not None][:_DRAWN]
        if not there:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(10, 18, self.width() - 20, self.height() - 50)
        slim = [entry.stick_out / entry.tool.DC for entry in there]
        low, high = min(slim) * 0.9, max(slim) * 1.06
        best, worst = max(e.score for e in there), min(e.score for e in there)
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
            x = area.left() + area.width() * (times - low) / (high - low)
            painter.drawText(QRectF(x - 20, area.bottom() + 3, 40, 13), Qt.AlignmentFlag.AlignCenter, f"{times} x D")
        for entry, length in reversed(list(zip(there, slim, strict=True))):
            share = (entry.score - worst) / (best - worst) if best > worst else 1.0
            place = QPointF(area.left() + area.width() * (length - low) / (high - low),
                            area.bottom() - 9 - (area.height() - 18) * share)  # fmt: skip
            first = entry is there[0]
            painter.setPen(QPen(THEME.color("accent" if first else "ink"), 2.0 if entry.is_shortest else 1.0))
            painter.setBrush(THEME.color("accent" if first else "panel"))
            painter.drawEllipse(place, 8, 8)
            painter.setPen(THEME.color("panel" if first else "ink"))
            painter.drawText(
                QRectF(place.x() - 8, place.y() - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, f"{entry.tool.ZEFP}"
            )


class ToolRanking(Asked):
    """The list; it takes some seconds."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, session.ranking, "Trying the tools of the library")
        self.chart = LengthChart(session)
        inside = QWidget()
        self.grid = QGridLayout(inside)
        self.grid.setContentsMargins(0, 0, 8, 0)
        self.grid.setVerticalSpacing(3)
        self.grid.setColumnStretch(3, 1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inside)
        self.column.addWidget(self.chart)
        self.column.addWidget(area, 1)
        self._rows: list[QWidget] = []
        self.buttons: list[QPushButton] = []

    def show_answer(self, answer: tuple[Ranked, ...] | None) -> None:
        """Shows the tools of a ranking."""
        for old in self._rows:
            self.grid.removeWidget(old)
            old.deleteLater()
        self._rows, self.buttons = [], []
        if answer is None:
            return
        there = [entry for entry in answer if entry.lane is not None]
        for row, entry in enumerate(there[:_LISTED]):
            self._add(row, entry)
        self.words.setText(self._head(answer, there))
        self.grid.setRowStretch(len(there[:_LISTED]), 1)

    def _head(self, answer: tuple[Ranked, ...], there: list[Ranked]) -> str:
        if not there:
            return f"None of the {len(answer)} tools makes this feature: {answer[0].why_not}."
        short = next((entry for entry in there if entry.is_shortest), None)
        words = f"{len(there)} of {len(answer)} tools can make it, each at the shortest length that reaches the floor."
        if short is not None:
            length = units.DIMENSION.full(short.stick_out, self.session.system)
            words += f" Stiffest in reach: {short.tool.name}, {length} out."
        return words

    def _use(self, entry: Ranked) -> None:
        session = self.session
        session.attempt(lambda: session.edit(f"Use {entry.tool.name}", taken_tool(session.job, session.index, entry)))

    def _add(self, row: int, entry: Ranked) -> None:
        assert entry.lane is not None  # only those that are there are listed
        system = self.session.system
        name = QPushButton(f"{row + 1}  {entry.tool.name}")
        name.setObjectName("link")
        name.setToolTip("Take this tool, cut like its best strategy")
        name.clicked.connect(lambda checked=False: self._use(entry))
        self.buttons.append(name)
        out = QLabel(f"{units.DIMENSION.full(entry.stick_out, system)} out")
        worth = QLabel(figure(self.session.aim, entry.lane, system))
        worth.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        texts = ["+ " + "; ".join(entry.speaks_for)] if entry.speaks_for else []
        texts += ["− " + "; ".join(entry.speaks_against)] if entry.speaks_against else []
        why = QLabel("   ".join([f"{entry.lane.strategy.name}:", *texts]))
        why.setObjectName("faint")
        why.setWordWrap(True)
        for place, widget in enumerate((name, out, worth, why)):
            self.grid.addWidget(widget, row, place, Qt.AlignmentFlag.AlignTop if place < 3 else Qt.AlignmentFlag(0))
            self._rows.append(widget)
