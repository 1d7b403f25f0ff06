"""Values of a tool, holder, machine or material for one job alone, over the row of the library that they stand on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.follower import Follower
from lesna.desktop.records.beside import beside_of
from lesna.desktop.records.form import RecordForm
from lesna.desktop.records.tables import BY_ID
from lesna.desktop.session import Session
from lesna.desktop.widgets.words import Words
from lesna.document import edits
from lesna.model import names
from lesna.model.base import Record, Reference
from lesna.model.errors import InputError

#: what the row of each table is called in a job
TITLES = {"tools": "tool", "holders": "holder", "machines": "machine", "materials": "material"}


@dataclass(frozen=True)
class Standing:
    """What a job says of one of its things: the row it stands on, and what is written over it."""

    base: Mapping[str, Any]
    own: Mapping[str, Any]
    whole: Record

    @property
    def words(self) -> str:
        """In a few words."""
        if not self.base:
            return "written in this job"
        count = len(self.own)
        return "as in the library" if not count else f"{count} value{'s' if count > 1 else ''} of this job alone"


def standing_of(session: Session, table: str) -> Standing:
    """What the open job says of the tool or holder of its chosen cut, its machine or its material."""
    parts, cut, job = session.result.setup.parts, session.cut, session.job
    specs: dict[str, tuple[Reference, Record]] = {
        "tools": (cut.tool, parts.tool), "holders": (cut.holder, parts.holder), "machines": (job.machine, parts.machine),
        "materials": (job.workpiece.material, parts.material),
    }  # fmt: skip
    spec, whole = specs[table]
    written = spec.written()
    id = written.get("id", "")
    if table == "holders":
        kind = written.get("kind", "")
        id = names.HOLDER_ROWS.get(id or kind, id)
    rows = getattr(session.shelf, table)
    base = dict(rows[id]) if id in rows else {}
    held = {key: getattr(whole, key, value) for key, value in written.items() if key not in ("id", "kind")}
    own = {key: value for key, value in held.items() if base and value != base.get(key)}
    return Standing(base, own if base else written, whole)


def take_over(session: Session, table: str, values: Mapping[str, Any]) -> None:
    """Writes values into the job as an edit."""
    label = f"Change the {TITLES[table]} of this job"
    if table in ("tools", "holders"):
        changed: dict[str, Any] = {TITLES[table]: dict(values)}
        session.edit_cut(label, **changed)
    elif table == "machines":
        session.edit(label, session.job.with_values(machine=dict(values)))
    else:
        session.edit(label, edits.with_workpiece(session.job, material=dict(values)))


class AloneDialog(QDialog):
    """Every field of one thing of the job; what differs from its row is marked and can be put back."""

    def __init__(self, session: Session, table: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.table = session, table
        spec = BY_ID[table]
        self.setObjectName("dialog")
        self.setWindowTitle(f"The {TITLES[table]} of this job")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(800, 620)
        self.form = RecordForm(spec.cls, without=("id",))
        self.whence = Words()
        self.whence.setObjectName("faint")
        self.whence.setWordWrap(True)
        self.beside = beside_of(table)
        self.take = QPushButton("Take over")
        self.back = QPushButton("All as in the library")
        leave = QPushButton("Close")
        self.take.clicked.connect(self._take)
        self.back.clicked.connect(self._all_back)
        leave.clicked.connect(self.close)
        buttons = QHBoxLayout()
        for button in (self.take, self.back, leave):
            button.setAutoDefault(False)  # Enter takes what is typed, and presses nothing
            buttons.addWidget(button)
        buttons.addStretch(1)
        middle = QHBoxLayout()
        middle.addWidget(self.form, 1)
        middle.addWidget(self.beside)
        column = QVBoxLayout(self)
        column.addWidget(self.whence)
        column.addLayout(middle, 1)
        column.addLayout(buttons)
        self.form.edited.connect(self._draw)
        self.beside.edited.connect(lambda: self._draw(here=True))
        self._show()

    def _show(self) -> None:
        stands = standing_of(self.session, self.table)
        self.base = stands.base
        self.form.show_values(dict(stands.whole), self.session.system, stands.base or None)
        self.beside.show_row(dict(stands.whole))
        name = stands.base.get("name") or stands.base.get("id", "")
        where = self.session.cut.name if self.table in ("tools", "holders") else "the whole job"
        self.whence.setText(
            f"{name}: {stands.words}, for {where}. The library stays as it is." if stands.base
            else f"Written in this job, for {where}; it stands on no row of the library."
        )  # fmt: skip
        self.back.setEnabled(bool(stands.base and stands.own))
        self._draw()

    def _draw(self, *, here: bool = False) -> None:
        made, trouble = None, ""
        try:
            made = self.beside.completed(self.form.record())
            self.beside.settle(self.form, made, here=here)
        except InputError as error:
            trouble = str(error)
        self.beside.draw(made, trouble, self.session.system)

    def _take(self) -> None:
        try:
            record = self.beside.completed(self.form.record())
            values = self._changed(record)
            take_over(self.session, self.table, {"id": self.base["id"], **values} if self.base else values)
        except InputError as error:
            self.form.refuse(error)
            return
        self._show()

    def _changed(self, record: Record) -> dict[str, Any]:
        """What the record says otherwise than its row; all of it where it stands on none. A curve needs no file here."""
        said = {key: value for key, value in record if key != "curve_file"}
        if self.base:
            return {key: value for key, value in said.items() if value != self.base.get(key)}
        return {key: value for key, value in said.items() if value not in (None, "")}

    def _all_back(self) -> None:
        self.session.attempt(lambda: take_over(self.session, self.table, {"id": self.base["id"]}))
        self._show()


class AloneLink(QPushButton):
    """Says whether a thing of the job is as in the library, and opens its fields."""

    def __init__(self, session: Session, table: str) -> None:
        super().__init__()
        self.session, self.table = session, table
        self.dialog: AloneDialog | None = None
        self.setObjectName("link")
        self.clicked.connect(self.open)
        Follower(self, session, self._refresh, rests_in_drag=True)

    def _refresh(self) -> None:
        stands = standing_of(self.session, self.table)
        mark = "● " if stands.own and stands.base else ""
        self.setText(f"{mark}{stands.words[:1].upper()}{stands.words[1:]}; all fields ...")
        self.setAccessibleName(f"{TITLES[self.table]}: {stands.words}; all fields")
        self.setToolTip(", ".join(stands.own) if stands.base else "")

    def open(self) -> AloneDialog:
        """The fields in a dialog."""
        if self.dialog is None:
            self.dialog = AloneDialog(self.session, self.table, self.window())
            self.dialog.finished.connect(self._closed)
        self.dialog.open()
        return self.dialog

    def _closed(self) -> None:
        self.dialog = None
