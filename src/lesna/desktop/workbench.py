"""The workbench: all that stands in the window once it is loaded. It assembles and carries out commands; it computes nothing."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QAction, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMessageBox,
    QVBoxLayout,
)

from lesna.data.places import shipped_folder
from lesna.desktop import actions, tour
from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.follower import Follower
from lesna.desktop.job_files import JobFiles
from lesna.desktop.memory import Memory
from lesna.desktop.point import Point
from lesna.desktop.session import Session
from lesna.desktop.theme import DAY, NIGHT, THEME
from lesna.desktop.troubles import TROUBLES, log_file
from lesna.desktop.widgets.banner import Banner
from lesna.desktop.widgets.fields import NumberField, TextField
from lesna.desktop.widgets.rail import CutRail
from lesna.desktop.widgets.readouts import ReadoutStrip
from lesna.desktop.widgets.topbar import TopBar
from lesna.desktop.widgets.words import tip
from lesna.desktop.widgets.working_panel import WorkingPanel
from lesna.desktop.workspaces import STEPS
from lesna.model.shown import visible
from lesna.planning.telling.readiness import readiness_of

if TYPE_CHECKING:
    from lesna.desktop.records.every_field import EveryField

#: width of the Working panel, least and most: that of the right column of the step Cut
_WORKING = (412, 438)


class Workbench(JobFiles):
    """Top bar, rail, route, workspaces, readout strip and the Working panel."""

    title_changed = Signal(str, bool)
    close_asked = Signal()

    def __init__(self, session: Session, answers: CutAnswers, memory: Memory) -> None:
        super().__init__(session, answers)
        self.memory = memory
        self.point = Point(session, answers)
        session.drawings.chosen.update(memory.drawings())
        session.drawing_chosen.connect(memory.remember_drawing)
        self.setAcceptDrops(True)
        self.setObjectName("page")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.top = TopBar(session)
        self.banner = Banner()
        self.rail = CutRail(session)
        self.working = WorkingPanel(session)
        self.readouts = ReadoutStrip(session)
        self.fields: EveryField | None = None
        self._title: tuple[str, bool] | None = None
        self._assemble()
        self.actions_by_name = {row.handler: self._action(row) for row in actions.ROWS}
        self._wire()
        THEME.changed.connect(self._restyle)
        self._restyle()
        self.show_step(1)

    # ------------------------------------------------------------ assembly

    def _assemble(self) -> None:
        work = QVBoxLayout()
        work.setSpacing(2)
        work.addWidget(self.route)
        work.addWidget(self.pages, 1)
        middle = QHBoxLayout()
        middle.setContentsMargins(10, 8, 0, 0)
        middle.setSpacing(8)
        middle.addWidget(self.rail)
        middle.addLayout(work, 1)
        self.working.setParent(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        column.addWidget(self.banner)
        column.addLayout(middle, 1)
        column.addWidget(self.readouts)
        self.working.raise_()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place_working()

    def _place_working(self) -> None:
        """Working lies over the right column, so that opening it moves nothing."""
        work = self.pages.geometry()
        width = min(max(work.width() // 3, _WORKING[0]), _WORKING[1])
        self.working.setGeometry(self.width() - width - 12, work.top(), width, work.height() - 8)

    def _action(self, row: actions.Command) -> QAction:
        action = QAction(row.text, self)
        if row.shortcut:
            action.setShortcuts([QKeySequence(part) for part in row.shortcut.split(", ")])
        action.triggered.connect(lambda checked=False: self._command(row))
        self.addAction(action)
        return action

    def _command(self, row: actions.Command) -> None:
        if not row.takes_typing or self.commit_typing():
            getattr(self, row.handler)()
        elif refused := self.refused_fields():
            # the field says so too, but it may be out of sight
            self.banner.say("wrong", f"{row.text.rstrip(' .')} waits for {refused[0]}. Correct it, or press Esc in it")

    def commit_typing(self) -> bool:
        """Takes what is typed in the field that has the keyboard; False where it is refused, which the field says."""
        holder = QApplication.focusWidget()
        while holder is not None and holder is not self:
            if isinstance(holder, (NumberField, TextField)):
                return holder.commit_typing()
            holder = holder.parentWidget()
        return True

    def _wire(self) -> None:
        session = self.session
        escape = QShortcut(QKeySequence(Qt.Key.Key_Escape), self.working, self.working.hide)
        escape.setContext(Qt.ShortcutContext.WindowShortcut)
        for number in range(len(STEPS)):
            action = QAction(STEPS[number].name, self)
            action.setShortcut(QKeySequence(f"Ctrl+{number + 1}"))
            action.triggered.connect(partial(self.show_step, number))
            self.addAction(action)
        self.route.chosen.connect(self.show_step)
        self.top.job_menu.aboutToShow.connect(self._fill_menu)
        for button, handler in (
            (self.top.undo, self.undo), (self.top.redo, self.redo), (self.top.units, self.switch_units),
            (self.top.theme, self.switch_theme), (self.top.sheet, self.sheet_dialog),
        ):  # fmt: skip
            button.clicked.connect(lambda checked=False, handler=handler: self.commit_typing() and handler())
        session.stack.canUndoChanged.connect(self.top.undo.setEnabled)
        session.stack.canRedoChanged.connect(self.top.redo.setEnabled)
        session.stack.undoTextChanged.connect(lambda text: self.top.undo.setToolTip(f"{text} (Ctrl+Z)"))
        session.stack.redoTextChanged.connect(lambda text: self.top.redo.setToolTip(f"{text} (Ctrl+Shift+Z)"))
        self.top.undo.setEnabled(False)
        self.top.redo.setEnabled(False)
        session.said.connect(self.banner.say)
        session.offered.connect(lambda text, label, action: self.banner.say("note", text, ((label, action),)))
        session.library_changed.connect(self._offer_rows)
        session.working_asked.connect(self._explain)
        session.job_changed.connect(self._show_title)
        session.stack.cleanChanged.connect(lambda clean: self._show_title())
        session.result_changed.connect(self._show_limits)
        Follower(self.route, session, self._show_readiness, rests_in_drag=True)
        TROUBLES.happened.connect(self._tell_trouble)

    def _tell_trouble(self, details: str) -> None:
        """One quiet notice for what nobody expected; the details are a click away."""
        self.banner.say(
            "wrong",
            "something inside Lesna went wrong; the job is as it was",
            (("Details", partial(self._show, details)),),
        )

    def _show(self, details: str) -> None:
        box = QMessageBox(
            QMessageBox.Icon.NoIcon, "What went wrong", f"It stands in {log_file()} as well.", parent=self
        )
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setDetailedText(details)
        box.open()

    def _fill_menu(self) -> None:
        menu = self.top.job_menu
        for old in menu.actions():
            if old.menu() is not None:
                old.menu().deleteLater()
        menu.clear()
        for row in actions.ROWS:
            if row.after_line:
                menu.addSeparator()
            if row.menu:
                menu.addAction(self.actions_by_name[row.handler])
            if row.handler == "open_dialog":
                recent = menu.addMenu("Recent jobs")
                for path in self.memory.recent():
                    recent.addAction(path.name, partial(self.open_asking, path)).setToolTip(tip(str(path)))
                recent.setEnabled(bool(self.memory.recent()))
                samples = menu.addMenu("Sample jobs")
                for path in sorted((shipped_folder() / "demo").glob("*.lesna")):
                    samples.addAction(path.stem.replace("-", " ").capitalize(), partial(self.open_sample, path))

    # ------------------------------------------------------------ following

    def _restyle(self) -> None:
        self.top.theme.setText("Night" if THEME.palette is DAY else "Day")

    def _show_title(self) -> None:
        path = self.session.document.path
        title = f"{visible(self.session.job.title) or 'Untitled job'}[*] ({path.name if path else 'not saved yet'})"
        shown = (title, self.session.is_dirty)
        if shown != self._title:
            self._title = shown
            self.title_changed.emit(*shown)

    def _show_readiness(self) -> None:
        checks = readiness_of(self.session.result, self.session.system)
        stops = [check.title for check in checks if check.grade == "stop"]
        self.route.show_mark(0, f"look at: {', '.join(stops).lower()}" if stops else "")

    def _show_limits(self) -> None:
        over = [entry.rule.name.lower() for entry in self.session.result.limits if entry.is_broken]
        self.route.show_mark(1, f"over the limit: {', '.join(over)}" if over else "")

    # ------------------------------------------------------------ commands

    def undo(self) -> None:
        """Takes the last change back."""
        self.session.stack.undo()

    def redo(self) -> None:
        """Does the change again."""
        self.session.stack.redo()

    def switch_units(self) -> None:
        """Shows every number in the other units; the document stays as it is."""
        self.session.show_in("inch" if self.session.system == "metric" else "metric")

    def switch_theme(self) -> None:
        """Day or night colours."""
        self.set_aside()
        THEME.use(NIGHT if THEME.palette is DAY else DAY)
        self.memory.theme = THEME.palette.name

    def toggle_working(self) -> None:
        """Opens or closes Working; opens it with the readout that has the keyboard."""
        focused = next((id for id, cell in self.readouts.cells.items() if cell.hasFocus()), None)
        if focused and not self.working.isVisible():
            self.working.subject = focused
        self._place_working()
        self.working.toggle()

    def _explain(self, id: str) -> None:
        self._place_working()
        self.working.explain(id)

    def rename(self) -> None:
        """Renames the chosen cut where it stands on the rail."""
        self.rail.rename()

    def rename_job(self) -> None:
        """Changes the job's title where it stands in the bar."""
        self.top.rename()

    def every_field(self) -> None:
        """Shows every field of the chosen cut and its job."""
        from lesna.desktop.records.every_field import EveryField

        if self.fields is None:
            self.fields = EveryField(self.session, self)
            self.fields.finished.connect(self._every_field_closed)
        self.fields.open()
        self.fields.raise_()

    def _every_field_closed(self) -> None:
        self.fields = None

    def best_point(self) -> None:
        """Goes to the best point of the map."""
        self.point.go_to_best()

    def leave(self) -> None:
        """Asks the window to close."""
        self.close_asked.emit()

    def next_cut(self) -> None:
        """Chooses the next cut."""
        self.session.select_beside(1)

    def former_cut(self) -> None:
        """Chooses the former cut."""
        self.session.select_beside(-1)

    def copy_nc_words(self) -> None:
        """Puts the S and F words on the clipboard, in the units of the view."""
        state = self.session.result.state
        feed = state.vf if self.session.system == "metric" else state.vf / 25.4
        words = f"S{state.n:.0f} F{feed:.0f}" if self.session.system == "metric" else f"S{state.n:.0f} F{feed:.1f}"
        QApplication.clipboard().setText(words)
        self.banner.say("note", f"{words} copied")

    def start_tour(self) -> None:
        """Shows the short tour, one sentence after the other."""
        self._tour_step(0)

    def _tour_step(self, number: int) -> None:
        last = number + 1 == len(tour.STEPS)
        onward: tuple[tuple[str, Callable[[], None]], ...] = (
            () if last else (("Next", lambda: QTimer.singleShot(0, partial(self._tour_step, number + 1))),)
        )
        self.show_step(1)
        self.banner.say("tour", tour.STEPS[number], onward or (("Done", lambda: None),))
        self.memory.tour_done()

    # ------------------------------------------------------------ leaving and dropping
