"""The quote of the whole job: every cut, the batch, and what each change would save of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QHeaderView, QPushButton, QTableWidget, QVBoxLayout

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.dialogs import ask_where_to_save
from lesna.desktop.pages import page_bytes, write_behind
from lesna.desktop.session import Session
from lesna.desktop.widgets.answer_face import AnswerFace
from lesna.desktop.widgets.plain_table import add_row, plain_table
from lesna.desktop.widgets.words import Words
from lesna.desktop.workspaces.common import Bound
from lesna.document import edits
from lesna.learning.batch import BatchSpread, batch_spread
from lesna.model.job import Batch
from lesna.model.shown import counted
from lesna.planning.quote import Change, Quote, quote_of
from lesna.report.quote import change_words, csv_of, cut_words, quote_html, source_words, sum_words

#: what a resting mouse is told of the columns behind the tool
_TIPS = ("of the machine, worn edges changed in their share", "what says how long it takes",
         "a part in nine of ten batches, since edge lives are not known to the minute", "edges that a part uses up",
         "what the machine's time of a part costs", "what its edges cost")  # fmt: skip
#: lines of sums under each other
_LINES = 7
#: width of the labels of what is typed [px]
_GIVEN = 150


class QuoteFace(AnswerFace):
    """The sums follow every edit at once; what each change would save is looked for behind the window."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__(session, answers.changes, "Looking for a cheaper way to make each cut")
        self.answered.connect(self.show_answer)
        self.changes: tuple[Change, ...] = ()
        self._runner = answers.runner
        self.bound = Bound(session, self)
        s = session
        self.given = [self.bound.of(Batch, key, lambda: s.job.batch, lambda values: edits.with_batch(s.job, **values),
                                    may_be_empty=True)
                      for key in ("setup_min", "programming_min", "programming_rate_per_h", "price_per_cm3")]  # fmt: skip
        self.setup = self.given[0]
        self.parts = Words()
        self.parts.setObjectName("title")
        self.titles.insertWidget(0, self.parts)
        columns = ("Cut", "Tool", "a part", "by", "nine of ten", "edges", "machine", "tooling")
        self.cuts = plain_table("Quoted cuts", columns, 3)
        # names are read whole, tools as far as there is room
        header = self.cuts.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.better = plain_table("What each change would save", ("Cut", "Cut like", "time", "edges", "money"), 2)
        for table in (self.cuts, self.better):
            table.setSelectionMode(QTableWidget.SelectionMode.NoSelection)
            table.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.sums = QGridLayout()
        self.sums.setColumnStretch(4, 1)
        self.sums.setHorizontalSpacing(28)
        self.sums.setVerticalSpacing(1)
        self.values: list[tuple[Words, Words]] = []
        self.source = Words()
        self.source.setObjectName("faint")
        self.source.setWordWrap(True)
        given = QGridLayout()
        given.setHorizontalSpacing(18)
        given.setVerticalSpacing(2)
        for place, field in enumerate(self.given):
            field.label.setFixedWidth(_GIVEN)
            given.addWidget(field, place // 2, place % 2)
        save = QHBoxLayout()
        self.save_table = QPushButton("Save as CSV ...")
        self.save_page = QPushButton("Save as a page ...")
        self.save_table.clicked.connect(lambda checked=False: self._ask("Table (*.csv)", "csv"))
        self.save_page.clicked.connect(lambda checked=False: self._ask("PDF (*.pdf);;HTML (*.html)", "pdf"))
        save.addWidget(self.source, 1)
        save.addWidget(self.save_table)
        save.addWidget(self.save_page)
        title = Words("What each change would save, over the batch")
        title.setObjectName("title")
        self.gains = QVBoxLayout()
        self.gains.setSpacing(2)
        self.gains.addWidget(title)
        self.gains.addWidget(self.better, 1)
        self.column.addWidget(self.cuts, 3)
        self.column.addLayout(self.sums)
        self.column.addLayout(given)
        self.column.addLayout(save)
        self.column.addLayout(self.gains, 2)

    @property
    def quote(self) -> Quote:
        """The quote of the job as it stands."""
        return quote_of(self.session.job, self.session.results)

    def spread(self, quote: Quote) -> BatchSpread:
        """What edges leave open of it."""
        return batch_spread(quote, self.session.results)

    def refresh(self) -> None:
        """Shows the sums, and under them the changes or how far the search for them is."""
        super().refresh()
        if not self.isVisible():
            return
        quote = self.quote
        spread = self.spread(quote)
        self.parts.setText(f"{counted(quote.parts, 'part')}: {counted(len(quote.cuts), 'cut')}")
        self.cuts.setRowCount(0)
        for place in range(len(quote.cuts)):
            row = cut_words(quote, place, spread)
            add_row(self.cuts, row, ("", row[1], *_TIPS), names=(0, 1, 3))
        self.source.setText(source_words(spread))
        lines = sum_words(quote, spread)
        for words in (words for pair in self.values[len(lines) :] for words in pair):
            words.clear()
        for place, (name, value) in enumerate(lines):
            if place == len(self.values):
                self.values.append((Words(), Words()))
                self.values[place][0].setObjectName("faint")
                self.values[place][1].setAlignment(Qt.AlignmentFlag.AlignRight)
                row_place, column = place % _LINES, 2 * (place // _LINES)
                self.sums.addWidget(self.values[place][0], row_place, column)
                self.sums.addWidget(self.values[place][1], row_place, column + 1)
            for words, text in zip(self.values[place], (name, value), strict=True):
                words.setText(text)

    def show_answer(self, answer: tuple[Change, ...] | None) -> None:
        """Lists what would save something."""
        self.changes = answer or ()
        self.better.setRowCount(0)
        for change in self.changes:
            row = change_words(change)
            add_row(self.better, row, [""] * len(row), names=(0, 1))
        if answer is not None:
            best = "Each at its cheapest way that holds every limit; the cut as it stands is estimated as well."
            self.words.setText(best if answer else "No cut of this job has a cheaper way that holds every limit.")

    def _ask(self, kinds: str, ending: str) -> None:
        folder = self.session.folder or Path.home()
        path = ask_where_to_save(self, "Write the quote", folder / f"quote.{ending}", kinds, ending)
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> None:
        """Has the quote written behind as CSV, HTML or PDF, by the file's ending, as the job stands."""
        job, quote, changes = self.session.job, self.quote, self.changes
        spread = self.spread(quote)

        def make() -> bytes:
            if path.suffix.lower() == ".csv":
                return csv_of(quote, changes, spread).encode()
            return page_bytes(quote_html(job, quote, changes, spread), path)

        write_behind(self.session, self._runner, "quote", path, make)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.bound.refresh()
