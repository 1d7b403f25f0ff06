"""What stands beside the form of a row: the drawing that follows what is typed, and for machines the curve itself."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.records.axes_drawing import AxesDrawing
from lesna.desktop.records.drawings import HolderDrawing, ToolDrawing
from lesna.desktop.records.form import RecordForm
from lesna.desktop.records.row_chart import RowChart
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.model.base import Record
from lesna.model.curve_text import EXAMPLE, points_of, text_of
from lesna.model.curves import FIGURES, Curve, Duty
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import table_text
from lesna.model.library_records import Holder, Machine, Tool
from lesna.planning.telling.row_charts import chart_of

_WIDTH = 280
_DUTIES = (("S1", "Continuous, S1"), ("S6-40", "40 % duty, S6"))


class Beside(QWidget):
    """The drawing of one table's rows, of a set width."""

    #: something that stands here was edited
    edited = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(_WIDTH)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.drawing: Any = self._drawing()
        self.column.addWidget(self.drawing, 1)

    def _drawing(self) -> QWidget:
        return RowChart()

    def show_row(self, values: Mapping[str, Any]) -> None:
        """Takes from a row what is edited here and not in the form."""

    def completed(self, record: Record) -> Record:
        """A record of the form with what stands here (InputError says what does not fit)."""
        return record

    def settle(self, form: RecordForm, record: Record, *, here: bool) -> None:
        """What is edited in one place and told in the other is made to agree; `here` where the edit was made beside the form."""

    def draw(self, record: Record | None, trouble: str, system: units.System) -> None:
        """Draws what the form makes; None and the reason while it makes nothing."""
        self.drawing.show_chart(None if record is None else chart_of(record), system)


class _OfTools(Beside):
    def _drawing(self) -> QWidget:
        return ToolDrawing()

    def draw(self, record: Record | None, trouble: str, system: units.System) -> None:
        self.drawing.show_tool(record if isinstance(record, Tool) else None, system)


class _OfHolders(Beside):
    def _drawing(self) -> QWidget:
        return HolderDrawing()

    def draw(self, record: Record | None, trouble: str, system: units.System) -> None:
        self.drawing.show_holder(record if isinstance(record, Holder) else None, system)


class CurveEditor(Beside):
    """The spindle curve: typed, pasted or read from a file, and drawn meanwhile."""

    def __init__(self) -> None:
        super().__init__()
        self.axes = AxesDrawing()
        self.column.insertWidget(0, self.axes)
        self.curves = {duty: QPlainTextEdit() for duty, _ in _DUTIES}
        self._held: Curve | None = None
        for duty, title in _DUTIES:
            edit = self.curves[duty]
            edit.setAccessibleName(title)
            edit.setPlaceholderText(f"type or paste points: {EXAMPLE}")
            edit.setTabChangesFocus(True)
            edit.textChanged.connect(self.edited)
            self.column.addWidget(Words(f"{title}: rpm, kW, Nm"))
            self.column.addWidget(edit, 1)
        read = QPushButton("Read a curve from CSV ...")
        read.setAutoDefault(False)
        read.clicked.connect(lambda checked=False: self._ask())
        self.followed = Words()
        self.followed.setObjectName("faint")
        self.followed.setWordWrap(True)
        self.trouble = Words()
        self.trouble.setObjectName("wrong")
        self.trouble.setWordWrap(True)
        self.column.addWidget(read)
        self.column.addWidget(self.followed)
        self.column.addWidget(self.trouble)

    def show_row(self, values: Mapping[str, Any]) -> None:
        self.followed.clear()
        self._show(values.get("curve"))

    def _show(self, curve: Curve | None) -> None:
        self._held = curve
        for duty, edit in self.curves.items():
            held = curve.duty.get(duty) if curve is not None else None
            edit.blockSignals(True)
            edit.setPlainText(text_of(held.points) if held is not None else "")
            edit.blockSignals(False)

    def completed(self, record: Record) -> Record:
        curve = self._curve(record)
        if curve is self._held:
            return record
        assert isinstance(record, Machine)  # a machine's form
        return record.with_values(curve=curve, curve_file="")

    def settle(self, form: RecordForm, record: Record, *, here: bool) -> None:
        """The curve goes as high as the figures of the form, and the figures are those of a curve that is typed."""
        assert isinstance(record, Machine)  # a machine's form
        former, changed = self._held, [key for key in FIGURES if form.held(key) != getattr(record, key)]
        if not here and record.curve != former and record.curve is not None:
            self._show(record.curve)
            self.followed.setText("The curve follows the typed figure by its ratio; its shape stays.")
        elif here:
            self._held = record.curve
            self.followed.setText("Power and torque of the form follow the curve." if changed else "")
        if changed or record.curve != form.held("curve"):
            form.agree({key: getattr(record, key) for key in (*FIGURES, "curve", "curve_file")})

    def _curve(self, machine: Any) -> Curve | None:
        former = self._held.duty if self._held is not None else {}
        typed = {name: edit.toPlainText() for name, edit in self.curves.items()}
        duty = {name: _duty(text, former.get(name)) for name, text in typed.items() if text.strip()}
        if not duty:
            if machine.power_s1_kw is None:
                raise InputError("is missing; a machine needs a curve, or its power S1", "power_s1_kw")
            return None
        duty |= {name: held for name, held in former.items() if name not in self.curves}
        if self._held is None:
            return Curve.read({"duty": duty})
        return self._held if duty == former else self._held.with_values(duty=duty)

    def draw(self, record: Record | None, trouble: str, system: units.System) -> None:
        super().draw(record, trouble, system)
        self.axes.show_machine(record if isinstance(record, Machine) else None)
        self.trouble.setText(trouble[:1].upper() + trouble[1:])

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Read a curve", str(Path.home()), "Tables (*.csv *.txt)")
        if name:
            self.read_curve(Path(name))

    def read_curve(self, path: Path) -> None:
        """Takes the points of a file as the continuous curve; what cannot be read is said."""
        try:
            points = points_of(table_text(path))
        except LesnaError as error:
            self.trouble.setText(f"{path.name}: {error}")
            return
        self.curves["S1"].setPlainText(text_of(points))


def _duty(text: str, former: Duty | None) -> Duty:
    """A duty class as it is typed; one that nobody touched keeps all its digits."""
    if former is not None and text == text_of(former.points):
        return former
    return Duty.read({"description": former.description if former is not None else "", "points": points_of(text)})


def beside_of(table: str) -> Beside:
    """What stands beside the form of a table's rows."""
    return {"tools": _OfTools, "holders": _OfHolders, "machines": CurveEditor}.get(table, Beside)()
