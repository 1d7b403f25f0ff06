"""Compare: the schools of roughing for this feature side by side, and the tools of the shop."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QRadioButton,
    QScrollArea,
    QWidget,
)  # fmt: skip

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.widgets.answer_face import AnswerFace
from lesna.desktop.widgets.faces import Faces
from lesna.desktop.widgets.front_chart import FrontChart
from lesna.desktop.widgets.lanes import LaneHead, LaneList
from lesna.desktop.widgets.painting import Panel, scrolled
from lesna.desktop.widgets.quote_face import QuoteFace
from lesna.desktop.widgets.tool_ranking import ToolRanking
from lesna.desktop.widgets.words import Words
from lesna.desktop.workspaces.common import Bound
from lesna.document import edits
from lesna.model import names, units
from lesna.model.job import Cut, Feature
from lesna.model.shown import counted
from lesna.planning.program.told import clock
from lesna.planning.quote import hours
from lesna.planning.schools.book import against_book
from lesna.planning.schools.lanes import Comparison, Lane, saving, with_lane
from lesna.planning.search.aims import AIMS

_SIDE, _CHART = 254, 236


def feature_line(feature: Feature | None, system: units.System) -> str:
    """A feature in one line."""
    if feature is None:
        return "No feature"
    sizes = [size for size in (feature.length_mm, feature.width_mm, feature.depth_mm) if size is not None]
    unit = units.DIMENSION.unit(system)
    words = [
        names.FEATURES[feature.kind].capitalize(),
        " × ".join(units.DIMENSION.text(size, system) for size in sizes) + f" {unit}",
    ]
    if feature.corner_radius_mm:
        words.append(f"corner {units.DIMENSION.full(feature.corner_radius_mm, system)}")
    if feature.islands:
        words.append(f"{len(feature.islands)} islands" if len(feature.islands) > 1 else "one island")
    return ", ".join(words)


class SchoolsFace(AnswerFace):
    """The lanes."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__(session, answers.comparison, "Looking for the best point of each school")
        self.answers = answers
        self.answered.connect(self.show_answer)
        self.feature = Words()
        self.feature.setObjectName("title")
        self.titles.insertWidget(0, self.feature)
        self.lanes = LaneList(session, self._use)
        self.head = LaneHead(session)
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        area.setWidget(self.lanes)
        titled = QHBoxLayout()
        titled.setContentsMargins(0, 0, 15, 0)
        titled.addWidget(self.head)
        self.column.addLayout(titled)
        self.column.addWidget(area, 1)

    def show_answer(self, answer: Comparison | None) -> None:
        """Shows the lanes of a comparison."""
        self.show_path()
        self.head.setVisible(answer is not None and answer.winner is not None)
        self.lanes.show_lanes(answer)
        if answer is None:
            return
        if answer.winner is None:
            self.words.setText("None of the schools holds every limit here; what stops each stands beside it.")
            return
        tool = self.session.result.setup.parts.tool.name or "the same tool"
        words = f"{tool}, same machine and limits for all; each at its own best point."
        if answer.floor:
            words += f" At least {units.REMOVAL.full(answer.floor, self.session.system)}."
        self.words.setText(words)

    def show_path(self) -> None:
        """The feature, and what the path of the cut takes as it is set now, where one has been made."""
        session = self.session
        words = feature_line(session.cut.feature, session.system)
        made = [
            (way.simulated.summary.time, way.proved)
            for way in self.answers.value("ways") or ()
            if way.simulated and way.proved
        ]
        if made:
            time, proved = min(made, key=lambda way: way[0])
            links = proved.route.way.length_of("link", "retract")
            words += (f";  its path as set: {clock(time)} min:s, "
                      f"{units.ROUGH_LENGTH.full(links, session.system)} of links")  # fmt: skip
        self.feature.setText(words)

    def _use(self, lane: Lane) -> None:
        session = self.session
        label = f"Use {lane.strategy.name.lower()}"
        session.attempt(lambda: session.edit(label, with_lane(session.job, session.index, lane)))


class CompareWorkspace(QWidget):
    """The step Compare of the route."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session, self.answers = session, answers
        self.bound = Bound(session, self)
        self.schools = SchoolsFace(session, answers)
        self.tools = ToolRanking(session, answers)
        self.quote = QuoteFace(session, answers)
        self.faces = Faces({"Schools of roughing": self.schools, "Tools of the shop": self.tools, "Quote": self.quote})
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 12, 8)
        row.setSpacing(10)
        row.addWidget(self.faces, 1)
        row.addWidget(self._side())
        answers.comparison.changed.connect(self._show_saving)
        session.result_changed.connect(self._show_saving)
        Follower(self, session, self._show_book)

    def _side(self) -> QWidget:
        chart = Panel("Removal against edge life")
        self.chart = FrontChart(self.session, self.answers)
        chart.body.addWidget(self.chart, 1)
        aims = Panel("Aim")
        aims.body.setSpacing(1)
        self.aims: dict[str, QRadioButton] = {}
        group = QButtonGroup(self)
        for aim, words in AIMS.items():
            button = QRadioButton(words)
            button.setChecked(aim == self.answers.aim)
            button.clicked.connect(lambda checked=False, aim=aim: self.answers.choose_aim(aim))
            group.addButton(button)
            aims.body.addWidget(button)
            self.aims[aim] = button
        s = self.session
        self.floor = self.bound.of(
            Cut, "removal_floor_cm3_min", lambda: s.cut, lambda values: edits.with_cut(s.job, s.index, **values),
            may_be_empty=True,
        )  # fmt: skip
        aims.body.addWidget(self.floor)
        self.today = Panel("Against today")
        self.saved = QGridLayout()
        self.saved.setColumnStretch(0, 1)
        self.figures: dict[str, QLabel] = {}
        for place, (key, name) in enumerate(
            (("minutes", "time saved"), ("edges", "edges saved"), ("money", "money saved"))
        ):
            label, value = Words(name), Words()
            label.setObjectName("faint")
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            self.saved.addWidget(label, place, 0)
            self.saved.addWidget(value, place, 1)
            self.figures[key] = value
        self.today.body.addLayout(self.saved)
        self.basis = Words()
        self.basis.setObjectName("faint")
        self.basis.setWordWrap(True)
        self.today.body.addWidget(self.basis)
        self.book = Panel("Book and model")
        self.book_words = Words()
        self.book_words.setWordWrap(True)
        self.book.body.addWidget(self.book_words)
        chart.setMinimumHeight(_CHART)
        side, column = scrolled()
        side.setFixedWidth(_SIDE)
        column.setSpacing(8)
        column.addWidget(chart, 1)
        for panel in (aims, self.today, self.book):
            column.addWidget(panel)
        return side

    def _show_saving(self) -> None:
        answer: Comparison | None = self.answers.comparison.value
        gain = saving(answer, answer.winner) if answer is not None and answer.winner is not None else None
        self.today.title.setText(f"Against today, {counted(self.session.job.batch.parts, 'part')}")
        if gain is None:
            texts = {"minutes": "–", "edges": "–", "money": "–"}
        else:
            money = None if gain.money is None else units.MONEY.text(abs(gain.money), self.session.system)
            texts = {
                "minutes": hours(gain.minutes),
                "edges": f"{gain.edges} of {gain.edges_now}" if gain.edges >= 0 else f"none, {-gain.edges} more",
                "money": "no price"
                if money is None or gain.money is None
                else money
                if gain.money >= 0
                else f"−{money}",
            }
        for key, text in texts.items():
            self.figures[key].setText(text)
        result, words = self.session.result, "Lanes and today are both estimated."
        if result.timing is not None and result.timing.basis != "estimate":
            words += f" By its {result.timing.basis} a part takes {units.clock(result.part_time)} min:s."
        self.basis.setText(words)

    def showEvent(self, event: object) -> None:
        """A path may have been made in the meantime."""
        self.schools.show_path()

    def _show_book(self) -> None:
        found = against_book(self.session.result)
        self.book.setVisible(found is not None)
        if found is not None:
            self.book_words.setText(found.text(self.session.system))
