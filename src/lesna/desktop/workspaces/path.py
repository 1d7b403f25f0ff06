"""Path: an NC program of the cut through the stock, what it meets, and better feeds for it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from lesna.desktop.dialogs import ask_where_to_save
from lesna.desktop.dropped import PROGRAMS
from lesna.desktop.follower import Follower
from lesna.desktop.programs.answers import Programs, Simulated, Variant
from lesna.desktop.programs.picture import PathPicture
from lesna.desktop.programs.program_text import ProgramText
from lesna.desktop.programs.series import SERIES
from lesna.desktop.programs.strip_chart import StripChart
from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.desktop.widgets.faces import FacesPanel
from lesna.desktop.widgets.fields import ChoiceField, TextField
from lesna.desktop.widgets.painting import Panel
from lesna.model import units
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import write_atomic
from lesna.planning.cut.economy import rate_of
from lesna.planning.program.level import AIMS
from lesna.planning.program.run import Run
from lesna.planning.program.summary import gain_of
from lesna.planning.program.told import clock, program_lines
from lesna.planning.program.work import stock_from_text

_SIDE, _ROW = 372, 23
_FILTER = f"NC programs ({' '.join(f'*{ending}' for ending in PROGRAMS)});;All files (*)"
_TICK_MS = 40
#: share of the way from which a feed that is not reached is told
_WORTH_TELLING = 0.01
#: minutes of an hour
_SIXTY = 60.0
#: times as fast as the machine
_SPEEDS = ("1", "5", "20", "100")
#: what each kind of place is called, and the unit of its value
_KINDS = {
    "rapid_in_stock": ("Rapid through stock", units.VOLUME), "plunge": ("Plunge, tool not centre cutting", units.LENGTH),
    "too_deep": ("Deeper than the flutes", units.LENGTH), "holder": ("Holder touches", units.LENGTH), "sliver": ("Thin web", units.LENGTH),
}  # fmt: skip
#: peaks and valleys that are listed
_LISTED = 3


class PathWorkspace(QWidget):
    """The step Path of the route."""

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__()
        self.session = session
        self.programs = Programs(session, runner)
        self.found: Simulated | None = None
        self.variants: tuple[Variant, ...] = ()
        self.chosen = ""
        self.picture, self.strips, self.text = PathPicture(session), StripChart(session), ProgramText()
        self._assemble()
        self.timer = QTimer(self)
        self.timer.setInterval(_TICK_MS)
        self.timer.timeout.connect(self._tick)
        self.watch = QTimer(self)
        self.watch.setInterval(2000)
        self.watch.timeout.connect(self.programs.look_again)
        self.picture.chosen.connect(self.go_to_step)
        self.strips.moved.connect(self.go_to_time)
        self.text.chosen.connect(self.go_to_line)
        self.programs.simulation.changed.connect(self._show)
        self.programs.variants.changed.connect(self._show_variants)
        Follower(self, session, self._show)

    # ------------------------------------------------------------ assembly

    def _assemble(self) -> None:
        left = QSplitter(Qt.Orientation.Vertical)
        left.setChildrenCollapsible(False)
        above, below = Panel(""), Panel("")
        above.title.hide()
        below.title.hide()
        above.body.setContentsMargins(4, 4, 4, 4)
        above.body.addWidget(self.picture, 1)
        below.body.setContentsMargins(4, 2, 4, 4)
        below.body.addLayout(self._player())
        below.body.addWidget(self.strips, 1)
        left.addWidget(above)
        left.addWidget(below)
        left.setStretchFactor(0, 3)
        left.setStretchFactor(1, 2)
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addLayout(self._head())
        column.addWidget(self.words)
        column.addWidget(left, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 12, 8)
        row.setSpacing(10)
        row.addLayout(column, 1)
        row.addWidget(self._side())

    def _head(self) -> QHBoxLayout:
        self.open = _button("Take a program ...", self._ask_program)
        self.drop = _button("Leave it", lambda: self._edit("Leave the program", None))
        self.name = QLabel()
        self.name.setObjectName("title")
        self.words = QLabel()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        self.stop = _button("Stop", self._toggle)
        row = QHBoxLayout()
        for part in (self.open, self.drop):
            row.addWidget(part)
        row.addWidget(self.name, 1)
        row.addWidget(self.stop)
        return row

    def _player(self) -> QHBoxLayout:
        self.play = _button("Play", self._play)
        self.play.setAccessibleName("Play the program")
        self.speed = ChoiceField("Speed", [(word, f"{word} ×") for word in _SPEEDS], label_width=0)
        self.speed.show_value("20", "20 ×")
        self.colour = ChoiceField("Colour by", [(series.id, series.name.lower()) for series in SERIES], label_width=62)
        self.colour.show_value("force", "side force")
        self.colour.chosen.connect(self._colour)
        self.here = QLabel()
        self.here.setObjectName("faint")
        self.here.setMinimumWidth(40)
        self.here.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row = QHBoxLayout()
        row.setSpacing(8)
        for part in (self.play, self.speed, self.colour):
            row.addWidget(part)
        row.addWidget(self.here, 1)
        return row

    def _side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(_SIDE)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        what = Panel("This program")
        self.figures = QLabel()
        self.figures.setTextFormat(Qt.TextFormat.PlainText)
        self.figures.setWordWrap(True)
        what.body.addWidget(self.figures)
        better = Panel("Levelled feeds")
        better.body.addWidget(self._table())
        self.gain = QLabel()
        self.gain.setObjectName("faint")
        self.gain.setWordWrap(True)
        self.export = _button("Write this program ...", self._ask_export)
        better.body.addWidget(self.gain)
        better.body.addWidget(self.export, 0, Qt.AlignmentFlag.AlignLeft)
        self.places = QListWidget()
        self.places.setAccessibleName("Places to look at")
        self.places.itemActivated.connect(self._on_place)
        self.places.itemClicked.connect(self._on_place)
        self.faces = FacesPanel({"Look here": self.places, "Program": self.text, "Stock": self._stock()})
        for panel, share in ((what, 0), (better, 0), (self.faces, 1)):
            column.addWidget(panel, share)
        return side

    def _table(self) -> QTableWidget:
        self.table = QTableWidget(0, 6)
        self.table.setAccessibleName("Levelled feeds")
        self.table.setHorizontalHeaderLabels(["", "time", "saved", "peak", "95 %", "edges"])
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(_ROW)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.horizontalHeader().setFixedHeight(_ROW)
        self.table.setFixedHeight(_ROW * (len(AIMS) + 2) + 6)
        self.table.itemSelectionChanged.connect(self._on_variant)
        return self.table

    def _stock(self) -> QWidget:
        """Where the program begins, which a program does not say."""
        page = QWidget()
        self.stock = TextField("Stock", self._take_stock)
        self.stock.edit.setPlaceholderText("the feature's block")
        self.tool = TextField("T number", self._take_tool)
        self.tool.edit.setPlaceholderText("where there are several")
        hint = QLabel("Corners of the block in mm, lower then upper: block:-60,-40,-24,60,40,0. Left empty it is the block of the "
                      "feature, the middle of its top at the program's zero.")  # fmt: skip
        hint.setObjectName("faint")
        hint.setWordWrap(True)
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 0, 0)
        for part in (self.stock, self.tool, hint):
            column.addWidget(part)
        column.addStretch(1)
        return page

    def showEvent(self, event: object) -> None:
        """Asks for the answers while somebody looks."""
        self.programs.simulation.watch(self, True)
        self.programs.variants.watch(self, True)
        self.watch.start()

    def hideEvent(self, event: object) -> None:
        """Nobody looks: work ends, and nothing plays on."""
        self.timer.stop()
        self.watch.stop()
        self.programs.simulation.watch(self, False)
        self.programs.variants.watch(self, False)

    # ------------------------------------------------------------ the program

    def _ask_program(self) -> None:
        start = self.session.document.path.parent if self.session.document.path is not None else Path.home()
        name, _ = QFileDialog.getOpenFileName(self, "Take a program", str(start), _FILTER)
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Names a program for the chosen cut, as an edit that can be undone."""
        folder = self.session.document.path.parent if self.session.document.path is not None else None
        inside = folder is not None and path.resolve().is_relative_to(folder.resolve())
        file = (
            str(path.resolve().relative_to(folder.resolve())) if inside and folder is not None else str(path.resolve())
        )
        ref = self.programs.ref
        kept = {} if ref is None else {"stock": ref.stock, "tool": ref.tool}
        self._edit("Take a program", {**kept, "file": file, "digest": self.programs.disk_at(path).digest})

    def _edit(self, label: str, values: dict[str, object] | None) -> None:
        self.session.attempt(lambda: self.session.edit_cut(label, program=values))

    def _with(self, **changed: object) -> None:
        ref = self.programs.ref
        if ref is not None:
            self.session.edit_cut(
                "Change the program's stock" if "stock" in changed else "Choose the tool",
                program={**dict(ref), **changed},
            )

    def _take_stock(self, text: str) -> None:
        if text.strip():
            stock_from_text(text.strip())
        self._with(stock=text.strip())

    def _take_tool(self, text: str) -> None:
        word = text.strip().lstrip("Tt")
        if word and not word.isdigit():
            raise InputError("write a T number, such as 3")
        self._with(tool=int(word) if word else None)

    # ------------------------------------------------------------ showing

    @property
    def run(self) -> Run | None:
        """The run at which the cursor stands: the program's own."""
        return self.found.run if self.found is not None else None

    def _show(self) -> None:
        ref, answer = self.programs.ref, self.programs.simulation
        found = answer.value if isinstance(answer.value, Simulated) else None
        self.name.setText(Path(ref.file).name if ref is not None else "")
        self.drop.setVisible(ref is not None)
        self.stock.setEnabled(ref is not None)
        self.tool.setEnabled(ref is not None)
        if ref is not None:
            self.stock.show_value(ref.stock)
            self.tool.show_value("" if ref.tool is None else str(ref.tool))
        self.words.setText(self._words(found))
        self.words.setVisible(bool(self.words.text()))
        if found is not self.found:
            self.found = found
            self.chosen = ""
            run = None if found is None else found.run
            self.picture.show_run(run, () if found is None else found.summary.findings)
            self.strips.show_runs(run, None)
            self.text.show_text("" if run is None else run.geometry.program.text)
            if run is not None:
                self.go_to_step(len(run.geometry.steps) - 1)
        self._show_figures()
        self._show_places()
        self._show_variants()

    def _words(self, found: Simulated | None) -> str:
        ref, answer = self.programs.ref, self.programs.simulation
        if ref is None:
            return "Take an NC program of this cut, or drop it here: its force along the path, its time, and feeds that fit each place."
        if answer.trouble:
            return answer.trouble[:1].upper() + answer.trouble[1:]
        if found is None:
            return answer.progress or "Simulating ..."
        told = []
        if ref.digest and self.programs.disk(ref).digest != ref.digest:
            told.append("The file has changed since it was taken; what is shown is the file as it is now.")
        told += [remark[:1].upper() + remark[1:] + "." for remark in found.run.geometry.remarks]
        return " ".join(told)

    def _show_figures(self) -> None:
        self.stop.setVisible(self.programs.simulation.is_asked or self.programs.variants.is_asked)
        if self.found is None:
            self.figures.setText("")
            return
        s, system = self.found.summary, self.session.system
        slow = f"; slower than programmed on {s.unreached:.0%}" if s.unreached >= _WORTH_TELLING else ""
        held = "" if s.held is None else f"\nThis geometry holds {units.FEED.full(s.held, system)}{slow}"
        worst = max(s.uses, key=lambda key: s.uses[key])
        self.figures.setText(
            f"{clock(s.time)} min:s, {clock(s.cut_time)} in contact, {s.blocks} blocks\n"
            f"Side force {units.FORCE.full(s.fxy_peak, system)} at its peak, 95 % under {units.FORCE.full(s.fxy_p95, system)}\n"
            f"Power {units.POWER.full(s.power_peak, system)}, torque {units.TORQUE.full(s.torque_peak, system)}, "
            f"bends {units.SMALL.full(s.deflection, system)}\n"
            f"Engaged {s.angle_max:.0f}° at most, {s.angle_median:.0f}° median; chip {units.CHIP.full(s.hex, system)}\n"
            f"Nearest limit: {worst.replace('_', ' ')} at {s.uses[worst]:.0%}{held}\n"
            f"Angles account for {s.flux:.1%} of the volume"
        )

    def _show_places(self) -> None:
        self.places.clear()
        if self.found is None:
            return
        run, system = self.found.run, self.session.system
        for number, finding in enumerate(self.found.summary.findings, start=1):
            name, quantity = _KINDS[finding.kind]
            self._place(f"{number}  {name}, {quantity.full(finding.value, system)}, line {finding.line}", finding.step)
        if not self.found.summary.findings:
            self._place("Nothing is touched that should not be", -1)
        lines = run.geometry.program.moves.line[run.geometry.steps.move]
        force = np.where(run.geometry.contact, run.state.fxy_peak, np.nan)
        for word, order in (
            ("Peak", np.argsort(-np.nan_to_num(force))),
            ("Valley", np.argsort(np.where(np.isnan(force), np.inf, force))),
        ):
            seen: list[int] = []
            for step in order.tolist():
                if np.isnan(force[step]) or len(seen) == _LISTED:
                    break
                if int(lines[step]) not in seen:
                    seen.append(int(lines[step]))
                    self._place(f"{word}, {units.FORCE.full(float(force[step]), system)}, line {lines[step]}", step)

    def _place(self, text: str, step: int) -> None:
        item = QListWidgetItem(text)
        item.setData(Qt.ItemDataRole.UserRole, step)
        self.places.addItem(item)

    def _show_variants(self) -> None:
        answer = self.programs.variants
        self.variants = answer.value if isinstance(answer.value, tuple) else ()
        self.stop.setVisible(self.programs.simulation.is_asked or answer.is_asked)
        self.table.blockSignals(True)
        self.table.setRowCount(0)
        if self.found is not None:
            self._row("as it is", "", self.found.summary.time, None, self.found)
            for variant in self.variants:
                if variant.made is not None and variant.summary is not None:
                    self._row(variant.aim, AIMS[variant.aim], variant.summary.time,  # type: ignore[index]
                              self.found.summary.time - variant.summary.time, Simulated(variant.made.run, variant.summary))  # fmt: skip
            names = ["", *[v.aim for v in self.variants if v.made is not None]]
            self.table.selectRow(names.index(self.chosen) if self.chosen in names else 0)
        self.table.blockSignals(False)
        troubles = [f"{v.aim}: {v.trouble}" for v in self.variants if v.trouble]
        waiting = answer.progress or ("Levelling ..." if answer.is_asked else "")
        self.gain.setText("; ".join(troubles) or waiting or self._gain())
        self.export.setEnabled(self._variant() is not None)

    def _row(self, name: str, tip: str, time: float, saved: float | None, of: Simulated) -> None:
        s, system = of.summary, self.session.system
        edges = "" if s.edges is None else f"{s.edges:.2f}"
        row = self.table.rowCount()
        self.table.insertRow(row)
        words = (name, clock(time), "" if saved is None else clock(saved) if saved >= 0 else f"-{clock(-saved)}",
                 units.FORCE.full(s.fxy_peak, system), units.FORCE.full(s.fxy_p95, system), edges)  # fmt: skip
        for place, word in enumerate(words):
            item = QTableWidgetItem(word)
            item.setToolTip(tip)
            if place:
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.table.setItem(row, place, item)

    def _variant(self) -> Variant | None:
        return next((v for v in self.variants if v.aim == self.chosen and v.made is not None), None)

    def sheet_lines(self) -> dict[str, list[str]]:
        """What the sheet says of the program that is looked at, by cut."""
        ref, variant = self.programs.ref, self._variant()
        if self.found is None or ref is None:
            return {}
        levelled = None if variant is None or variant.summary is None else (variant.aim, variant.summary)
        return {
            self.session.cut.id: program_lines(Path(ref.file).name, self.found.summary, self.session.system, levelled)
        }

    def _gain(self) -> str:
        variant = self._variant()
        if self.found is None:
            return ""
        if variant is None or variant.summary is None or variant.made is None:
            return "Choose a row to see its feeds over the strips." if self.variants else ""
        batch = self.session.job.batch
        rate = rate_of(self.session.result.setup.parts)
        gain = gain_of(self.found.summary, variant.summary, batch.parts, None if rate is None else _SIXTY * rate)
        money = (
            f", {units.MONEY.full(gain['per_batch_money'], self.session.system)}" if "per_batch_money" in gain else ""
        )
        told = f"{AIMS[variant.aim]}: {gain['saved_pct']:.1f} % a part, {gain['per_batch_h']:.1f} h{money} in {batch.parts} parts."  # type: ignore[index]
        if len(variant.made.rubbing):
            told += f" The chip is thinner than the edge needs at {len(variant.made.rubbing)} lines."
        return told[:1].upper() + told[1:]

    def _on_variant(self) -> None:
        rows = self.table.selectionModel().selectedRows()
        row = rows[0].row() if rows else 0
        item = self.table.item(row, 0)
        self.chosen = item.text() if row and item is not None else ""
        variant = self._variant()
        self.strips.show_runs(self.run, variant.made.run if variant is not None and variant.made is not None else None)
        self.gain.setText(self._gain())
        self.export.setEnabled(variant is not None)

    # ------------------------------------------------------------ the cursor

    def go_to_step(self, step: int) -> None:
        """Moves every cursor to a step."""
        if self.run is None or step < 0:
            return
        self._go(step, float(self.run.end_time[step]))

    def go_to_time(self, time: float) -> None:
        """Moves every cursor to a time of the program [s]."""
        if self.run is not None:
            step = min(int(np.searchsorted(self.run.end_time, time)), len(self.run.geometry.steps) - 1)
            self._go(step, time)

    def go_to_line(self, line: int) -> None:
        """Moves every cursor to the first step of a line, or of the next one that moves."""
        if self.run is not None:
            lines = self.run.geometry.program.moves.line[self.run.geometry.steps.move]
            later = np.flatnonzero(lines >= line)
            if len(later):
                self.go_to_step(int(later[0]))

    def _go(self, step: int, time: float) -> None:
        run = self.run
        assert run is not None  # asked by whoever calls
        self.picture.show_step(step)
        self.strips.show_time(time)
        line = int(run.geometry.program.moves.line[run.geometry.steps.move[step]])
        self.text.show_line(line)
        system = self.session.system
        x, y, z = (units.DIMENSION.text(value, system) for value in run.geometry.steps.end[step].tolist())
        met = ", ".join(series.quantity.full(float(series.of(run)[step]), system) for series in SERIES)
        self.here.setText(f"line {line}   X{x} Y{y} Z{z}   {met}")

    def _play(self) -> None:
        if self.timer.isActive():
            self.timer.stop()
        elif self.run is not None:
            if self.strips.time >= float(self.run.end_time[-1]) - 1e-6:
                self.go_to_time(0.0)
            self.timer.start()
        self.play.setText("Pause" if self.timer.isActive() else "Play")

    def _tick(self) -> None:
        if self.run is None:
            return
        whole = float(self.run.end_time[-1])
        time = self.strips.time + _TICK_MS / 1000.0 * float(self.speed.combo.currentData() or 20)
        self.go_to_time(min(time, whole))
        if time >= whole:
            self._play()

    def _colour(self, id: str) -> None:
        self.picture.show_series(id)

    def _on_place(self, item: QListWidgetItem) -> None:
        self.go_to_step(int(item.data(Qt.ItemDataRole.UserRole)))

    def _toggle(self) -> None:
        self.programs.simulation.stop()
        self.programs.variants.stop()

    # ------------------------------------------------------------ writing

    def _ask_export(self) -> None:
        variant, ref = self._variant(), self.programs.ref
        if variant is None or ref is None:
            return
        path = self.programs.path_of(ref)
        name = path.with_name(f"{path.stem}-{variant.aim}{path.suffix}")
        chosen = ask_where_to_save(
            self, "Write the program", name, "NC programs (*.nc)", path.suffix.lstrip(".") or "nc"
        )
        if chosen is not None:
            self.export_to(chosen)

    def export_to(self, path: Path) -> None:
        """Writes the chosen variant; never over the program it was made from."""
        variant, ref = self._variant(), self.programs.ref
        if variant is None or variant.made is None or ref is None:
            return
        if path.resolve() == self.programs.path_of(ref).resolve():
            self.session.say("wrong", "that is the program itself; choose another name, so that the original stays")
            return
        try:
            write_atomic(path, variant.made.content)
        except LesnaError as error:
            self.session.say("wrong", f"{path.name}: {error}")
            return
        self.session.say("note", f"{path.name} is written; run it first in single block, with reduced feed and rapids")


def _button(text: str, handler: object) -> QPushButton:
    button = QPushButton(text)
    button.clicked.connect(lambda checked=False: handler())  # type: ignore[operator]
    return button
