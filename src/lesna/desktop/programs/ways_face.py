"""Ways of making a path: what is wished, the ways that were made side by side, and writing one of them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import get_args

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.programs.figures import PEAK_TIPS, peak_units, peaks
from lesna.desktop.programs.ways import Made
from lesna.desktop.widgets.fields import ChoiceField
from lesna.desktop.widgets.plain_table import add_row, chosen_row, plain_table
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.paths.generators import GENERATORS
from lesna.planning.cut.limits import BY_ID
from lesna.planning.program.told import broken_rules, clock, nearest_limit
from lesna.planning.routes.wish import Remedy, Wish
from lesna.planning.ways.told import remarks_of

#: the column of the nearest limit
_LIMIT = 4
_OWN = ("", "as suits the cut")
_REMEDIES = {"none": "as they come", "contain": "contained", "split": "parted", "slot": "slot first"}


def _head(system: units.System) -> tuple[str, ...]:
    return ("", "time", *peak_units(system), "limit", "links")


def name_of(made: Made) -> str:
    """What a way is called in the table."""
    wish = made.wish
    way = made.proved.route.generator.id if made.proved is not None else wish.way
    words = [way or _OWN[1]]
    words += ["to and fro"] * wish.zigzag + ["round"] * (wish.loop == "round") + ["spring"] * wish.spring
    words += [_REMEDIES[wish.remedy]] if wish.remedy not in ("none", "slot") else []
    return ", ".join(words)


class WaysFace(QWidget):
    """A wish above, a table of what was made below."""

    #: a wish to be made
    wanted = Signal(object)
    #: the wish of a way that is to be forgotten
    dropped = Signal(object)
    #: a way is looked at, None for the program
    turned = Signal()
    #: the chosen way is to be written
    written = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.made: tuple[Made, ...] = ()
        self._chosen: Wish | None = None
        self.way = ChoiceField("Way", (_OWN, *((key, g.title) for key, g in GENERATORS.items())), label_width=44)
        self.remedy = ChoiceField("Webs", [(key, _REMEDIES[key]) for key in get_args(Remedy)], label_width=44)
        for field, value, text in ((self.way, *_OWN), (self.remedy, "none", _REMEDIES["none"])):
            field.show_value(value, text)
        self.way.chosen.connect(lambda value: self.way.show_value(value))
        self.remedy.chosen.connect(lambda value: self.remedy.show_value(value))
        self.zigzag, self.spring, self.round = (
            QCheckBox("To and fro"),
            QCheckBox("Spring pass"),
            QCheckBox("Round loops"),
        )
        self.zigzag.setToolTip("Every other pass cuts up: shorter links")
        self.spring.setToolTip("Passes along walls go round once more")
        self.round.setToolTip("Loops of a trochoid run as whole circles")
        self.make = QPushButton("Make this way")
        self.make.clicked.connect(lambda checked=False: self.wanted.emit(self.wish))
        self._system: units.System = "metric"
        self.table = plain_table("Ways that were made", _head("metric"), 2)
        self.table.setWordWrap(True)
        self.table.itemSelectionChanged.connect(self._on_row)
        self.write, self.drop = QPushButton("Write it ..."), QPushButton("Forget it")
        self.write.clicked.connect(lambda checked=False: self.written.emit())
        self.drop.clicked.connect(lambda checked=False: self._on_drop())
        self.words = Words()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        self._assemble()

    def _assemble(self) -> None:
        grid = QGridLayout()
        grid.setSpacing(4)
        grid.addWidget(self.way, 0, 0, 1, 2)
        grid.addWidget(self.remedy, 1, 0, 1, 2)
        boxes = QHBoxLayout()
        boxes.setSpacing(14)
        for box in (self.zigzag, self.spring, self.round):
            boxes.addWidget(box)
        boxes.addStretch(1)
        below = QHBoxLayout()
        below.addWidget(self.make)
        below.addStretch(1)
        below.addWidget(self.drop)
        below.addWidget(self.write)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(4)
        column.addLayout(grid)
        column.addLayout(boxes)
        column.addWidget(self.table, 1)
        column.addWidget(self.words)
        column.addLayout(below)

    @property
    def wish(self) -> Wish:
        """What is wished now."""
        return Wish(
            way=str(self.way.combo.currentData() or ""), zigzag=self.zigzag.isChecked(), spring=self.spring.isChecked(),
            loop="round" if self.round.isChecked() else "half", remedy=self.remedy.combo.currentData() or "none",
        )  # fmt: skip

    @property
    def chosen(self) -> Made | None:
        """The way that is looked at."""
        return next((made for made in self.made if made.wish == self._chosen and made.proved is not None), None)

    def look_at(self, wish: Wish | None) -> None:
        """Chooses a way, or none; it is shown as soon as it is there."""
        self._chosen = wish

    def show_ways(self, made: Sequence[Made], system: units.System, waiting: str) -> None:
        """Fills the table; the row that was looked at stays."""
        self.made, self._system = tuple(made), system
        self.table.setHorizontalHeaderLabels(list(_head(system)))
        self.table.blockSignals(True)
        self.table.setRowCount(0)
        for way in self.made:
            self._row(way, system)
        rows = [number for number, way in enumerate(self.made) if way.wish == self._chosen]
        if rows:
            self.table.selectRow(rows[0])
        else:
            self.table.clearSelection()
        self.table.resizeRowsToContents()
        self.table.blockSignals(False)
        self.write.setEnabled(self.chosen is not None)
        self.drop.setEnabled(bool(rows))
        self.show_waiting(waiting)

    def show_waiting(self, waiting: str) -> None:
        """What is under way, why a way could not be made, or what is worth knowing of the chosen one."""
        failed = next((way for way in self.made if way.wish == self._chosen and way.trouble), None)
        trouble = "" if failed is None else failed.trouble[:1].upper() + failed.trouble[1:]
        self.words.setText(waiting or trouble or self._told(self._system))
        self.words.mark("wrong" if trouble and not waiting else "faint")

    def _told(self, system: units.System) -> str:
        chosen = self.chosen
        if chosen is None or chosen.proved is None:
            return "" if self.made else "Make one or several ways and compare them; each is simulated as it would run."
        proved = chosen.proved
        told = [f"breaks {broken}" for broken in broken_rules(proved.summary)]
        webs = len(proved.judged.slivers)
        told += [f"{webs} thin webs" if webs > 1 else "one thin web"] if webs else []
        told += [f"against them: {offer.says}" for offer in proved.offers]
        left = proved.judged.leftover
        told += [f"{units.AREA.full(left, system)} stay covered"] if left > 0 else []
        told += [units.said(remark, system) for remark in remarks_of(proved)]
        words = "; ".join(told)[:400]
        return words[:1].upper() + words[1:] or "Nothing stays, nothing is touched that should not be."

    def _row(self, way: Made, system: units.System) -> None:
        if way.proved is None or way.simulated is None:
            words: tuple[str, ...] = (name_of(way), "no path", *[""] * 4)
            tips: tuple[str, ...] = ("",) * 6
            broken: list[str] = []
        else:
            route, found, run = way.proved.route, way.proved.judged, way.simulated.summary
            broken = broken_rules(run)
            cut, links = (route.way.length_of(*intents) for intents in (("cut", "wall"), ("link", "retract")))
            words = (
                name_of(way),
                clock(run.time),
                *peaks(run, system),
                nearest_limit(run),
                units.ROUGH_LENGTH.text(links, system),
            )
            nearest = "; ".join(broken) or f"nearest limit: {BY_ID[run.by_use[0][0]].name.lower()}"
            most = float(found.stepovers.max(initial=0.0))
            tips = ("", f"time of the whole path; {units.ROUGH_LENGTH.full(cut, system)} in the cut", *PEAK_TIPS,
                    f"{nearest}; stepover {most:.0%} of the wanted one at its peak, 95 % of the way under {found.share(0.95):.0%}",
                    f"length of links: {units.ROUGH_LENGTH.full(links, system)}")  # fmt: skip
        add_row(
            self.table,
            words,
            [way.trouble or tip or word for word, tip in zip(words, tips, strict=True)],
            _LIMIT if broken else None,
        )

    def _on_row(self) -> None:
        row = chosen_row(self.table)
        self._chosen = None if row is None else self.made[row].wish
        self.show_waiting("")
        self.turned.emit()

    def _on_drop(self) -> None:
        if self._chosen is not None:
            self.dropped.emit(self._chosen)
