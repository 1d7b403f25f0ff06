"""Unattended hours of the job: what they need, when sisters take over on a time line, and what would end them first."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QByteArray, QRectF
from PySide6.QtGui import QPaintEvent
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QHeaderView, QPushButton, QTableWidget, QVBoxLayout, QWidget

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.dialogs import ask_where_to_save
from lesna.desktop.pages import page_bytes, write_behind
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.fields import NumberField
from lesna.desktop.widgets.painting import Canvas
from lesna.desktop.widgets.plain_table import add_row, plain_table
from lesna.desktop.widgets.words import Words
from lesna.desktop.workspaces.common import Bound
from lesna.document import edits
from lesna.learning.run_plan import RunPlan, run_plan, watch_of
from lesna.learning.told_batch import UNATTENDED, plan_sentence, stop_words, tool_words
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.facts import quantity_of
from lesna.model.job import Batch
from lesna.report.run_plan import run_plan_html
from lesna.report.time_line import line_height, time_line_svg

#: hours that nobody is there, until something else is typed
_HOURS = 8.0


class TimeLine(Canvas):
    """Edges along the hours, as the page has them, in the colours of the window."""

    def __init__(self) -> None:
        super().__init__("Time line of the run")
        self.plan: RunPlan | None = None
        self.setMinimumHeight(70)

    def show_plan(self, plan: RunPlan | None) -> None:
        """Shows a run; None where there is none."""
        self.plan = plan
        self.setFixedHeight(round(line_height(plan)) if plan is not None else 70)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.plan is not None:
            colours = {
                "ink": "ink",
                "faint": "faint",
                "rule": "hairline",
                "bar": "accent",
                "other": "accent_soft",
                "alarm": "alarm",
            }
            named = {key: THEME.color(name).name() for key, name in colours.items()}
            svg = time_line_svg(self.plan, float(self.width()), named)
            QSvgRenderer(QByteArray(svg.encode())).render(painter, QRectF(0, 0, self.width(), line_height(self.plan)))
        painter.end()


class RunPlanFace(QWidget):
    """Follows every edit; what is not typed is the machine's own."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session, self._runner = session, answers.runner
        self.typed: dict[str, float] = {}
        self.plan: RunPlan | None = None
        self.fields = {
            "hours": self._field("hours", "Hours alone", "h", 1000.0),
            "pockets": self._field("pockets", "Magazine places", "", 10_000.0),
            "chip_room": self._field("chip_room", "Room for chips", "l", 1e6),
            "coolant_hours": self._field("coolant_hours", "Coolant lasts", "h", 1e4),
        }
        self.bound = Bound(session, self)
        survivors = self.bound.of(
            Batch, "survivors", lambda: session.job.batch, lambda values: edits.with_batch(session.job, **values)
        )
        survivors.label.setText("Edges still good")
        fields = QGridLayout()
        fields.setHorizontalSpacing(16)
        fields.setVerticalSpacing(2)
        for place, field in enumerate([*self.fields.values(), survivors]):
            fields.addWidget(field, place // 3, place % 3)
        self.words, self.first, self.caution = Words(), Words(), Words(UNATTENDED)
        for words in (self.words, self.first, self.caution):
            words.setWordWrap(True)
        self.words.setObjectName("title")
        self.caution.setObjectName("faint")
        self.line = TimeLine()
        self.tools = plain_table(
            "Tools of the run", ("Cuts", "min alone", "parts an edge", "edges", "next one at, h:min:s", "ends by"), 2
        )
        self.stops = plain_table("What would end the run", ("What", "at", "why"), 2)
        for table, stretched in ((self.tools, 4), (self.stops, 2)):
            table.setSelectionMode(QTableWidget.SelectionMode.NoSelection)
            header = table.horizontalHeader()
            header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(stretched, QHeaderView.ResizeMode.Stretch)
        self.save = QPushButton("Save as a page ...")
        self.save.clicked.connect(lambda checked=False: self._ask())
        foot = QHBoxLayout()
        foot.addWidget(self.caution, 1)
        foot.addWidget(self.save)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(fields)
        for part in (self.words, self.first, self.line):
            column.addWidget(part)
        column.addWidget(self.tools, 3)
        column.addWidget(self.stops, 2)
        column.addLayout(foot)
        session.result_changed.connect(self.refresh)

    def _field(self, key: str, label: str, unit: str, most: float) -> NumberField:
        quantity = quantity_of(unit) if unit else units.COUNT
        return NumberField(label, quantity, self._taker(key, most), may_be_empty=True)

    def _taker(self, key: str, most: float) -> Callable[[float | None], None]:
        def take(value: float | None) -> None:
            if value is not None and not 0 < value <= most:
                raise InputError(f"must be above 0 and at most {most:,.0f}")
            if value is None:
                self.typed.pop(key, None)
            else:
                self.typed[key] = value
            self.refresh()

        return take

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Plans the hours as the job stands."""
        if not self.isVisible() or not self.session.results or self.session.is_dragging:
            return
        results, typed = self.session.results, self.typed
        pockets = typed.get("pockets")
        watch = watch_of(
            results[0].setup.parts.machine, typed.get("hours", _HOURS), self.session.job.batch.survivors,
            pockets=None if pockets is None else max(round(pockets), 1), chip_room=typed.get("chip_room"),
            coolant_hours=typed.get("coolant_hours"),
        )  # fmt: skip
        for key, field in self.fields.items():
            field.show_value(getattr(watch, key), self.session.system)
            field.edit.setToolTip("typed here" if key in typed else "the machine's own, from its row in the library")
        try:
            plan = run_plan(results, watch)
        except InputError as error:
            self._show(None, str(error))
        else:
            self._show(plan, "")

    def _show(self, plan: RunPlan | None, trouble: str) -> None:
        self.plan = plan
        self.line.show_plan(plan)
        self.save.setEnabled(plan is not None)
        self.tools.setRowCount(0)
        self.stops.setRowCount(0)
        if plan is None:
            self.words.setText(trouble[:1].upper() + trouble[1:])
            self.first.setText("")
            return
        is_short = plan.lasts < plan.watch.hours
        self.words.setText(plan_sentence(plan))
        self.first.mark("wrong" if is_short else "faint")
        self.first.setText((f"Safe for {plan.lasts:.1f} h only. " if is_short else "") + f"First: {plan.stops_first}")
        for tool in plan.tools:
            row = tool_words(tool)
            add_row(self.tools, row, (row[0], "minutes in the cut that an edge may run alone", "", "", row[4], row[5]),
                    alarm=5 if tool.parts_per_edge < 1 else None)  # fmt: skip
        for stop in plan.stops:
            row = stop_words(stop, plan.watch)
            add_row(self.stops, row, ("", "", row[2]), alarm=1 if stop.at < plan.watch.hours else None)

    def _ask(self) -> None:
        folder = self.session.folder or Path.home()
        path = ask_where_to_save(
            self, "Write the run plan", folder / "run-plan.pdf", "PDF (*.pdf);;HTML (*.html)", "pdf"
        )
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> None:
        """Has the page written behind as HTML or PDF, by the file's ending."""
        job, plan = self.session.job, self.plan
        if plan is not None:
            write_behind(
                self.session, self._runner, "run plan", path, lambda: page_bytes(run_plan_html(job, plan), path)
            )
