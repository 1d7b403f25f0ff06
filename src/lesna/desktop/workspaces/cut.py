"""Cut: the engagement map, what holds the cut back, and the few numbers that are set."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.tapping import Tapping
from lesna.desktop.widgets.cost_chart import CostChart
from lesna.desktop.widgets.faces import Faces, FacesPanel
from lesna.desktop.widgets.fields import Choice, ChoiceField, NumberField
from lesna.desktop.widgets.force_trace import ForceTrace
from lesna.desktop.widgets.ladder import LoadLadder
from lesna.desktop.widgets.listen_face import ListenFace
from lesna.desktop.widgets.map_view import MapView
from lesna.desktop.widgets.more_list import MoreList
from lesna.desktop.widgets.painting import Panel, scrolled
from lesna.desktop.widgets.stability_view import StabilityFace
from lesna.desktop.widgets.stopwatch import Stopwatch
from lesna.desktop.widgets.tooth_view import ToothView
from lesna.desktop.widgets.words import Words
from lesna.desktop.workspaces.common import Bound
from lesna.document import edits
from lesna.model import names, units
from lesna.model.job import SPEEDS, Book, Cut
from lesna.physics.speeds import surface_speed
from lesna.planning.cut.life import usual_speeds
from lesna.planning.cut.motion import REFERENCE_ENGAGEMENT
from lesna.planning.telling.figures import FIGURES, TABLE, applies

SPEED_BY = (("vc_m_min", "vc"), ("n_rpm", "n"), ("life_min_wanted", "edge life"))
FEED_BY = (("hex_mm", "chip hex"), ("fz_mm", "fz"), ("book", "book"))
SPEED_SHARES = (("full", "whole gain"), ("half", "half of it"), ("none", "no gain"))
SCHOOLS = (("max_chip", "hold the thickest chip"), ("mean_chip", "hold the mean chip"))

#: height of the step from which its ladder has comfortable rows
_TALL = 580


class FigureTable(QWidget):
    """Derived numbers; each is a link to its working."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(1, 1)
        self.values: dict[str, QLabel] = {}
        self.links: dict[str, QPushButton] = {}
        for row, figure in enumerate(FIGURES[id] for id in TABLE):
            link = QPushButton(figure.label)
            link.setObjectName("link")
            link.setToolTip("How it came about")
            link.clicked.connect(lambda checked=False, id=figure.id: session.working_asked.emit(id))
            value = Words()
            value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(link, row, 0)
            grid.addWidget(value, row, 1)
            self.values[figure.id] = value
            self.links[figure.id] = link
        grid.setRowStretch(len(TABLE), 1)
        Follower(self, session, self._refresh)

    def _refresh(self) -> None:
        result, system = self.session.result, self.session.system
        for id, value in self.values.items():
            # a loop's advance or a corner's angle where there is neither says nothing
            for widget in (value, self.links[id]):
                widget.setVisible(id not in ("advance", "phi_corner") or applies(id, result))
            value.setText(FIGURES[id].full(result, system))


class CutWorkspace(QWidget):
    """The step Cut of the route."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session = session
        self.map = MapView(session, answers)
        self.ladder = LoadLadder(session)
        self.tooth = ToothView(session)
        self.bound = Bound(session, self)
        below = QHBoxLayout()
        tooth = Panel("One tooth, seen from above")
        tooth.body.addWidget(self.tooth, 1)
        below.addWidget(tooth, 3)
        self.faces = FacesPanel({
            "Forces": ForceTrace(session), "In numbers": FigureTable(session),
            "Cost": CostChart(session),
        })  # fmt: skip
        below.addWidget(self.faces, 4)
        self.stability = StabilityFace(session, answers)
        self.listen = ListenFace(answers)
        self.charts = Faces({"Where it can live": self.map, "Stability": self.stability, "Listen": self.listen})
        left = QVBoxLayout()
        left.addWidget(self.charts, 5)
        left.addLayout(below, 2)
        self.more = MoreList(session, answers)
        self.answers = FacesPanel({"What holds this cut back": self.ladder, "What would buy more": self.more})
        right = QVBoxLayout()
        right.addWidget(self.answers)
        right.addWidget(self._fields(), 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 12, 8)
        row.setSpacing(10)
        row.addLayout(left, 2)
        self.side = QWidget()
        self.side.setLayout(right)
        right.setContentsMargins(0, 0, 0, 0)
        self.side.setMinimumWidth(412)
        self.side.setMaximumWidth(438)
        row.addWidget(self.side, 1)
        self.tapping = Tapping(answers)
        self.stability.measure.clicked.connect(lambda checked=False: self.tapping.tap())
        self.stability.load.clicked.connect(self._on_load_response)
        self.stability.keep.clicked.connect(lambda checked=False: self.tapping.keep())
        self.stability.forget.clicked.connect(lambda checked=False: self.tapping.forget())
        Follower(self, session, self._refresh)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.ladder.make_room(self.height() > _TALL)

    def listen_to(self, path: Path) -> None:
        """Judges a recording of this cut."""
        self.charts.show_face(2)
        self.listen.open_file(path)

    def _on_load_response(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a measured response", str(Path.home()), "Responses (*.csv)")
        if name:
            self.tapping.load(Path(name))

    # ------------------------------------------------------------ fields

    def _fields(self) -> Panel:
        panel = Panel("This cut")
        s = self.session
        self.strategy = self._choice("strategy", "Strategy", tuple(names.STRATEGIES.items()))
        self.role = ChoiceField("Role", tuple(names.ROLES.items()), label_width=52)
        self.role.chosen.connect(self._on_role)
        self.direction = self._choice("direction", "Direction", tuple(names.DIRECTIONS.items()))
        self.coolant = self._choice("coolant", "Coolant", tuple(names.COOLANTS.items()), label_width=52)
        self.speed_by = ChoiceField("Set by", SPEED_BY)
        self.feed_by = ChoiceField("and", FEED_BY, label_width=52)
        self.school = self._choice("compensation", "Compensation", SCHOOLS)
        self.speed_by.chosen.connect(self._on_speed_by)
        self.feed_by.chosen.connect(self._on_feed_by)
        ae = self._number("ae_mm", quantity=units.LENGTH, lockable=True,
                          hint=lambda: f"{100 * s.cut.ae_mm / s.result.setup.shape.DC:.1f} % of DC")  # fmt: skip
        ap = self._number("ap_mm", quantity=units.LENGTH, lockable=True,
                          hint=lambda: f"{s.cut.ap_mm / s.result.setup.shape.DC:.2f} × D")  # fmt: skip
        self._speed_rows = {
            "vc_m_min": self._number("vc_m_min", hint=self._speed_hint, hint_rests=True),
            "n_rpm": self._number("n_rpm"),
            "life_min_wanted": self._number("life_min_wanted", hint=self._life_hint, hint_rests=True),
        }
        self._feed_rows = {
            "hex_mm": self._number("hex_mm", quantity=units.CHIP, hint=self._chip_hint, hint_rests=True),
            "fz_mm": self._number("fz_mm", quantity=units.CHIP),
            "book": self.bound.number("book_fz", "Book fz", units.CHIP, lambda: s.cut.book.fz_mm if s.cut.book else None,
                                      lambda value: self._set_book(fz_mm=value)),
        }  # fmt: skip
        self._book_at = self.bound.number(
            "book_ae", "Given at ae/DC", units.RATIO, lambda: s.cut.book.ae_over_dc if s.cut.book else None,
            lambda value: self._set_book(ae_over_dc=value), may_be_empty=True,
            hint=lambda: "" if s.cut.book and s.cut.book.ae_over_dc else f"not stated: {REFERENCE_ENGAGEMENT:.0%} taken",
        )  # fmt: skip
        self.tilt = self._number("tilt_deg")
        area, column = scrolled(
            _side_by_side(self.strategy, self.role), ae, ap, _side_by_side(self.speed_by, self.feed_by),
            *self._speed_rows.values(),
            *self._feed_rows.values(), self._book_at, self.school, self.tilt, _side_by_side(self.direction, self.coolant),
        )  # fmt: skip
        column.addStretch(1)
        for key, field in (("ae_mm", ae), ("ap_mm", ap)):
            field.lock_toggled.connect(lambda locked, key=key: self._on_lock(key, locked))
        panel.body.addWidget(area, 1)
        row = QHBoxLayout()
        for text, tip, slot in (
            ("Best &point (B)", "Highest removal of this school inside every limit", self.map.point.go_to_best),
            ("Starting v&alues", "Speed, chip and engagement as the tables propose them", self._on_starting_values),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(slot)
            row.addWidget(button)
        self.speed_share = Choice()
        self.speed_share.setAccessibleName("Gain of the engagement in the starting speed")
        self.speed_share.setToolTip("How much of what this engagement may run faster the starting speed takes")
        for value, text in SPEED_SHARES:
            self.speed_share.addItem(text, value)
        row.addWidget(self.speed_share)
        row.addStretch(1)
        panel.body.addLayout(row)
        self.heat = Words()
        self.heat.setObjectName("faint")
        panel.body.addWidget(self.heat)
        self.stopwatch = Stopwatch(self.session)
        panel.body.addWidget(self.stopwatch)
        return panel

    def _number(self, key: str, **options: Any) -> NumberField:
        s = self.session
        return self.bound.of(
            Cut, key, lambda: s.cut, lambda values: edits.with_cut(s.job, s.index, **values), **options
        )

    def _choice(self, key: str, label: str, items: tuple[tuple[str, str], ...], **options: Any) -> ChoiceField:
        field = ChoiceField(label, items, **options)
        field.chosen.connect(
            lambda value: self.session.attempt(lambda: self.session.edit_cut(f"Change {label.lower()}", **{key: value}))
        )
        return field

    def _speed_hint(self) -> str:
        result, system = self.session.result, self.session.system
        speeds = usual_speeds(result.setup, result.state.ae, result.state.ap)
        if speeds is None:
            return "no table value"
        low, high = (units.SURFACE_SPEED.text(speed, system) for speed in speeds)
        return f"table {low} to {high}"

    def _life_hint(self) -> str:
        result, system = self.session.result, self.session.system
        return f"at {units.SURFACE_SPEED.full(result.state.vc, system)}"

    def _chip_hint(self) -> str:
        chip, system = self.session.result.setup.chip, self.session.system
        if chip.typical is None:
            return "no table value"
        return f"table {units.CHIP.text(chip.typical, system)}"

    # ------------------------------------------------------------ edits

    def _on_lock(self, key: str, locked: bool) -> None:
        held = set(self.session.cut.locks)
        held = held | {key} if locked else held - {key}
        self.session.attempt(lambda: self.session.edit_cut("Hold or free a field", locks=tuple(sorted(held))))

    def _on_speed_by(self, key: str) -> None:
        result = self.session.result
        state, economy = result.state, result.economy
        values: dict[str, Any] = {
            "vc_m_min": round(float(surface_speed(state.n_asked, state.d_eff)), 1),
            "n_rpm": round(state.n_asked, 1),
            # without a life of the tables the edit is refused in words
            "life_min_wanted": 60.0 if economy is None else round(economy.life),
        }
        self.session.attempt(lambda: self.session.edit_cut("Change how speed is given", **{key: values[key]}))

    def _on_feed_by(self, key: str) -> None:
        state, cut = self.session.result.state, self.session.cut
        if _feed_key(cut) == key:
            return
        values: dict[str, Any] = {
            "hex_mm": round(state.hex_asked, 5),
            "fz_mm": round(state.fz_asked, 5),
            "book": Book(fz_mm=round(state.fz_asked, 5), ae_over_dc=round(min(state.x, 1.0), 4)),
        }
        self.session.attempt(lambda: self.session.edit_cut("Change how feed is given", **{key: values[key]}))

    def _set_book(self, **values: float | None) -> None:
        book = self.session.cut.book
        assert book is not None  # the fields show only with a book value
        self.session.edit_cut("Change the book value", book=book.with_values(**values))

    def _on_role(self, role: str) -> None:
        """What goes with a role is changed in the same step, and told."""
        s, told = self.session, ""

        def change() -> None:
            nonlocal told
            job, told = edits.with_role(s.job, s.index, role, s.library)
            s.edit("Change role", job)

        if s.attempt(change) and told:
            s.say("note", told[:1].upper() + told[1:])

    def _on_starting_values(self) -> None:
        s, share = self.session, self.speed_share.currentData()
        s.attempt(
            lambda: s.edit("Take starting values", edits.with_starting_values(s.job, s.index, s.library, share=share))
        )

    # ------------------------------------------------------------ following

    def _refresh(self) -> None:
        cut = self.session.cut
        speed = next((key for key in SPEEDS if getattr(cut, key) is not None), "vc_m_min")
        feed = _feed_key(cut)
        for field, value in (
            (self.strategy, cut.strategy), (self.role, cut.role), (self.direction, cut.direction),
            (self.coolant, cut.coolant), (self.school, cut.compensation), (self.speed_by, speed), (self.feed_by, feed),
        ):  # fmt: skip
            field.show_value(value)
        for key, row in self._speed_rows.items():
            row.setVisible(key == speed)
        for key, row in self._feed_rows.items():
            row.setVisible(key == feed)
        self._book_at.setVisible(feed == "book")
        self.school.setVisible(feed != "fz_mm")
        self.tilt.setVisible(self.session.result.setup.shape.is_ball)
        for key in ("ae_mm", "ap_mm"):
            self.bound.fields[key].show_lock(key in cut.locks)
        economy = self.session.result.economy
        self.heat.setText("" if economy is None else f"This engagement may run {economy.m:.2f} × the table's speed")


def _feed_key(cut: Cut) -> str:
    return next(key for key in ("hex_mm", "fz_mm", "book") if getattr(cut, key) is not None)


def _side_by_side(*parts: QWidget) -> QWidget:
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(12)
    for part, share in zip(parts, (4, 3), strict=True):
        layout.addWidget(part, share)
    return row
