"""The top bar: what job this is, and the few commands that are always at hand."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QRect, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QPushButton, QSizePolicy, QToolButton, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import font
from lesna.desktop.widgets.rename import NameEdit
from lesna.desktop.widgets.words import Words, tip
from lesna.model.shown import visible

#: a longer title is cut short, its tip tells the whole
_TITLE_WIDTH = 360


class TopBar(QFrame):
    """Title, material, machine, batch; buttons are wired by the window."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("topbar")
        self.setFixedHeight(46)
        self.session = session
        self.title = Words()
        self.title.setFont(font(15, bold=True))
        self.title.setStyleSheet("font-size: 11.25pt; font-weight: bold;")
        self.title.installEventFilter(self)
        self._summary = ""
        self.summary = Words()
        self.summary.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 14, 0)
        row.setSpacing(7)
        row.addWidget(self.title)
        row.addSpacing(14)
        row.addWidget(self.summary, 1)
        self.job_menu = QMenu(self)
        self.job_button = QToolButton()
        self.job_button.setText("&Job ▾")
        self.job_button.setMenu(self.job_menu)
        self.job_button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.job_button.setAccessibleName("Job menu: open, save, recent")
        row.addWidget(self.job_button)
        self._row = row
        self.undo = self._button("Undo")
        self.redo = self._button("Redo")
        self.units = self._button("mm")
        self.units.setAccessibleName("Switch between metric and inch")
        self.theme = self._button("Night")
        self.theme.setAccessibleName("Switch between day and night colours")
        self.sheet = self._button("&Sheet")
        session.job_changed.connect(self.refresh)
        session.stack.cleanChanged.connect(lambda clean: self.refresh())

    def _button(self, text: str) -> QPushButton:
        button = QPushButton(text)
        self._row.addWidget(button)
        return button

    def rename(self) -> None:
        """Changes the job's title where it stands."""
        session = self.session

        def take(title: str) -> None:
            session.attempt(lambda: session.edit("Rename the job", session.job.with_values(title=title)))

        NameEdit(self, QRect(12, 8, _TITLE_WIDTH, 30), session.job.title, take, "Title of the job")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.title and event.type() == QEvent.Type.MouseButtonDblClick:
            self.rename()
            return True
        return super().eventFilter(watched, event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._elide()

    def _elide(self) -> None:
        metrics = self.summary.fontMetrics()
        self.summary.setText(metrics.elidedText(self._summary, Qt.TextElideMode.ElideMiddle, self.summary.width()))

    def refresh(self) -> None:
        """Follows the job."""
        job = self.session.job
        title = (visible(job.title) or "Untitled job") + ("  •" if self.session.is_dirty else "")
        self.title.setText(self.title.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, _TITLE_WIDTH))
        self.title.setToolTip(tip(f"{visible(job.title) or title}\nDouble-click to rename"))
        parts = self.session.result.setup.parts
        piece = job.workpiece
        hard = (
            f" {piece.hardness_hrc:g} HRC"
            if piece.hardness_hrc
            else f" {piece.hardness_hb:g} HB"
            if piece.hardness_hb
            else ""
        )
        machine = parts.machine.name or parts.machine.id or "machine of this job"
        count = f"{job.batch.parts} part" + ("s" if job.batch.parts != 1 else "")
        text = f"{parts.material.name or 'material of this job'}{hard}   ·   {machine}   ·   {count}"
        text = visible(text)
        if text != self._summary:
            self._summary = text
            self.summary.setToolTip(tip(text))
            self._elide()
        self.units.setText("mm" if self.session.system == "metric" else "inch")
