"""Dialogs that take plain values and give plain values back."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget


def ask_where_to_save(parent: QWidget, title: str, suggested: Path, filters: str, suffix: str) -> Path | None:
    """A file to write, None where the dialog was left; its suffix is there before the dialog asks about replacing."""
    dialog = QFileDialog(parent, title, str(suggested.parent), filters)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.setDefaultSuffix(suffix)
    dialog.selectFile(suggested.name)
    dialog.filterSelected.connect(lambda chosen: dialog.setDefaultSuffix(_suffix_of(chosen) or suffix))
    if not dialog.exec():
        return None
    return Path(dialog.selectedFiles()[0])


def ask_anyway(parent: QWidget, title: str, text: str, button: str) -> bool:
    """Asks whether something that may do harm is wanted all the same; the answer that does nothing lies under the hand."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, title, text, QMessageBox.StandardButton.Cancel, parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    anyway = box.addButton(button, QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(QMessageBox.StandardButton.Cancel)
    box.exec()
    return box.clickedButton() is anyway


def _suffix_of(filter_text: str) -> str:
    """The suffix that a filter such as ``PDF (*.pdf)`` names."""
    return filter_text.rpartition("*.")[2].rstrip(") ")
