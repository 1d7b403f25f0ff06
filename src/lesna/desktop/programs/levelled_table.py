"""The forms of a program side by side: as it is, its levelled forms, what the chosen one saves, and writing it."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton

from lesna.desktop.programs.answers import OWN, Simulated, Variant
from lesna.desktop.programs.figures import PEAK_TIPS, peak_units, peaks
from lesna.desktop.widgets.painting import Panel
from lesna.desktop.widgets.plain_table import ROW, add_row, chosen_row, plain_table
from lesna.desktop.widgets.words import Words, tip
from lesna.model import units
from lesna.model.shown import counted
from lesna.planning.cut.limits import BY_ID
from lesna.planning.program.level import AIMS
from lesna.planning.program.summary import gain_of
from lesna.planning.program.told import broken_rules, clock, nearest_limit

#: the column of the nearest limit
_LIMIT = 5
#: minutes of an hour
_SIXTY = 60.0


def meaning_of(aim: str) -> str:
    """What a form aims at."""
    return "your own targets" if aim == OWN else AIMS[aim]  # type: ignore[index]


def _head(system: units.System) -> tuple[str, ...]:
    return ("", "time", units.FORCE.unit(system), *peak_units(system), "limit", "edges")


def _lines(count: int) -> str:
    return "one line" if count == 1 else f"{count} lines"


class LevelledTable(Panel):
    """A table with a row for each form; the first is the program as it is."""

    #: the form that is looked at changed
    turned = Signal()
    #: somebody wants the chosen form written
    wanted = Signal()

    def __init__(self) -> None:
        super().__init__("Levelled feeds")
        self.before: Simulated | None = None
        self.variants: tuple[Variant, ...] = ()
        self._chosen = ""
        self.table = plain_table("Levelled feeds", _head("metric"), 2)
        self.table.itemSelectionChanged.connect(self._on_row)
        self.gain = Words()
        self.gain.setObjectName("faint")
        self.gain.setWordWrap(True)
        self.broken = Words()
        self.broken.setObjectName("wrong")
        self.broken.setWordWrap(True)
        self.export = QPushButton("Write this program ...")
        self.export.clicked.connect(lambda checked=False: self.wanted.emit())
        self.body.addWidget(self.table)
        self.body.addWidget(self.gain)
        row = QHBoxLayout()
        row.addWidget(self.export, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.broken, 1)
        self.body.addLayout(row)

    @property
    def chosen(self) -> Variant | None:
        """The levelled form that is looked at."""
        return next((v for v in self.variants if v.aim == self._chosen and v.made is not None), None)

    def show_forms(self, before: Simulated | None, variants: Sequence[Variant], system: units.System) -> None:
        """Fills the table; the row that was looked at stays."""
        if before is not self.before:
            self._chosen = ""
        self.before, self.variants = before, tuple(variants)
        self.table.setHorizontalHeaderLabels(list(_head(system)))
        self.table.blockSignals(True)
        self.table.setRowCount(0)
        names = [""]
        if before is not None:
            self._row("as it is", "", None, before, system)
            for variant in self.variants:
                if variant.made is not None and variant.summary is not None:
                    names.append(variant.aim)
                    self._row(variant.aim, meaning_of(variant.aim), before.summary.time - variant.summary.time,
                              Simulated(variant.made.run, variant.summary), system)  # fmt: skip
            self.table.selectRow(names.index(self._chosen) if self._chosen in names else 0)
        self.table.setMaximumHeight(ROW * (max(len(names), len(AIMS) + 1) + 1) + 6)
        self.table.blockSignals(False)
        self.export.setEnabled(self.chosen is not None)

    def choose(self, aim: str) -> None:
        """Looks at a form as soon as it is there."""
        self._chosen = aim

    def show_gain(self, words: str, parts: int, rate_per_min: float | None, system: units.System) -> None:
        """Says what the chosen form saves in a batch, or the words that stand in its place."""
        beside = "" if words else self._beside()
        self.gain.setText((words or self._gain(parts, rate_per_min, system)) + (" See the tip." if beside else ""))
        self.gain.setToolTip(tip(beside))
        chosen = self.chosen
        broken = broken_rules(chosen.summary) if chosen is not None and chosen.summary is not None else []
        self.broken.setText(f"Would break {'; '.join(broken)}")
        self.broken.setVisible(bool(broken))

    def _gain(self, parts: int, rate: float | None, system: units.System) -> str:
        variant = self.chosen
        if self.before is None:
            return ""
        if variant is None or variant.summary is None or variant.made is None:
            return "Choose a row to see its feeds over the strips." if self.variants else ""
        gain = gain_of(self.before.summary, variant.summary, parts, None if rate is None else _SIXTY * rate)
        money = f", {units.MONEY.full(gain['per_batch_money'], system)}" if "per_batch_money" in gain else ""
        batch = f"{gain['per_batch_h']:.1f} h{money} in {counted(parts, 'part')}"
        told = f"{meaning_of(variant.aim)}: {gain['saved_pct']:.1f} % a part, {batch}."
        return told[:1].upper() + told[1:]

    def _beside(self) -> str:
        """What a resting mouse is told beside the gain: places that the target does not reach."""
        made = None if self.chosen is None else self.chosen.made
        if made is None:
            return ""
        told = (
            [f"The target asks for less than the least feed at {_lines(len(made.unreachable))}."]
            if len(made.unreachable)
            else []
        )
        told += (
            [f"The chip is thinner than the edge needs at {_lines(len(made.rubbing))}."] if len(made.rubbing) else []
        )
        return " ".join(told)

    def _row(self, name: str, meaning: str, saved: float | None, of: Simulated, system: units.System) -> None:
        s = of.summary
        gained = "" if saved is None else f"; {clock(saved)} saved" if saved >= 0 else f"; {clock(-saved)} lost"
        words = (name, clock(s.time), units.FORCE.text(s.fxy_peak, system), *peaks(s, system), nearest_limit(s),
                 "" if s.edges is None else f"{s.edges:.2f}")  # fmt: skip
        broken = broken_rules(s)
        tips = [
            meaning,
            (meaning or "as it is") + gained,
            "side force at its peak",
            *PEAK_TIPS,
            "; ".join(broken) or f"nearest limit: {BY_ID[s.by_use[0][0]].name.lower()}",
            meaning,
        ]
        add_row(self.table, words, tips, _LIMIT if broken else None)

    def _on_row(self) -> None:
        row = chosen_row(self.table) or 0
        item = self.table.item(row, 0)
        self._chosen = item.text() if row and item is not None else ""
        self.export.setEnabled(self.chosen is not None)
        self.turned.emit()
