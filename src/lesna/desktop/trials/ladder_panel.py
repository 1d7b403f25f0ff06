"""The ladder of test cuts: what is stepped and how far, each step with its state, when to stop."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QHeaderView, QPushButton

from lesna.desktop.session import Session
from lesna.desktop.trials.answers import Taught, TrialAnswers
from lesna.desktop.widgets.fields import ChoiceField, NumberField
from lesna.desktop.widgets.painting import Panel, scrolled
from lesna.desktop.widgets.plain_table import add_row, chosen_row, plain_table
from lesna.desktop.widgets.words import Words
from lesna.learning.ladder import Ladder, Rung
from lesna.learning.stepping import STEPPED
from lesna.model import units
from lesna.model.trials import Reading

_WHAT = tuple((key, stepped.name.capitalize()) for key, stepped in STEPPED.items())
_STEPS = (("3", "3 steps"), ("4", "4 steps"), ("5", "5 steps"), ("6", "6 steps"), ("8", "8 steps"))
#: widths of the short fields [px]
_NARROW, _EDIT = 62, 58
#: a look counts for a step whose speed and feed it had within this
_SAME = 0.03


class LadderPanel(Panel):
    """`chosen` tells the step that was chosen, to be logged or set."""

    chosen = Signal(object)

    def __init__(self, session: Session, answers: TrialAnswers) -> None:
        super().__init__("Test cuts")
        self.session, self.answers = session, answers
        self.ladder: Ladder | None = None
        self._system: units.System | None = None
        self.what = ChoiceField("Step what", _WHAT, label_width=0)
        self.what.chosen.connect(lambda value: answers.want(what=value, size=None))
        self.steps = ChoiceField("How many steps", _STEPS, label_width=0)
        self.steps.chosen.connect(lambda value: answers.want(steps=int(value)))
        self.size_ = NumberField("Step size", units.SHARE, lambda value: answers.want(size=value), may_be_empty=True)
        self.minutes = NumberField(
            "Look after", units.MINUTES, lambda value: answers.want(minutes=value), may_be_empty=True
        )
        for field in (self.size_, self.minutes):
            field.label.setFixedWidth(_NARROW)
            field.edit.setFixedWidth(_EDIT)
            field.hint.hide()
        self.real = QCheckBox("real part")
        self.real.toggled.connect(lambda real: answers.want(on_scrap=not real))
        top = QHBoxLayout()
        top.addWidget(self.what, 2)
        top.addWidget(self.steps, 1)
        self.table = plain_table("Steps of the ladder", ("Step", "F", "min", "worn", "done"), 3)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.itemSelectionChanged.connect(self._on_row)
        self.sums = Words()
        self.sums.setObjectName("faint")
        self.sums.setWordWrap(True)
        self.rule = Words()
        self.rule.setWordWrap(True)
        self.set_ = QPushButton("Set step")
        self.set_.clicked.connect(lambda checked=False: self._set())
        row = QHBoxLayout()
        self.keep = QPushButton("Keep plan")
        self.keep.setToolTip("Kept with the trial in the bank, and printed on the set-up sheet")
        self.keep.clicked.connect(lambda checked=False: self._keep())
        row.addWidget(self.set_)
        row.addWidget(self.keep)
        row.addWidget(self.real)
        row.addStretch(1)
        self.real.setToolTip("Less is risked than on a scrap piece")
        area, column = scrolled(self.sums, self.rule)
        area.setMinimumHeight(18)
        column.addStretch(1)
        self.body.addLayout(top)
        sizes = QHBoxLayout()
        sizes.addWidget(self.size_)
        sizes.addWidget(self.minutes)
        self.body.addLayout(sizes)
        self.body.addWidget(self.table, 3)
        self.body.addLayout(row)
        self.body.addWidget(area, 2)
        answers.taught.changed.connect(self.refresh)
        answers.wanted_changed.connect(self.refresh)

    @property
    def rung(self) -> Rung | None:
        """The chosen step."""
        place = chosen_row(self.table)
        return None if self.ladder is None or place is None else self.ladder.rungs[place]

    def refresh(self) -> None:
        """Shows the ladder as it stands, or why there is none."""
        wanted, system = self.answers.wanted, self.session.system
        taught: Taught | None = self.answers.taught.value
        self.what.show_value(wanted.what)
        self.steps.show_value(str(wanted.steps), f"{wanted.steps} steps")
        self.size_.show_value(wanted.size, system)
        self.size_.edit.setPlaceholderText(units.SHARE.full(STEPPED[wanted.what].size, system))
        self.minutes.show_value(wanted.minutes, system)
        ladder = None if taught is None else taught.ladder
        if ladder is not self.ladder or system != self._system:
            chosen = self.table.currentRow() if ladder is self.ladder else -1
            self.ladder, self._system = ladder, system
            self._show_rungs([] if taught is None else [one.reading for one in taught.fit.own])
            if chosen >= 0:
                self.table.selectRow(chosen)
        self.set_.setEnabled(self.rung is not None)
        self.keep.setEnabled(ladder is not None)
        if ladder is None:
            why = "" if taught is None else taught.no_ladder
            self.sums.setText(units.said(why[:1].upper() + why[1:], system) or self.answers.taught.trouble)
            self.rule.setText("")
            return
        shown = STEPPED[ladder.what]
        where = "a scrap piece" if ladder.on_scrap else "a real part"
        self.sums.setText(
            f"In all {ladder.minutes:.0f} min and {units.BULK.full(ladder.volume, system)} of {where}. Ceiling "
            f"{shown.quantity.full(ladder.ceiling, system)}, held by {ladder.held_by.lower()}."
        )
        self.rule.setText("\n".join(ladder.stop_rule))

    def _show_rungs(self, readings: list[Reading]) -> None:
        self.table.setRowCount(0)
        if self.ladder is None:
            return
        system, shown = self.session.system, STEPPED[self.ladder.what]
        self.table.setHorizontalHeaderLabels(
            [f"Step, {shown.quantity.unit(system)}", units.FEED.unit(system), "min", "worn", "done"]
        )
        for rung in self.ladder.rungs:
            state = rung.result.state
            name = f"{rung.number}  {shown.quantity.text(rung.value, system)}"
            held = f"; the ceiling, held by {rung.held_by.lower()}" if rung.held_by else ""
            words = (
                name,
                units.FEED.text(float(state.vf), system),
                f"{rung.minutes:.0f}",
                f"{100 * rung.worn_chance:.0f} %",
                _state(rung, readings),
            )
            tips = (f"step {rung.number} at {float(state.n):.0f} rpm{held}", f"feed, {units.FEED.unit(system)}",
                    "minutes in the cut until the look", "chance that the edge is worn by then", "what readings say of it")  # fmt: skip
            add_row(self.table, words, tips)

    def _keep(self) -> None:
        """Keeps the plan with the trial that is going on, or one of the cut's own name."""
        from lesna.bank.plans import keep_plan
        from lesna.learning.told import ladder_data

        taught: Taught | None = self.answers.taught.value
        if self.ladder is None or taught is None:
            return
        session, plan = self.session, ladder_data(self.ladder)
        job, cut = session.job, session.cut.name
        trial = taught.fit.own[-1].reading.trial if taught.fit.own else cut
        self.answers.bank.write(
            "plan", lambda bank: keep_plan(bank, trial, job, cut, plan),
            lambda _: session.say("note", f"the plan is kept with the trial {trial} and stands on the set-up sheet"),
            lambda text: session.say("wrong", text),
        )  # fmt: skip

    def _on_row(self) -> None:
        self.set_.setEnabled(self.rung is not None)
        self.chosen.emit(self.rung)

    def _set(self) -> None:
        rung = self.rung
        if rung is None:
            return
        cut = rung.result.setup.parts.cut
        values = {
            key: getattr(cut, key)
            for key in ("ae_mm", "ap_mm", "fz_mm", "hex_mm", "book", "vc_m_min", "n_rpm", "life_min_wanted")
        }
        self.session.attempt(lambda: self.session.edit_cut(f"Step {rung.number} of the trial", **values))


def _state(rung: Rung, readings: list[Reading]) -> str:
    """Whether a step was cut already, as far as readings say."""
    state = rung.result.state
    same = [
        one for one in readings
        if one.n_rpm and one.vf_mm_min and abs(one.n_rpm / float(state.n) - 1) < _SAME and abs(one.vf_mm_min / float(state.vf) - 1) < _SAME
        and one.ae_mm and one.ap_mm and abs(one.ae_mm / float(state.ae) - 1) < _SAME and abs(one.ap_mm / float(state.ap) - 1) < _SAME
    ]  # fmt: skip
    if not same:
        return ""
    lost = any(one.is_broken for one in same)
    return "lost" if lost else "cut"
