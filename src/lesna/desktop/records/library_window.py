"""The library in a window of its own: tools, holders, machines, materials and starting values."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QTabBar, QVBoxLayout, QWidget

from lesna.desktop.follower import Follower
from lesna.desktop.records.keeper import RowKeeper
from lesna.desktop.records.page import TablePage
from lesna.desktop.records.tables import BY_ID, TABLES
from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.theme import THEME, style_sheet
from lesna.desktop.widgets.words import Words
from lesna.document import edits
from lesna.document.rows import without_row

#: a note goes by itself
_NOTE_MS = 6000


class LibraryWindow(QWidget):
    """A page for each table; rows are used, copied, kept for the shop, exported and imported."""

    def __init__(self, session: Session, shop: ShopBank) -> None:
        super().__init__()  # no part of the main window, whose style would be paid for here too
        self.session = session
        self._shop, self._keeper = shop, RowKeeper(session, shop, self)
        self.setObjectName("page")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWindowTitle("Library")
        self.resize(1180, 740)
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("Tables of the library")
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        self.stack = QStackedWidget()
        self.note = Words()
        self.note.setObjectName("faint")
        self.note.setWordWrap(True)
        self.note.setContentsMargins(14, 4, 14, 8)
        self.move_rows = QPushButton("Move our own rows into the bank")
        self.move_rows.setToolTip("Every seat sees them there, with who changed what; the files are put aside.")
        self.move_rows.clicked.connect(lambda checked=False: self._shop.move_files(self.say))
        self.move_rows.hide()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.note.clear)
        self._pages: dict[str, TablePage] = {}
        for spec in TABLES:
            self.tabs.addTab(spec.title)
        self.tabs.currentChanged.connect(lambda place: self.stack.setCurrentWidget(self.page(TABLES[place].id)))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.addWidget(self.tabs)
        column.addWidget(self.stack, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(0, 0, 12, 6)
        foot.addWidget(self.note, 1)
        foot.addWidget(self.move_rows)
        column.addLayout(foot)
        QShortcut(QKeySequence(Qt.Key.Key_Escape), self, self.close)
        # a use that is made here is taken back here, with the keys of the window behind
        QShortcut(QKeySequence(QKeySequence.StandardKey.Undo), self, self._undo)
        QShortcut(QKeySequence(QKeySequence.StandardKey.Redo), self, session.stack.redo)
        Follower(self, session, self._follow)
        session.library_changed.connect(self._refill)
        THEME.changed.connect(self._restyle)
        self._style = ""
        self._restyle()
        self._system = session.system

    def page(self, table: str, key: object = None) -> TablePage:
        """The page of a table, built when it is first asked for, at a row: a tool's form alone has fifty fields."""
        if table not in self._pages:
            page = TablePage(self.session, BY_ID[table], self.say, self._keeper, key)
            page.used.connect(partial(self._use, table))
            self._pages[table] = page
            self.stack.addWidget(page)
        return self._pages[table]

    def open_at(self, table: str, key: object) -> None:
        """Shows one row of one table."""
        page = self.show_table(table, key)
        if key in page.table and page.key != key:
            page.choose(key)
        self.show()
        self.raise_()
        self.activateWindow()
        page.search.setFocus()

    def take_file(self, table: str, path: Path) -> None:
        """Takes the rows of a dropped file into the shop's own."""
        self.show_table(table).import_from(path)

    def show_table(self, table: str, key: object = None) -> TablePage:
        """Shows the page of a table, built at a row where it was not there yet."""
        page = self.page(table, key)
        self.tabs.setCurrentIndex([spec.id for spec in TABLES].index(table))
        self.stack.setCurrentWidget(page)
        return page

    def say(self, kind: str, sentence: str) -> None:
        """Says what happened; what went wrong stays."""
        self.note.mark("wrong" if kind == "wrong" else "faint")
        self.note.setText(sentence[:1].upper() + sentence[1:])
        self._timer.stop()
        if kind != "wrong":
            self._timer.start(_NOTE_MS)

    def _use(self, table: str, id: str) -> None:
        """Takes a row into the job, as an edit that can be undone."""
        s = self.session
        job = without_row(s.job, table, id)
        makes = {
            "tools": lambda: edits.with_tool(job, s.index, id, s.library),
            "holders": lambda: edits.with_cut(job, s.index, holder=id),
            "machines": lambda: job.with_values(machine=id),
            "materials": lambda: edits.with_workpiece(job, material=id, hardness_hrc=None, hardness_hb=None),
        }
        word = table.rstrip("s")
        if s.attempt(lambda: s.edit(f"Change the {word}", makes[table]())):
            self.say(
                "note",
                f"the {word} of {s.cut.name if table in ('tools', 'holders') else 'the job'} is changed; undo takes it back",
            )
        else:
            self.say("wrong", f"this {word} does not go here; the window behind says why")

    def _undo(self) -> None:
        what = self.session.stack.undoText()
        if what:
            self.session.stack.undo()
            self.say("note", f"taken back: {what}")

    def _refill(self) -> None:
        self.move_rows.setVisible(self._shop.has_files_to_move)
        for page in self._pages.values():
            page.refill()

    def _follow(self) -> None:
        if self._system != self.session.system:
            self._system = self.session.system
            self._refill()
            for page in self._pages.values():
                page.show_row()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.move_rows.setVisible(self._shop.has_files_to_move)
        self._restyle()

    def _restyle(self) -> None:
        """Takes the colours of the theme, once somebody sees them."""
        if self._style != THEME.palette.name and (self.isVisible() or not self._style):
            self._style = THEME.palette.name
            self.setStyleSheet(style_sheet(THEME.palette))
