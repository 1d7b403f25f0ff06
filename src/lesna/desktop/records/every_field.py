"""Every field of the job document that has a value of its own: cut, feature, book value, batch, part and job."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QStackedWidget, QTabBar, QVBoxLayout, QWidget

from lesna.desktop.records.form import RecordForm
from lesna.desktop.session import Session
from lesna.desktop.widgets.words import Words
from lesna.document import edits
from lesna.model.base import Record
from lesna.model.errors import InputError
from lesna.model.job import Batch, Book, Cut, Feature, Job, Workpiece


@dataclass(frozen=True)
class Part:
    """One part of the document: what it shows and how a change of it becomes a job."""

    title: str
    cls: type[Record]
    read: Callable[[Session], Record | None]
    write: Callable[[Session, dict[str, Any]], Job]


def _book(session: Session, values: dict[str, Any]) -> Job:
    former = dict(session.cut.book) if session.cut.book is not None else {}
    return edits.with_cut(session.job, session.index, book={**former, **values})


PARTS = (
    Part("Cut", Cut, lambda s: s.cut, lambda s, values: edits.with_cut(s.job, s.index, **values)),
    Part("What it makes", Feature, lambda s: s.cut.feature,
         lambda s, values: edits.with_feature(s.job, s.index, **values)),
    Part("Book value", Book, lambda s: s.cut.book, _book),
    Part("Batch", Batch, lambda s: s.job.batch, lambda s, values: edits.with_batch(s.job, **values)),
    Part("Part", Workpiece, lambda s: s.job.workpiece,
         lambda s, values: edits.with_workpiece(s.job, **values)),
    Part("Job", Job, lambda s: s.job, lambda s, values: s.job.with_values(**values)),
)  # fmt: skip


class EveryField(QDialog):
    """A page for each part; what is typed is taken at once, as an edit that can be undone, or refused beside its field."""

    def __init__(self, session: Session, parent: QWidget, part: str = "Cut") -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Every field")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(520, 620)
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("Parts of the job")
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        self.stack = QStackedWidget()
        self.forms: dict[str, RecordForm] = {}
        self.whose = Words()
        self.whose.setObjectName("faint")
        for entry in PARTS:
            form = RecordForm(entry.cls)
            form.edited.connect(lambda entry=entry: self._apply(entry))
            self.forms[entry.title] = form
            self.tabs.addTab(entry.title)
            self.stack.addWidget(form)
        self.tabs.currentChanged.connect(self.stack.setCurrentIndex)
        leave = QPushButton("Close")
        leave.setAutoDefault(False)  # Enter takes what is typed, and presses nothing
        leave.clicked.connect(self.close)
        below = QHBoxLayout()
        below.addStretch(1)
        below.addWidget(leave)
        column = QVBoxLayout(self)
        column.addWidget(self.tabs)
        column.addWidget(self.whose)
        column.addWidget(self.stack, 1)
        column.addLayout(below)
        self.tabs.setCurrentIndex([entry.title for entry in PARTS].index(part))
        session.result_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        self.whose.setText(f"{self.session.cut.name}, in {self.session.job.title or 'an untitled job'}")
        for entry in PARTS:
            record = entry.read(self.session)
            self.forms[entry.title].show_values({} if record is None else dict(record), self.session.system)

    def _apply(self, entry: Part) -> None:
        form, record = self.forms[entry.title], entry.read(self.session)
        before = {} if record is None else dict(record)
        typed = {key: form.held(key) for key in form.rows}
        changed = {key: value for key, value in typed.items() if value != before.get(key)}
        try:
            if changed:
                self.session.edit(
                    f"Change {entry.title.lower()}", entry.write(self.session, _plain(changed, entry.cls))
                )
        except InputError as error:
            form.refuse(error)


def _plain(values: dict[str, Any], cls: type[Record]) -> dict[str, Any]:
    """Values as the document takes them: a field that was emptied goes back to what holds where it is left out."""
    return {
        key: cls.model_fields[key].get_default(call_default_factory=True) if value is None and not cls.model_fields[key].is_required()
        else value for key, value in values.items()
    }  # fmt: skip
