"""Path: an NC program of the cut through the stock, what it meets, and better feeds for it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from lesna.desktop.answers import Answer
from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.dropped import PROGRAMS
from lesna.desktop.follower import Follower
from lesna.desktop.programs.answers import OWN, Programs, Simulated, Undecided, Variant
from lesna.desktop.programs.cursor import Cursor
from lesna.desktop.programs.figures import figures_of, places_of
from lesna.desktop.programs.histogram import Histogram
from lesna.desktop.programs.leaning_view import LeaningView
from lesna.desktop.programs.levelled_table import LevelledTable
from lesna.desktop.programs.picture import PathPicture, levels_of
from lesna.desktop.programs.player import Player
from lesna.desktop.programs.program_text import ProgramText
from lesna.desktop.programs.series import series_of
from lesna.desktop.programs.stock_form import StockForm
from lesna.desktop.programs.strip_chart import StripChart
from lesna.desktop.programs.targets_form import TargetsForm
from lesna.desktop.programs.ways import Ways
from lesna.desktop.programs.ways_face import WaysFace, name_of
from lesna.desktop.programs.writing import ProgramFiles
from lesna.desktop.session import Session
from lesna.desktop.widgets.buttons import button
from lesna.desktop.widgets.choices import Choices
from lesna.desktop.widgets.faces import FacesPanel
from lesna.desktop.widgets.painting import Panel
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.model.job import ProgramRef
from lesna.planning.cut.economy import rate_of
from lesna.planning.program.against_cut import unlike_line
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.run import Run
from lesna.planning.program.stock import check_form
from lesna.planning.program.told import OnSheet, broken_rules, on_sheet
from lesna.planning.routes.wish import Wish

_SIDE, _FACES = 372, 110
_FILTER = f"NC programs ({' '.join(f'*{ending}' for ending in PROGRAMS)});;All files (*)"


class PathWorkspace(Cursor, ProgramFiles):
    """The step Path of the route."""

    #: what is being made behind the window, in a few words; empty where nothing is
    waits = Signal(str)

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session = session
        self.programs = Programs(answers)
        self.ways = Ways(answers)
        self.found: Simulated | None = None
        #: of what, and in which units, the places to look at are listed
        self._placed: tuple[Simulated | None, str] | None = None
        self.picture, self.leaning = PathPicture(session), LeaningView(session)
        self.views = self.picture, self.leaning
        self.strips, self.text = StripChart(session), ProgramText()
        self.histogram, self.ways_face = Histogram(session), WaysFace()
        self.player, self.levelled = Player(), LevelledTable()
        self.stock, self.targets = StockForm(self._take_stock, lambda tool: self._with(tool=tool)), TargetsForm()
        self._assemble()
        self.watch = QTimer(self)
        self.watch.setInterval(2000)
        self.watch.timeout.connect(self.look_again)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._show)
        self._connect()
        Follower(self, session, self._show)

    def _connect(self) -> None:
        for view in self.views:
            view.chosen.connect(self.go_to_step)
        self.strips.moved.connect(self.go_to_time)
        self.text.chosen.connect(self.go_to_line)
        self.player.pressed.connect(self._play)
        self.player.went_on.connect(self._go_on)
        self.player.coloured.connect(self._colour)
        self.player.levelled.connect(self._level)
        self.levelled.turned.connect(self._on_form)
        self.levelled.wanted.connect(self._ask_export)
        self.stock.chosen.connect(self._take_stock_file)
        self.targets.asked.connect(lambda: self.levelled.choose(OWN))
        self.targets.asked.connect(self.programs.level_to)
        self.programs.simulation.changed.connect(self._show)
        self.programs.simulation.progressed.connect(lambda: self._show_words(self.found))
        for answer in (self.programs.variants, self.programs.own):
            answer.changed.connect(self._show_forms)
            answer.progressed.connect(self._show_waiting)
        self.ways.answer.changed.connect(self._show_ways)
        self.ways.answer.progressed.connect(lambda: self.ways_face.show_waiting(self._making))
        self.ways.changed.connect(self._show_ways)
        self.ways_face.wanted.connect(self.want)
        self.ways_face.dropped.connect(self.ways.drop)
        self.ways_face.turned.connect(self._show)
        self.ways_face.written.connect(self._ask_where)
        self.session.cut_selected.connect(lambda: self.ways_face.look_at(None))

    # ------------------------------------------------------------ assembly

    def _assemble(self) -> None:
        left = QSplitter(Qt.Orientation.Vertical)
        left.setChildrenCollapsible(False)
        above, below = Panel(""), Panel("")
        above.title.hide()
        below.title.hide()
        above.body.setContentsMargins(4, 4, 4, 4)
        self.seen = QStackedWidget()
        for view in self.views:
            self.seen.addWidget(view)
        above.body.addWidget(self.seen, 1)
        below.body.setContentsMargins(4, 2, 4, 4)
        below.body.addWidget(self.player)
        charts = QHBoxLayout()
        charts.setSpacing(6)
        charts.addWidget(self.strips, 1)
        charts.addWidget(self.histogram)
        below.body.addLayout(charts, 1)
        left.addWidget(above)
        left.addWidget(below)
        left.setStretchFactor(0, 3)
        left.setStretchFactor(1, 2)
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addLayout(self._head())
        column.addWidget(self.words)
        self.which = Choices()
        self.which.chosen.connect(lambda tool: self._with(tool=tool))
        column.addWidget(self.which)
        column.addWidget(left, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 12, 8)
        row.setSpacing(10)
        row.addLayout(column, 1)
        row.addWidget(self._side())

    def _head(self) -> QHBoxLayout:
        self.open = button("Take a program ...", self._ask_program)
        self.make = button("Make a path", self.make_path)
        self.make.setToolTip("Ways of making the path of this cut: made, simulated, compared, and one of them written")
        self.drop = button("Leave it", lambda: self._edit("Leave the program", None))
        self.name = Words()
        self.name.setObjectName("title")
        self.words = Words()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        self.stop = button("Stop", self._toggle)
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
        self.figures = Words()
        self.figures.setWordWrap(True)
        self.broken = Words()
        self.broken.setObjectName("wrong")
        self.broken.setWordWrap(True)
        what.body.addWidget(self.figures)
        what.body.addWidget(self.broken)
        self.places = QListWidget()
        self.places.setAccessibleName("Places to look at")
        self.places.itemActivated.connect(self._on_place)
        self.places.itemClicked.connect(self._on_place)
        self._faces = {
            "Look here": self.places,
            "Program": self.text,
            "Stock": self.stock,
            "Targets": self.targets,
            "Ways": self.ways_face,
        }
        self.faces = FacesPanel(self._faces)
        self.faces.setMinimumHeight(_FACES)
        for panel, share in ((what, 0), (self.levelled, 2), (self.faces, 3)):
            column.addWidget(panel, share)
        return side

    def showEvent(self, event: object) -> None:
        """Asks for the answers while somebody looks."""
        for answer in self._answers:
            answer.watch(self, True)
        self.watch.start()

    def hideEvent(self, event: object) -> None:
        """Nobody looks: work ends, and nothing plays on."""
        self.player.stop()
        self.watch.stop()
        for answer in self._answers:
            answer.watch(self, False)

    # ------------------------------------------------------------ the program

    def _ask_program(self) -> None:
        start = self.session.folder or Path.home()
        name, _ = QFileDialog.getOpenFileName(self, "Take a program", str(start), _FILTER)
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Names a program for the chosen cut, as an edit that can be undone."""
        file = self.session.name_of(path)
        ref = self.programs.ref
        kept = {} if ref is None else {"stock": ref.stock, "tool": ref.tool}
        self._edit("Take a program", {**kept, "file": file, "digest": self.programs.disk_at(path).digest})

    def make_path(self) -> None:
        """Shows the ways of making the path of the chosen cut; the first is made at once."""
        self.faces.show_face(list(self._faces).index("Ways"))
        if not self.ways.wishes:
            self.want(self.ways_face.wish)

    def want(self, wish: Wish) -> None:
        """Has a way made and shows it as soon as it is there."""
        self.ways_face.look_at(wish)
        self.ways.want(wish)

    def _with(self, **changed: object) -> None:
        ref = self.programs.ref
        if ref is not None:
            self.session.edit_cut(
                "Change the program's stock" if "stock" in changed else "Choose the tool",
                program={**dict(ref), **changed},
            )

    def _take_stock(self, text: str) -> None:
        check_form(text.strip(), self.session.folder)
        self._with(stock=text.strip())

    def _take_stock_file(self, path: Path) -> None:
        self.session.attempt(lambda: self._take_stock(self.session.name_of(path)))

    # ------------------------------------------------------------ showing

    def _show(self) -> None:
        ref, answer = self.programs.ref, self.programs.simulation
        way = self.ways_face.chosen
        program = answer.value if isinstance(answer.value, Simulated) else None
        found = program if way is None else way.simulated
        self.name.setText(f"{name_of(way)}, not written yet" if way else Path(ref.file).name if ref is not None else "")
        self.drop.setVisible(ref is not None)
        self.stock.folder = self.session.folder or Path.home()
        self._show_tools(ref)
        self.targets.show_targets(self.session.system)
        self._show_words(found)
        # a refusal is read as easily as anything else
        self.words.mark("wrong" if way is None and ref is not None and answer.trouble else "faint")
        if found is not self.found:
            self.found = found
            run = None if found is None else found.run
            leans = run is not None and isinstance(run.geometry, Leaning)
            findings = () if found is None else found.summary.findings
            self.picture.show_run(None if leans else run, findings, self._others())
            self.leaning.show_run(run if leans else None, findings)
            self.seen.setCurrentWidget(self.leaning if leans else self.picture)
            self.player.show_levels([] if run is None or leans else levels_of(run), self.session.system)
            self.player.show_series(series_of(run))
            self.histogram.show_run(run, self.session.cut.ae_mm)
            self.strips.show_runs(run)
            self.text.show_text("" if run is None else run.geometry.program.text)
            if run is not None:
                self.go_to_step(len(run.geometry.steps) - 1)
        elif found is not None:
            self._tell(self._here)  # the units may be others
        self._show_figures()
        self._show_places()
        self._show_forms()

    def _show_words(self, found: Simulated | None) -> None:
        self.words.setText(self._words(found))
        self.words.setVisible(bool(self.words.text()))

    def _show_tools(self, ref: ProgramRef | None) -> None:
        """The T numbers of the program, to click where the cut stands for one of several."""
        value = self.programs.simulation.value
        undecided = value.tools if isinstance(value, Undecided) else ()
        known = undecided or (value.run.geometry.program.tools if isinstance(value, Simulated) else ())
        self.stock.show_ref(ref, tuple(known))
        self.which.show_choices([(tool, f"T{tool}") for tool in undecided if ref is not None])

    def _others(self) -> list[Run]:
        """The other ways of this cut, to be drawn faintly."""
        chosen = self.ways_face.chosen
        return [way.simulated.run for way in self.ways.made if way is not chosen and way.simulated is not None]

    def _words(self, found: Simulated | None) -> str:
        if self.ways_face.chosen is not None:
            return ""
        ref, answer = self.programs.ref, self.programs.simulation
        if ref is None:
            return "Take an NC program of this cut, or drop it here: its force along the path, its time, and feeds that fit each place."
        if answer.trouble:
            return answer.trouble[:1].upper() + answer.trouble[1:]
        if isinstance(answer.value, Undecided):
            return "This program has several tools. Click the one that makes this cut:"
        if found is None:
            return answer.progress or "Simulating ..."
        told = []
        if ref.digest and self.programs.disk(ref).digest != ref.digest:
            told.append("The file has changed since it was taken; what is shown is the file as it is now.")
        told += [remark[:1].upper() + remark[1:] + "." for remark in found.run.geometry.remarks]
        return " ".join(told)

    def _show_ways(self) -> None:
        self.ways_face.show_ways(self.ways.made, self.session.system, self._making)
        self.waits.emit("making the path" if self.ways.answer.is_asked else "")
        # what has come is shown once the window has drawn what it has
        if self.isVisible():
            self._soon.start()

    @property
    def _making(self) -> str:
        """How far the making of a way is, or why it ended; empty where none is made."""
        answer = self.ways.answer
        waiting = answer.trouble or ((answer.progress or "Making the path ...") if answer.is_asked else "")
        return waiting[:1].upper() + waiting[1:]

    @property
    def _answers(self) -> tuple[Answer, ...]:
        """All that a look at this page asks for."""
        return *self.programs.all, self.ways.answer

    @property
    def _asked(self) -> list[Answer]:
        """What is under way."""
        return [answer for answer in self._answers if answer.is_asked]

    def look_again(self) -> None:
        """Whether programs and stock on the disk have changed."""
        self.programs.simulation.follow()
        self.ways.answer.follow()

    def _show_figures(self) -> None:
        self.stop.setVisible(bool(self._asked))
        if self.found is None:
            self.figures.setText("")
            self.broken.hide()
            return
        self.figures.setText(figures_of(self.found, self.session.system))
        broken = broken_rules(self.found.summary)
        # a way that is made of the cut is the cut; a program may have been written for another
        other = "" if self.ways_face.chosen is not None else unlike_line(self.found.summary, self.session.result)
        told = ["Breaks as it is: " + "; ".join(broken)] if broken else []
        self.broken.setText("\n".join([*told, *([units.said(other, self.session.system)] if other else [])]))
        self.broken.setVisible(bool(broken or other))

    def _show_places(self) -> None:
        found, system = self.found, self.session.system
        if self._placed is not None and self._placed[0] is found and self._placed[1] == system:
            return
        self._placed = (found, system)
        self.places.clear()
        if self.found is None:
            return
        for text, step in places_of(self.found, self.session.system):
            item = QListWidgetItem(text)
            item.setData(Qt.ItemDataRole.UserRole, step)
            self.places.addItem(item)

    def _show_forms(self) -> None:
        variants = self._variants
        self.stop.setVisible(bool(self._asked))
        way = self.ways_face.chosen
        # feeds are levelled in programs; a way that is not one leaves its room to the ways
        self.levelled.setVisible(way is None)
        self.levelled.show_forms(
            self.found if way is None else None, variants if way is None else [], self.session.system
        )
        self._show_waiting()

    @property
    def _variants(self) -> list[Variant]:
        """The forms that are there."""
        answers = (self.programs.variants, self.programs.own)
        return [v for answer in answers if isinstance(answer.value, tuple) for v in answer.value]

    def _show_waiting(self) -> None:
        troubles = [f"{v.aim}: {v.trouble}" for v in self._variants if v.trouble]
        asked = next((answer for answer in (self.programs.variants, self.programs.own) if answer.is_asked), None)
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

    def on_sheet(self) -> dict[str, OnSheet]:
        """What the sheet says of the program that is looked at, by cut."""
        ref, variant = self.programs.ref, self.levelled.chosen
        if self.found is None or ref is None or self.ways_face.chosen is not None:
            return {}
        levelled = None if variant is None or variant.summary is None else (variant.aim, variant.summary)
        session, name = self.session, Path(ref.file).name
        told = on_sheet(name, self.found.run, self.found.summary, session.result, session.system, levelled)
        return {session.cut.id: told}

    def _toggle(self) -> None:
        for answer in self._answers:
            answer.stop()
