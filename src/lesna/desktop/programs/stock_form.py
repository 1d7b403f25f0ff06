"""What a program does not say: the stock it begins with, and which of its tools is the cut's."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.widgets.fields import TextField
from lesna.desktop.widgets.words import Words
from lesna.model.errors import InputError
from lesna.model.job import ProgramRef

_FILTER = "Stock (*.stl *.dxf *.STL *.DXF);;All files (*)"


class StockForm(QWidget):
    """Two fields and a word about them."""

    #: a file of the stock was chosen
    chosen = Signal(object)

    def __init__(self, take_stock: Callable[[str], None], take_tool: Callable[[int | None], None]) -> None:
        super().__init__()
        self._take_tool = take_tool
        self.stock = TextField("Stock", take_stock)
        self.stock.edit.setPlaceholderText("the feature's block")
        self.file = QPushButton("From a file ...")
        self.file.setToolTip(
            "A surface (STL) in millimetres and program coordinates, or an outline of a drawing (DXF), pulled up"
        )
        self.file.clicked.connect(lambda checked=False: self._ask_file())
        self.tool = TextField("T number", self._on_tool)
        self.tool.edit.setPlaceholderText("where there are several")
        hint = Words(
            "block:-60,-40,-24,60,40,0 (corners, mm), casting.stl or plate.dxf:STOCK; empty: the feature's block, its top "
            "centre at zero."
        )
        hint.setObjectName("faint")
        hint.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        for part in (self.stock, self.file, self.tool, hint):
            column.addWidget(part)
        column.addStretch(1)
        #: where the file dialog begins
        self.folder = Path.home()

    def show_ref(self, ref: ProgramRef | None) -> None:
        """Shows what the job says."""
        for part in (self.stock, self.file, self.tool):
            part.setEnabled(ref is not None)
        if ref is not None:
            self.stock.show_value(ref.stock)
            self.tool.show_value("" if ref.tool is None else str(ref.tool))

    def _ask_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Stock from a file", str(self.folder), _FILTER)
        if name:
            self.chosen.emit(Path(name))

    def _on_tool(self, text: str) -> None:
        word = text.strip().lstrip("Tt")
        if word and not word.isdigit():
            raise InputError("write a T number, such as 3")
        self._take_tool(int(word) if word else None)
