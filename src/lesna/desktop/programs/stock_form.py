"""What a program does not say: the stock it begins with, and which of its tools is the cut's."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.widgets.fields import ChoiceField, TextField
from lesna.desktop.widgets.words import Words
from lesna.model.job import ProgramRef

_ONLY = "the only one"
_FILTER = "Stock (*.stl *.dxf *.STL *.DXF);;All files (*)"


class StockForm(QWidget):
    """Two fields and a word about them."""

    #: a file of the stock was chosen
    chosen = Signal(object)

    def __init__(self, take_stock: Callable[[str], None], take_tool: Callable[[int | None], None]) -> None:
        super().__init__()
        self.stock = TextField("Stock", take_stock)
        self.stock.edit.setPlaceholderText("the feature's block")
        self.file = QPushButton("From a file ...")
        self.file.setToolTip(
            "A surface (STL) in millimetres and program coordinates, or an outline of a drawing (DXF), pulled up"
        )
        self.file.clicked.connect(lambda checked=False: self._ask_file())
        self.tool = ChoiceField("T number", [("", _ONLY)])
        self.tool.chosen.connect(lambda word: take_tool(int(word) if word else None))
        hint = Words(
            "block:-60,-40,-24,60,40,0 (corners, mm), casting.stl, plate.dxf:STOCK, revolved:blank.dxf:TURNED or revolved:R,Z;R,Z;..., "
            "after:Name of a cut. Empty: the feature's block, its top centre at zero, or where the program goes."
        )
        hint.setObjectName("faint")
        hint.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        for part in (self.stock, self.file, self.tool, hint):
            column.addWidget(part)
        column.addStretch(1)
        self._tools: tuple[int, ...] = ()
        #: where the file dialog begins
        self.folder = Path.home()

    def show_ref(self, ref: ProgramRef | None, tools: tuple[int, ...]) -> None:
        """Shows what the job says, and the T numbers of the program as far as they are known."""
        if tools != self._tools:
            self._tools = tools
            self.tool.show_items([("", _ONLY), *((str(tool), f"T{tool}") for tool in tools)])
        for part in (self.stock, self.file, self.tool):
            part.setEnabled(ref is not None)
        if ref is not None:
            self.stock.show_value(ref.stock)
            self.tool.show_value(
                "" if ref.tool is None else str(ref.tool), _ONLY if ref.tool is None else f"T{ref.tool}"
            )

    def _ask_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Stock from a file", str(self.folder), _FILTER)
        if name:
            self.chosen.emit(Path(name))
