"""What the workbench does with files: jobs opened, saved and left, sheets written, whatever is dropped taken to where it belongs."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QMessageBox,
)

from lesna.desktop.dialogs import ask_where_to_save
from lesna.desktop.dropped import TABLE_NAMES, kind_of
from lesna.desktop.memory import Memory
from lesna.desktop.pages import page_bytes, write_behind
from lesna.desktop.steps import Steps
from lesna.desktop.widgets.banner import Banner
from lesna.desktop.widgets.fields import NumberField, TextField
from lesna.desktop.widgets.words import tip
from lesna.document import edits
from lesna.document.named_files import found_beside
from lesna.document.rows import changed_rows, with_rows_of_today
from lesna.model.errors import LesnaError
from lesna.model.files import is_read_only, load_job

_FILES = "Lesna jobs (*.lesna)"


class JobFiles(Steps):
    """The part of the workbench that deals with files."""

    memory: Memory
    banner: Banner
    actions_by_name: dict[str, QAction]

    # ------------------------------------------------------------ opening, saving, leaving

    def open_path(self, path: Path) -> bool:
        """Opens a job file; what is wrong with it is said and the former job stays."""
        try:
            self.session.open(load_job(path), path)
        except LesnaError as error:
            self.session.say("wrong", f"{path.name}: {error}")
            return False
        self.memory.remember(path)
        self.banner.clear()
        self._offer_rows()
        self.session.say_troubles()
        self._offer_files()
        return True

    def open_asking(self, path: Path) -> None:
        """Opens a job file after asking about unsaved work."""
        if self.may_leave():
            self.open_path(path)

    def open_sample(self, path: Path) -> None:
        """Opens a shipped sample as a job without a file, so that saving asks where to."""
        if self.may_leave():
            self.session.attempt(lambda: self.session.open(load_job(path), None, folder=path.parent))

    def open_dialog(self) -> None:
        """Asks for a job file and opens it."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a job", self._folder(), _FILES)
        if name:
            self.open_asking(Path(name))

    def new_job(self) -> None:
        """Starts a job on the machine, in the material and with the tool of the open one, and nothing else of it."""
        if not self.may_leave():
            return
        fresh = edits.new_job(self.session.job, self.session.index, self.session.library)
        if self.session.attempt(lambda: self.session.open(fresh, None)):
            self.show_step(0)
            self._built["setup"].begin()

    def save(self) -> bool:
        """Saves; asks for a file where there is none. True when saved."""
        path = self.session.document.path
        return self._save_to(path) if path else self.save_as()

    def save_as(self) -> bool:
        """Asks for a file and saves."""
        suggested = self.session.document.path or Path(self._folder()) / f"{self._file_name()}.lesna"
        path = ask_where_to_save(self, "Save the job", suggested, _FILES, "lesna")
        return False if path is None else self._save_to(path)

    def _save_to(self, path: Path) -> bool:
        read_only = is_read_only(path)
        if self.session.document.is_changed_outside(path) and not self._may_replace(
            path, "Changed by somebody else", "was changed on disk since it was opened here"
        ):
            return False
        if read_only and not self._may_replace(path, "Read-only", "is read-only: somebody does not want it changed"):
            return False
        try:
            self.session.save(path, over_read_only=read_only)
        except LesnaError as error:
            self.banner.say("wrong", f"{path}: {error}", (("Save as ...", self.actions_by_name["save_as"].trigger),))
            return False
        self.memory.remember(path)
        refused = self.refused_fields()
        if refused:
            self.banner.say("wrong", f"saved as {path.name}, but without what is refused: {'; '.join(refused)}")
        else:
            self.banner.say("note", f"saved as {path.name}")
        return True

    def refused_fields(self) -> list[str]:
        """Fields in sight in which something stands that was refused, each with why."""
        fields: list[NumberField | TextField] = [*self.findChildren(NumberField), *self.findChildren(TextField)]
        return [
            f"{field.label.text()} ({field.trouble.text().rstrip('.')})"
            for field in fields
            if field.trouble.isVisible()
        ]

    def _may_replace(self, path: Path, title: str, reason: str) -> bool:
        """Asks before what somebody else has written or protected is replaced; another name may be chosen instead."""
        buttons = QMessageBox.StandardButton
        box = QMessageBox(QMessageBox.Icon.NoIcon, title,
                          f"{path.name} {reason}. Its former state would stay as {path.name}~.", buttons.Cancel, self)  # fmt: skip
        box.setTextFormat(Qt.TextFormat.PlainText)
        over = box.addButton("Replace it", QMessageBox.ButtonRole.DestructiveRole)
        other = box.addButton("Save as ...", QMessageBox.ButtonRole.AcceptRole)
        box.exec()
        if box.clickedButton() is other:
            self.save_as()
        return box.clickedButton() is over

    def _folder(self) -> str:
        path = self.session.document.path
        return str(path.parent if path else Path.home())

    def _file_name(self) -> str:
        """A file name from the job's title."""
        plain = "".join(c if c.isalnum() or c in " -_" else " " for c in self.session.job.title)
        return "-".join(plain.lower().split())[:60] or "job"

    def sheet_dialog(self) -> None:
        """Asks for a file and writes the set-up sheet."""
        suggested = Path(self._folder()) / f"{self._file_name()}.pdf"
        path = ask_where_to_save(self, "Write the set-up sheet", suggested, "PDF (*.pdf);;HTML (*.html)", "pdf")
        if path is not None:
            self.write_sheet(path)

    def write_sheet(self, path: Path) -> None:
        """Has the set-up sheet written behind, as PDF or HTML of the job as it stands."""
        job, results, system = self.session.job, self.session.results, self.session.system
        bank = self.answers.bank
        programs = self._built["path"].on_sheet() if "path" in self._built else {}

        def make() -> bytes:
            from lesna.report.sheet import sheet_html

            has_form = path.suffix.lower() != ".pdf"
            return page_bytes(
                sheet_html(job, results, system, programs, plans=bank.plans(job), has_form=has_form), path
            )

        write_behind(self.session, self.answers.runner, "set-up sheet", path, make)

    def may_leave(self) -> bool:
        """Asks once about unsaved work; True when it is saved or given up."""
        if not self.session.is_dirty:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self, "Unsaved changes", tip(f"'{self.session.job.title or 'Untitled job'}' has changes that are not saved."),
            buttons.Save | buttons.Discard | buttons.Cancel, buttons.Save,
        )  # fmt: skip
        if answer == buttons.Save:
            return self.save()
        return answer == buttons.Discard

    # ------------------------------------------------------------ what is dropped

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() and all(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls()]
        self.take_file(paths[0])
        if len(paths) > 1:
            self.session.say("note", f"{paths[0].name} was taken; drop the others one by one")

    def take_file(self, path: Path) -> None:
        """A file that was dropped goes where its kind belongs: a job, a recording, a measured response, a table."""
        try:
            path.resolve(strict=True)
        except (OSError, RuntimeError):
            self.session.say(
                "wrong", f"{path.name}: is a link that leads nowhere or to itself; drop the file that is meant"
            )
            return
        kind = kind_of(path)
        if kind == "job":
            self.open_asking(path)
        elif kind == "recording":
            self.show_step(1)
            self.page("cut").listen_to(path)
        elif kind == "drawing":
            self.show_step(0)
            self.page("setup").drawing.take(path)
        elif kind == "program":
            self.show_step(self.place_of("path"))
            self.page("path").take(path)
        elif kind == "part":
            self.page("surface").take_part(path)
            self.show_step(self.place_of("surface"))
        elif kind == "response":
            self.show_step(1)
            self.page("cut").tapping.load(path)
        elif kind in TABLE_NAMES:
            self.open_library()
            assert self.library is not None  # just opened
            self.library.take_file(kind, path)
        else:
            self.session.say("wrong", f"{path.name}: {kind}")

    # ------------------------------------------------------------ rows of the library

    def _offer_rows(self) -> None:
        """Says which library rows read otherwise today than in the job, and offers them."""
        session = self.session
        found = changed_rows(session.job, session.library)
        if not found:
            return
        names = ", ".join(change.name for change in found[:3])
        fields = ", ".join(field for field, _, _ in found[0].fields[:4])
        take = partial(self._take_rows, session.job_number)
        self.banner.say(
            "note", f"{names} changed in the library ({fields}); the job keeps the values it was computed with",
            (("Take the new values", take),),
        )  # fmt: skip

    def _offer_files(self) -> None:
        """Says which files of the job are not where it names them, and offers those of the same name beside it."""
        session = self.session
        _, told = found_beside(session.job, session.folder)
        if told:
            take = partial(self._take_files, session.job_number)
            self.banner.say("note", "; ".join(told[:3]), (("Use what lies beside the job", take),))

    def _take_files(self, job_number: int) -> None:
        session = self.session
        if job_number == session.job_number:
            found, _ = found_beside(session.job, session.folder)
            session.attempt(lambda: session.edit("Files beside the job", found))

    def _take_rows(self, job_number: int) -> None:
        session = self.session
        if job_number == session.job_number:
            session.attempt(
                lambda: session.edit("Take the library's values", with_rows_of_today(session.job, session.library))
            )
