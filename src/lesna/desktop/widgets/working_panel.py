"""Working: how the number came about."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Panel
from lesna.desktop.widgets.words import MarkedUp
from lesna.model import units
from lesna.planning.telling.explained import Working
from lesna.planning.telling.working.inputs import Input


class WorkingPanel(Panel):
    """Shows formula, inputs, source and what would override the chosen number; F1 opens and closes it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("How it came about", parent)
        self.session = session
        self.subject = "q"
        self.text = MarkedUp()
        self.text.setWordWrap(True)
        self.text.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextBrowserInteraction)
        self.text.setAccessibleName("How the number came about")
        self.text.linkActivated.connect(self.explain)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 8, 0)
        column.addWidget(self.text)
        scroll.setWidget(inside)
        self.body.addWidget(scroll, 1)
        self.close_button = QPushButton("Close (F1)")
        self.close_button.clicked.connect(self.hide)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.close_button)
        self.body.addLayout(row)
        session.result_changed.connect(self._refresh)
        THEME.changed.connect(self._refresh)
        self.hide()

    def explain(self, id: str) -> None:
        """Opens with the working of a readout or limit."""
        self.subject = id
        self.show()
        self._refresh()

    def toggle(self) -> None:
        """Opens with the last subject, or closes."""
        if self.isVisible():
            self.hide()
        else:
            self.explain(self.subject)

    def _refresh(self) -> None:
        if self.isVisible():
            self.text.setText(_html(self.session.working(self.subject), self.session.system))


def _html(working: Working, system: units.System) -> str:
    p = THEME.palette
    rows = "".join(
        f"<tr><td><b>{escape(i.symbol)}</b></td><td align='right'>&nbsp;{escape(i.quantity.full(i.value, system))}</td></tr>"
        f"<tr><td colspan='2' style='color:{p.faint}; padding-bottom:6px'>{escape(i.meaning)}, {_origin(i)}</td></tr>"
        for i in working.inputs
    )
    value, told = working.quantity.full(working.value, system), working.explanation
    return (
        f"<p style='font-size:15pt'><b>{escape(working.title)}</b>&nbsp; {escape(value)}</p>"
        f"<p style='color:{p.accent}'>{escape(units.said(told.formula, system))}</p>"
        f"<p><b>What was put in</b></p><table cellspacing='0' width='100%'>{rows}</table>"
        f"<p><b>Source</b><br>{escape(told.source)}</p>"
        f"<p><b>What would override it</b><br>{escape(told.override)}</p>"
    )


def _origin(given: Input) -> str:
    if not given.figure:
        return escape(given.origin)
    return f"<a href='{given.figure}' style='color:{THEME.palette.accent}'>{escape(given.origin)}</a>"
