"""A table of figures: a row is chosen as a whole, nothing is typed, the first column takes the room that is left."""

from __future__ import annotations

from collections.abc import Container, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from lesna.desktop.theme import THEME
from lesna.desktop.widgets.words import tip

#: height of a row of one line [px]
ROW = 23


def plain_table(name: str, columns: Sequence[str], least_rows: int) -> QTableWidget:
    """An empty table; `least_rows` are seen however small the window is."""
    table = QTableWidget(0, len(columns))
    table.setAccessibleName(name)
    table.setHorizontalHeaderLabels(list(columns))
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    table.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
    table.setShowGrid(False)
    table.setWordWrap(False)
    table.setTabKeyNavigation(False)
    table.verticalHeader().hide()
    table.verticalHeader().setDefaultSectionSize(ROW)
    table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    table.horizontalHeader().setFixedHeight(ROW)
    table.setMinimumHeight(ROW * (least_rows + 1))
    return table


def add_row(
    table: QTableWidget, words: Sequence[str], tips: Sequence[str], alarm: int | None = None, names: Container[int] = (0,)
) -> None:  # fmt: skip
    """A row, figures to the right and names to the left, each with what a resting mouse is told; what gives alarm in red."""
    row = table.rowCount()
    table.insertRow(row)
    for place, (word, told) in enumerate(zip(words, tips, strict=True)):
        item = QTableWidgetItem(word)
        item.setToolTip(tip(told))
        if place not in names:
            item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if place == alarm:
            item.setForeground(THEME.color("alarm"))
        table.setItem(row, place, item)


def chosen_row(table: QTableWidget) -> int | None:
    """Number of the chosen row, None where none is."""
    rows = table.selectionModel().selectedRows()
    return rows[0].row() if rows else None
