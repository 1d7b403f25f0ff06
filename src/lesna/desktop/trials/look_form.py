"""The log: one look at one edge, typed beside the machine; Ctrl+Enter takes it."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.trials.answers import Taught, TrialAnswers
from lesna.desktop.trials.edge_drawing import EdgeDrawing
from lesna.desktop.widgets.fields import Choice, ChoiceField, NumberField, TextField
from lesna.desktop.widgets.words import Words
from lesna.learning.ladder import Rung
from lesna.learning.settings import columns_of
from lesna.model import names, units
from lesna.model.errors import InputError
from lesna.model.facts import fact_of
from lesna.model.trials import RETIRED, WEAR_KINDS, Reading

if TYPE_CHECKING:
    from lesna.desktop.trials.machine_dialog import MachineDialog

#: numbers that are typed at each look, with how they are shown; the others come from the cut or the chosen step
_NUMBERS: tuple[tuple[str, units.Quantity, bool], ...] = (
    ("minutes", units.MINUTES, False), ("vb_mm", units.CHIP, True), ("load_pct", units.PLAIN, True), ("parts", units.PLAIN, True),
    ("ae_mm", units.LENGTH, False), ("ap_mm", units.LENGTH, False), ("n_rpm", units.SPINDLE_SPEED, False),
    ("vf_mm_min", units.FEED, False), ("override_pct", units.PLAIN, True),
)  # fmt: skip
_LABELS = {
    "load_pct": "Load, % S1",
    "override_pct": "Override, %",
    "minutes": "In the cut",
    "vb_mm": "Wear VB",
    "n_rpm": "Spindle n",
}
_TEXTS = ("chip_colour", "chip_shape", "finish", "note")
#: how to begin, where nothing was logged yet
_BEGIN = (
    "Cut the first step; after its minutes look at the edge, spindle at rest and tool out, and write down what you see."
)
#: widths of labels and numbers in the form [px]
_LABEL, _EDIT = 86, 108
_SET = ("ae_mm", "ap_mm", "n_rpm", "vf_mm_min")
#: what a usual look at the sound of a cut says
_SOUNDS = ("", "calm", "chatter", "harsher than before")


class LookForm(QWidget):
    """What is typed is a reading once it is taken; the store gets it behind the window."""

    def __init__(self, session: Session, answers: TrialAnswers) -> None:
        super().__init__()
        self.session, self.answers = session, answers
        self.values: dict[str, Any] = {}
        self.drawing = EdgeDrawing(session)
        self.drawing.chosen.connect(lambda zone: self._put("wear_zone", zone))
        self.trial, self.edge = _Named("Trial"), _Named("Edge")
        self.numbers = {key: self._number(key, quantity, empty) for key, quantity, empty in _NUMBERS}
        self.kind = ChoiceField("Kind of wear", tuple(WEAR_KINDS.items()))
        self.kind.chosen.connect(lambda value: self._put("wear_kind", value))
        self.retired = ChoiceField("The edge was", tuple(RETIRED.items()))
        self.retired.chosen.connect(lambda value: self._put("retired", value))
        self.coolant = ChoiceField("Coolant on", tuple(names.COOLANTS.items()))
        self.coolant.chosen.connect(lambda value: self._put("coolant", value))
        self.sound = _Named("Sound", _SOUNDS)
        self.texts = {key: self._text(key) for key in _TEXTS}
        self.who = TextField("Who", lambda text: self._put("who", text))
        self.log = QPushButton("Log this look")
        self.log.setToolTip("Ctrl+Enter")
        self.log.clicked.connect(lambda checked=False: self.take())
        self.picture = QPushButton("Measure in a picture ...")
        self.picture.clicked.connect(lambda checked=False: self.measure())
        self.machine = QPushButton("From the machine ...")
        self.machine.clicked.connect(lambda checked=False: self.listen())
        self.words = Words()
        self.words.setWordWrap(True)
        self._rung: Rung | None = None
        #: what was taken over before it is known which looks went before
        self._heard: list[tuple[float, float | None, float | None, str]] = []
        self._assemble()
        QShortcut(QKeySequence("Ctrl+Return"), self, self.take)
        session.cut_selected.connect(self.clear)
        session.opened.connect(self.clear)
        answers.taught.changed.connect(self.refresh)

    def _number(self, key: str, quantity: units.Quantity, empty: bool) -> NumberField:
        fact = fact_of(Reading, key)
        return NumberField(
            _LABELS.get(key, fact.label),
            quantity,
            lambda value: self._put(key, value),
            may_be_empty=empty or key in _SET,
        )

    def _text(self, key: str) -> TextField:
        return TextField(fact_of(Reading, key).label, lambda text: self._put(key, text))

    def _assemble(self) -> None:
        numbers, texts = self.numbers, self.texts
        columns: tuple[tuple[QWidget, ...], ...] = (
            (self.trial, self.edge, numbers["minutes"], numbers["vb_mm"], self.kind, self.retired, numbers["load_pct"]),
            (self.coolant, self.sound, texts["chip_colour"], texts["chip_shape"], texts["finish"], numbers["parts"], self.who),
            (numbers["ae_mm"], numbers["ap_mm"], numbers["n_rpm"], numbers["vf_mm_min"], numbers["override_pct"], texts["note"]),
        )  # fmt: skip
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(3)
        for column, widgets in enumerate(columns):
            for row, widget in enumerate(widgets):
                grid.addWidget(widget, row, column)
            grid.setColumnStretch(column, 1)
        for label in (
            *(field.label for field in self._fields),
            self.kind.label,
            self.retired.label,
            self.coolant.label,
        ):
            label.setFixedWidth(_LABEL)
        for field in numbers.values():
            field.edit.setFixedWidth(_EDIT)
        buttons = QHBoxLayout()
        buttons.addWidget(self.log)
        buttons.addWidget(self.picture)
        buttons.addWidget(self.machine)
        buttons.addWidget(self.words, 1)
        right = QVBoxLayout()
        right.setSpacing(3)
        right.addLayout(grid)
        right.addStretch(1)
        right.addLayout(buttons)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(12)
        whole.addWidget(self.drawing)
        whole.addLayout(right, 1)
        previous: QWidget = self.drawing
        for widgets in columns:
            for widget in widgets:
                QWidget.setTabOrder(previous, widget)
                previous = widget

    # ------------------------------------------------------------ what stands there

    def _put(self, key: str, value: Any) -> None:
        if value in (None, ""):
            self.values.pop(key, None)
        else:
            self.values[key] = value
        self.refresh()

    def clear(self) -> None:
        """Another cut: what was typed for the former one goes."""
        self.values = {}
        self._rung = None
        self._heard.clear()
        for name in (self.trial, self.edge, self.sound):
            name.show_value("")
        self.drawing.show_zone(None)
        self.refresh()

    def plan(self, rung: Rung | None) -> None:
        """The step that is cut: its speed, feed and engagement are what stands until something else is typed."""
        self._rung = rung
        self.refresh()

    @property
    def _planned(self) -> dict[str, Any]:
        """What the reading says where nothing is typed."""
        return columns_of(self.session.result if self._rung is None else self._rung.result)

    def refresh(self) -> None:
        """Shows what is typed, and what stands where nothing is."""
        if not self.session.results:
            return
        if self._heard and self.answers.taught.value is not None:
            self.take_over(*self._heard.pop(0))
        system, planned = self.session.system, self._planned
        for key, field in self.numbers.items():
            typed = self.values.get(key)
            field.show_value(typed if typed is not None else planned.get(key), system)
        self.kind.show_value(self.values.get("wear_kind", "uniform"))
        self.retired.show_value(self.values.get("retired", ""))
        self.coolant.show_value(self.values.get("coolant", self.session.cut.coolant))
        self.trial.offer(self._trials(), self._trial)
        self.edge.offer(self._edges(), self._next_edge())
        self.log.setEnabled(self.answers.bank.takes_readings)
        if self.answers.taught.value is not None and not self._own() and not self.words.text():
            self._say(_BEGIN, wrong=False)

    def _own(self) -> list[Reading]:
        taught: Taught | None = self.answers.taught.value
        return [] if taught is None else [one.reading for one in taught.fit.own]

    def _trials(self) -> list[str]:
        return list(dict.fromkeys(one.trial for one in reversed(self._own())))

    @property
    def _trial(self) -> str:
        """The trial that is going on, or one of the cut's own name."""
        return next(iter(self._trials()), self.session.cut.name)

    def _edges(self) -> list[str]:
        """Edges of the trial that are still in use, the newest first."""
        named = self.trial.text() or self._trial
        own = [one for one in self._own() if one.trial == named]
        ended = {one.edge for one in own if one.retired or one.is_broken}
        return list(dict.fromkeys(one.edge for one in reversed(own) if one.edge not in ended))

    def _next_edge(self) -> str:
        named = self.trial.text() or self._trial
        return f"E{len({one.edge for one in self._own() if one.trial == named}) + 1}"

    # ------------------------------------------------------------ taking

    @property
    def _fields(self) -> list[NumberField | TextField]:
        return [*self.numbers.values(), *self.texts.values(), self.who]

    def reading(self) -> Reading:
        """The look as it would be logged (InputError names what is missing or wrong)."""
        if "minutes" not in self.values:
            raise InputError("is missing and must be given", "minutes in the cut")
        session = self.session
        values = {
            **self._planned, "trial": self.trial.text() or self._trial, "edge": self.edge.text() or self._next_edge(),
            "taken_on": date.today().isoformat(), "job": session.job.title, "step": None if self._rung is None else self._rung.number,
            "sound": self.sound.text(), **self.values,
        }  # fmt: skip
        return Reading.read({key: value for key, value in values.items() if value not in (None, "")})

    def take(self) -> None:
        """Logs the look; the minutes have the keyboard for the next one."""
        from lesna.bank.store import Source

        if not all(field.commit_typing() for field in self._fields):
            return
        try:
            reading = self.reading()
        except InputError as error:
            self._say(str(error), wrong=True)
            return
        self._say("", wrong=False)
        self.log.setEnabled(False)
        source = Source(who=reading.who, job=reading.job, trial=reading.trial)
        self.answers.bank.log([reading], source, self._refused, lambda: self._taken(reading))

    def _taken(self, reading: Reading) -> None:
        for key in ("minutes", "vb_mm", "load_pct", "parts", "wear_kind", "wear_zone", "retired", "note", "picture"):
            self.values.pop(key, None)
        self.sound.show_value("")
        self.edge.show_value("" if reading.retired or reading.is_broken else reading.edge)
        self.drawing.show_zone(None)
        for field in self._fields:
            field.forget_typing()
        self.refresh()
        self._say(f"{reading.edge} at {reading.minutes:g} min is logged", wrong=False)
        self.numbers["minutes"].edit.setFocus()

    def _refused(self, sentence: str) -> None:
        self.log.setEnabled(True)
        self._say(sentence, wrong=True)

    def _say(self, sentence: str, *, wrong: bool) -> None:
        self.words.mark("wrong" if wrong else "faint")
        self.words.setText(units.said(sentence[:1].upper() + sentence[1:], self.session.system))

    def listen(self) -> MachineDialog:
        """Opens the machine's own data; what is taken over becomes this look's minutes, load and override."""
        from lesna.desktop.trials.machine_dialog import MachineDialog

        dialog = MachineDialog(self.session, self)
        dialog.taken.connect(self.take_over)
        dialog.show()
        return dialog

    def take_over(self, minutes: float, load: float | None, override: float | None, note: str) -> None:
        """Puts what the machine said into the look: its minutes go on from the last look at this edge, once that is known."""
        if self.answers.taught.value is None:
            self._heard.append((minutes, load, override, note))
            return
        trial, edge = self.trial.text() or self._trial, self.edge.text() or self._next_edge()
        before = [one.minutes for one in self._own() if (one.trial, one.edge) == (trial, edge)]
        base = self.values.get("minutes", max(before, default=0.0))
        told = {"minutes": round(base + minutes, 2), "load_pct": load, "override_pct": override}
        self.values.update({key: value for key, value in told.items() if value is not None})
        if note:
            self.values["note"] = note
            self.texts["note"].show_value(note)
        for key in told:
            self.numbers[key].forget_typing()
        self.refresh()

    def measure(self) -> None:
        """Opens the caliper; what it measures is the wear of this look."""
        from lesna.desktop.trials.caliper import CaliperDialog

        dialog = CaliperDialog(self.session, self)
        dialog.measured.connect(self._measured)
        dialog.kept.connect(self._keep_picture)
        dialog.open()

    def _measured(self, land: float, name: str) -> None:
        self._put("vb_mm", land)
        self._put("picture", name)

    def _keep_picture(self, name: str, content: bytes, mm_per_pixel: float) -> None:
        from lesna.bank.store import Source

        of = Reading.read({"trial": self.trial.text() or self._trial, "edge": self.edge.text() or self._next_edge(),
                           "minutes": self.values.get("minutes", 0.0)})  # fmt: skip
        self.answers.bank.write(
            "picture", lambda bank: bank.keep_picture(of, name, content, mm_per_pixel, Source(who=self.values.get("who", ""))),
            lambda _: self._say(f"The picture {name} is kept with {of.edge}", wrong=False), self._refused,
        )  # fmt: skip


class _Named(QWidget):
    """A name that is typed or chosen; what stands where nothing is typed is shown faint."""

    def __init__(self, label: str, offered: tuple[str, ...] = ()) -> None:
        super().__init__()
        self.label = Words(label)
        self.label.setFixedWidth(_LABEL)
        self.combo = Choice()
        self.combo.setEditable(True)
        self.combo.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.combo.setAccessibleName(label)
        self.combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.combo.setMinimumContentsLength(8)
        self.combo.setMinimumWidth(60)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(7)
        row.addWidget(self.label)
        row.addWidget(self.combo, 1)
        row.addStretch(0)
        self.setFocusProxy(self.combo)
        self.offer(list(offered), "")

    def text(self) -> str:
        """What is typed or chosen."""
        return self.combo.currentText().strip()

    def show_value(self, text: str) -> None:
        """Shows a name."""
        self.combo.setEditText(text)

    def offer(self, offered: list[str], usual: str) -> None:
        """Offers names; `usual` stands where nothing is typed."""
        if [self.combo.itemText(k) for k in range(self.combo.count())] != offered:
            typed = self.text()
            self.combo.clear()
            self.combo.addItems(offered)
            self.combo.setEditText(typed)
        line = self.combo.lineEdit()
        assert line is not None  # it is editable
        line.setPlaceholderText(usual)
