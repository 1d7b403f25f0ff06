"""Path: an NC program of the cut through the stock, what it meets, and better feeds for it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from lesna.desktop.dialogs import ask_where_to_save
from lesna.desktop.dropped import PROGRAMS
from lesna.desktop.follower import Follower
from lesna.desktop.programs.answers import MadePath, Programs, Simulated
from lesna.desktop.programs.levelled_table import LevelledTable
from lesna.desktop.programs.picture import PathPicture
from lesna.desktop.programs.player import Player
from lesna.desktop.programs.program_text import ProgramText
from lesna.desktop.programs.series import SERIES
from lesna.desktop.programs.stock_form import StockForm
from lesna.desktop.programs.strip_chart import StripChart
from lesna.desktop.programs.targets_form import TargetsForm
from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.desktop.widgets.faces import FacesPanel
from lesna.desktop.widgets.painting import Panel
from lesna.model import units
from lesna.model.errors import LesnaError
from lesna.model.files import write_atomic
from lesna.planning.cut.economy import rate_of
from lesna.planning.program.extremes import extremes_of
from lesna.planning.program.run import Run
from lesna.planning.program.stock import check_form
from lesna.planning.program.told import clock, program_lines

_SIDE, _FACES = 372, 170
_FILTER = f"NC programs ({' '.join(f'*{ending}' for ending in PROGRAMS)});;All files (*)"
#: share of the way from which a feed that is not reached is told
_WORTH_TELLING = 0.01
#: what each kind of place is called, and the unit of its value
_KINDS = {
    "rapid_in_stock": ("Rapid through stock", units.VOLUME), "plunge": ("Plunge, tool not centre cutting", units.LENGTH),
    "too_deep": ("Deeper than the flutes", units.LENGTH), "holder": ("Holder touches", units.LENGTH), "sliver": ("Thin web", units.LENGTH),
}  # fmt: skip


class PathWorkspace(QWidget):
    """The step Path of the route."""

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__()
        self.session = session
        self.programs = Programs(session, runner)
        self.found: Simulated | None = None
        self.picture, self.strips, self.text = PathPicture(session), StripChart(session), ProgramText()
        self.player, self.levelled = Player(), LevelledTable()
        self.stock, self.targets = StockForm(self._take_stock, lambda tool: self._with(tool=tool)), TargetsForm()
        self._assemble()
        self.watch = QTimer(self)
        self.watch.setInterval(2000)
        self.watch.timeout.connect(self.programs.look_again)
        self._connect()
        Follower(self, session, self._show)

    def _connect(self) -> None:
        self.picture.chosen.connect(self.go_to_step)
        self.strips.moved.connect(self.go_to_time)
        self.text.chosen.connect(self.go_to_line)
        self.player.pressed.connect(self._play)
        self.player.went_on.connect(self._go_on)
        self.player.coloured.connect(self._colour)
        self.levelled.turned.connect(self._on_form)
        self.levelled.wanted.connect(self._ask_export)
        self.stock.chosen.connect(self._take_stock_file)
        self.targets.asked.connect(self.programs.level_to)
        self.programs.simulation.changed.connect(self._show)
        for answer in (self.programs.variants, self.programs.own):
            answer.changed.connect(self._show_forms)
        self.programs.made.changed.connect(self._show_making)

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
        below.body.addWidget(self.player)
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
        self.make = QPushButton("Make a path")
        self.make.setToolTip(
            "The path of this cut with its engagement held: made, simulated, written as a program and shown here"
        )
        menu = QMenu(self.make)
        for text, zigzag in (("One way, down ...", False), ("Every other pass up, shorter links ...", True)):
            menu.addAction(text).triggered.connect(lambda checked=False, zigzag=zigzag: self._ask_path(zigzag=zigzag))
        self.make.setMenu(menu)
        self.drop = _button("Leave it", lambda: self._edit("Leave the program", None))
        self.name = QLabel()
        self.name.setObjectName("title")
        self.words = QLabel()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        self.stop = _button("Stop", self._toggle)
        row = QHBoxLayout()
        for part in (self.open, self.make, self.drop):
            row.addWidget(part)
        row.addWidget(self.name, 1)
        row.addWidget(self.stop)
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
        self.places = QListWidget()
        self.places.setAccessibleName("Places to look at")
        self.places.itemActivated.connect(self._on_place)
        self.places.itemClicked.connect(self._on_place)
        self.faces = FacesPanel(
            {"Look here": self.places, "Program": self.text, "Stock": self.stock, "Targets": self.targets}
        )
        self.faces.setMinimumHeight(_FACES)
        for panel, share in ((what, 0), (self.levelled, 2), (self.faces, 3)):
            column.addWidget(panel, share)
        return side

    def showEvent(self, event: object) -> None:
        """Asks for the answers while somebody looks."""
        for answer in self.programs.all:
            answer.watch(self, True)
        self.watch.start()

    def hideEvent(self, event: object) -> None:
        """Nobody looks: work ends, and nothing plays on."""
        self.player.stop()
        self.watch.stop()
        for answer in self.programs.all:
            answer.watch(self, False)

    # ------------------------------------------------------------ the program

    def _ask_program(self) -> None:
        start = self.session.document.path.parent if self.session.document.path is not None else Path.home()
        name, _ = QFileDialog.getOpenFileName(self, "Take a program", str(start), _FILTER)
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Names a program for the chosen cut, as an edit that can be undone."""
        file = self._named(path)
        ref = self.programs.ref
        kept = {} if ref is None else {"stock": ref.stock, "tool": ref.tool}
        self._edit("Take a program", {**kept, "file": file, "digest": self.programs.disk_at(path).digest})

    def _ask_path(self, *, zigzag: bool) -> None:
        name = "".join(c if c.isalnum() else "-" for c in self.session.cut.name.lower()).strip("-") or "path"
        chosen = ask_where_to_save(
            self, "Write the path", self.programs.folder / f"{name}.nc", "NC programs (*.nc)", "nc"
        )
        if chosen is not None:
            self.make_path(chosen, zigzag=zigzag)

    def make_path(self, path: Path, *, zigzag: bool = False) -> None:
        """Makes the path of the chosen cut, writes it as a program and takes that."""
        self.programs.make(zigzag=zigzag, then=lambda made: self._write_path(path, made))

    def _write_path(self, path: Path, made: MadePath) -> None:
        try:
            write_atomic(path, made.content)
        except LesnaError as error:
            self.session.say("wrong", f"{path.name}: {error}")
            return
        digest = self.programs.disk_at(path).digest
        self._edit("Make a path", {"file": self._named(path), "digest": digest, "stock": made.stock, "tool": None})
        self.session.say("note", f"{path.name} is written; run it first in single block, with reduced feed and rapids")

    def _edit(self, label: str, values: dict[str, object] | None) -> None:
        self.session.attempt(lambda: self.session.edit_cut(label, program=values))

    def _with(self, **changed: object) -> None:
        ref = self.programs.ref
        if ref is not None:
            self.session.edit_cut(
                "Change the program's stock" if "stock" in changed else "Choose the tool",
                program={**dict(ref), **changed},
            )

    def _named(self, path: Path) -> str:
        """A file as the job names it: from its folder where it lies in there."""
        folder = self.session.document.path.parent if self.session.document.path is not None else None
        if folder is not None and path.resolve().is_relative_to(folder.resolve()):
            return str(path.resolve().relative_to(folder.resolve()))
        return str(path.resolve())

    def _take_stock(self, text: str) -> None:
        check_form(text.strip(), self.programs.folder)
        self._with(stock=text.strip())

    def _take_stock_file(self, path: Path) -> None:
        self.session.attempt(lambda: self._take_stock(self._named(path)))

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
        self.stock.folder = self.programs.folder
        self.stock.show_ref(ref)
        self.targets.show_targets(self.session.system)
        self.words.setText(self._words(found))
        self.words.setVisible(bool(self.words.text()))
        if found is not self.found:
            self.found = found
            run = None if found is None else found.run
            self.picture.show_run(run, () if found is None else found.summary.findings)
            self.strips.show_runs(run)
            self.text.show_text("" if run is None else run.geometry.program.text)
            if run is not None:
                self.go_to_step(len(run.geometry.steps) - 1)
        self._show_figures()
        self._show_places()
        self._show_forms()

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

    def _show_making(self) -> None:
        made = self.programs.made
        self.make.setEnabled(not made.is_asked)
        self.stop.setVisible(made.is_asked or any(answer.is_asked for answer in self.programs.all))
        if made.is_asked:
            self.words.setText(made.progress[:1].upper() + made.progress[1:] or "Making the path ...")
            self.words.show()

    def _show_figures(self) -> None:
        self.stop.setVisible(any(answer.is_asked for answer in self.programs.all))
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
        for place in extremes_of(run):
            told = units.FORCE.full(place.value, system) if place.kind != "air" else f"{place.value:.1f} s at a feed"
            self._place(f"{place.kind.capitalize()}, {told}, line {place.line}", place.step)

    def _place(self, text: str, step: int) -> None:
        item = QListWidgetItem(text)
        item.setData(Qt.ItemDataRole.UserRole, step)
        self.places.addItem(item)

    def _show_forms(self) -> None:
        answers = (self.programs.variants, self.programs.own)
        variants = [v for answer in answers if isinstance(answer.value, tuple) for v in answer.value]
        self.stop.setVisible(any(answer.is_asked for answer in self.programs.all))
        self.levelled.show_forms(self.found, variants, self.session.system)
        troubles = [f"{v.aim}: {v.trouble}" for v in variants if v.trouble]
        asked = next((answer for answer in answers if answer.is_asked), None)
        waiting = "" if asked is None else asked.progress or "Levelling ..."
        self._show_gain("; ".join(troubles) or waiting)

    def _show_gain(self, words: str = "") -> None:
        session = self.session
        self.levelled.show_gain(words, session.job.batch.parts, rate_of(session.result.setup.parts), session.system)

    def _on_form(self) -> None:
        variant = self.levelled.chosen
        chosen = variant.made.run if variant is not None and variant.made is not None else None
        others = [v.made.run for v in self.levelled.variants if v.made is not None and v is not variant]
        self.strips.show_runs(self.run, chosen, others if chosen is not None else [])
        self._show_gain()

    def sheet_lines(self) -> dict[str, list[str]]:
        """What the sheet says of the program that is looked at, by cut."""
        ref, variant = self.programs.ref, self.levelled.chosen
        if self.found is None or ref is None:
            return {}
        levelled = None if variant is None or variant.summary is None else (variant.aim, variant.summary)
        return {
            self.session.cut.id: program_lines(Path(ref.file).name, self.found.summary, self.session.system, levelled)
        }

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
        self.player.here.setText(f"line {line}   X{x} Y{y} Z{z}   {met}")

    def _play(self) -> None:
        if self.player.is_playing:
            self.player.stop()
        elif self.run is not None:
            if self.strips.time >= float(self.run.end_time[-1]) - 1e-6:
                self.go_to_time(0.0)
            self.player.start()

    def _go_on(self, seconds: float) -> None:
        if self.run is None:
            return
        whole = float(self.run.end_time[-1])
        self.go_to_time(min(self.strips.time + seconds, whole))
        if self.strips.time >= whole:
            self.player.stop()

    def _colour(self, id: str) -> None:
        self.picture.show_series(id)

    def _on_place(self, item: QListWidgetItem) -> None:
        self.go_to_step(int(item.data(Qt.ItemDataRole.UserRole)))

    def _toggle(self) -> None:
        for answer in (*self.programs.all, self.programs.made):
            answer.stop()

    # ------------------------------------------------------------ writing

    def _ask_export(self) -> None:
        variant, ref = self.levelled.chosen, self.programs.ref
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
        variant, ref = self.levelled.chosen, self.programs.ref
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
