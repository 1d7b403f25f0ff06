"""Many sentences at once, to be read, chosen and copied: what a banner has no room for."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget

from lesna.model.shown import visible


class Sentences(QDialog):
    """A list of sentences, one a line, as plain text."""

    def __init__(self, parent: QWidget, title: str, sentences: Sequence[str]) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(title)
        self.text = QPlainTextEdit(visible("\n\n".join(sentences)))
        self.text.setReadOnly(True)
        self.text.setAccessibleName(title)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        self.copy = buttons.addButton("Copy", QDialogButtonBox.ButtonRole.ActionRole)
        self.copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(self.text.toPlainText()))
        buttons.rejected.connect(self.reject)
        box = QVBoxLayout(self)
        box.addWidget(self.text)
        box.addWidget(buttons)
        self.resize(760, 380)
