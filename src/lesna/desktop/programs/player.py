"""Plays a program: how fast, coloured by what, and what stands at the cursor."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from lesna.desktop.programs.series import SERIES, Series
from lesna.desktop.widgets.fields import ChoiceField
from lesna.desktop.widgets.words import Words
from lesna.model import units

_TICK_MS = 40
#: times as fast as the machine
_SPEEDS = ("1", "5", "20", "100")


class Player(QWidget):
    """A row of controls over a line of figures."""

    #: seconds of the program that have passed since it was told last [s]
    went_on = Signal(float)
    #: id of the series that the path is coloured by
    coloured = Signal(str)
    #: height of the tip that is looked at alone [mm], None for all
    levelled = Signal(object)
    #: somebody wants it to play or to pause
    pressed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.play = QPushButton("Play")
        self.play.setAccessibleName("Play the program")
        self.play.clicked.connect(lambda checked=False: self.pressed.emit())
        self.speed = ChoiceField("Speed", [(word, f"{word} ×") for word in _SPEEDS], label_width=0)
        self.speed.show_value("20", "20 ×")
        self.speed.chosen.connect(lambda value: self.speed.show_value(value, f"{value} ×"))
        self.colour = ChoiceField("Colour by", [(series.id, series.name.lower()) for series in SERIES], label_width=62)
        self.colour.show_value("force", "side force")
        self.colour.chosen.connect(self.coloured)
        self.level = ChoiceField("Level", [], label_width=36)
        self.level.chosen.connect(lambda value: self.levelled.emit(float(value) if value else None))
        self.level.hide()
        self.here = Words()
        self.here.setObjectName("faint")
        self.here.setWordWrap(True)
        self.here.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.timer = QTimer(self)
        self.timer.setInterval(_TICK_MS)
        self.timer.timeout.connect(self._tick)
        row = QHBoxLayout()
        row.setSpacing(8)
        for part in (self.play, self.speed, self.colour, self.level):
            row.addWidget(part)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(row)
        column.addWidget(self.here)

    def show_series(self, shown: Sequence[Series]) -> None:
        """Offers what a path can be coloured by."""
        # where more is told it may take a second line, for which the page keeps room
        lines = 2 if len(shown) > len(SERIES) else 1
        self.here.setMinimumHeight(lines * self.here.fontMetrics().lineSpacing())
        names, former = {series.id: series.name.lower() for series in shown}, self.colour.combo.currentData()
        if list(names) == [self.colour.combo.itemData(k) for k in range(self.colour.combo.count())]:
            return
        id = former if former in names else "force"
        self.colour.show_items(list(names.items()))
        self.colour.show_value(id, names[id])
        self.coloured.emit(id)

    def show_levels(self, levels: Sequence[float], system: units.System) -> None:
        """Offers the levels of a program; nothing is offered where there is one."""
        self.level.setVisible(bool(levels))
        self.level.show_items([("", "all"), *((f"{z:g}", units.DIMENSION.full(z, system)) for z in levels)])
        self.level.show_value("", "all")

    @property
    def is_playing(self) -> bool:
        """Whether it plays."""
        return self.timer.isActive()

    def start(self) -> None:
        """Plays on."""
        self.timer.start()
        self.play.setText("Pause")

    def stop(self) -> None:
        """Pauses."""
        self.timer.stop()
        self.play.setText("Play")

    def _tick(self) -> None:
        self.went_on.emit(_TICK_MS / 1000.0 * float(self.speed.combo.currentData() or 20))
