"""Own targets of levelled feeds: what may not be exceeded, how far feeds may move, and how blocks are parted."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFrame, QPushButton, QScrollArea, QVBoxLayout, QWidget

from lesna.desktop.widgets.fields import ChoiceField, NumberField
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.planning.program.level import AIMS, Targets

#: field of the targets, what it is called, its unit
_NUMBERS = (
    ("peak", "Side force", units.FORCE), ("power", "Power", units.POWER), ("deflection", "Deflection", units.SMALL),
    ("chip_least", "Least chip", units.CHIP), ("chip_most", "Greatest chip", units.CHIP),
    ("ceiling", "Highest feed ×", units.RATIO), ("least", "Lowest feed ×", units.RATIO), ("entry", "Entry feed ×", units.RATIO),
    ("block_time", "Piece, s", units.RATIO),
)  # fmt: skip
_OPTIONAL = ("peak", "power", "deflection", "chip_least", "chip_most")
#: chips that stand for no end [mm]
_NO_LEAST, _NO_MOST = 1e-6, 1e3


class TargetsForm(QScrollArea):
    """Fields for every target; each starts as the aims have it."""

    #: the targets that were asked for
    asked = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.targets = Targets()
        self._system: units.System = "metric"
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 4, 0)
        column.setSpacing(3)
        self.aim = ChoiceField("Aim", [(aim, aim) for aim in AIMS])
        self.aim.show_value(self.targets.aim)
        self.aim.chosen.connect(self._on_aim)
        column.addWidget(self.aim)
        self.fields: dict[str, NumberField] = {}
        for key, label, quantity in _NUMBERS:
            field = NumberField(label, quantity, self._taker(key), may_be_empty=key in _OPTIONAL)
            self.fields[key] = field
            column.addWidget(field)
        self.by_block = QCheckBox("One feed for each block, none parted")
        self.note = QCheckBox("A comment at the top tells what was done")
        self.by_block.toggled.connect(lambda on: self._with(by_block=on))
        self.note.toggled.connect(lambda on: self._with(note=on))
        self.level = QPushButton("Level to these targets")
        self.level.clicked.connect(lambda checked=False: self._ask())
        hint = Words("Upper ends that are kept to; left empty, those of the aim and of the tables. × counts in programmed feeds; a "
                      "parted block's shortest piece lasts so many seconds.")  # fmt: skip
        hint.setObjectName("faint")
        hint.setWordWrap(True)
        for part in (self.by_block, self.note, self.level, hint):
            column.addWidget(part)
        column.addStretch(1)
        self.setWidget(page)

    def show_targets(self, system: units.System) -> None:
        """Shows them in the units of the view."""
        self._system = system
        chip = self.targets.chip or (None, None)
        values = {
            "chip_least": None if chip[0] == _NO_LEAST else chip[0],
            "chip_most": None if chip[1] == _NO_MOST else chip[1],
        }
        for key, field in self.fields.items():
            field.show_value(values.get(key, getattr(self.targets, key, None)), system)
        for box, on in ((self.by_block, self.targets.by_block), (self.note, self.targets.note)):
            box.blockSignals(True)
            box.setChecked(on)
            box.blockSignals(False)

    def _taker(self, key: str):  # type: ignore[no-untyped-def]
        def take(value: float | None) -> None:
            if key not in ("chip_least", "chip_most"):
                self._with(**{key: value})
                return
            least, most = self.targets.chip or (_NO_LEAST, _NO_MOST)
            if key == "chip_least":
                least = _NO_LEAST if value is None else value
            else:
                most = _NO_MOST if value is None else value
            self._with(chip=None if (least, most) == (_NO_LEAST, _NO_MOST) else (least, most))

        return take

    def _on_aim(self, aim: str) -> None:
        self._with(aim=aim)
        self.aim.show_value(aim)

    def _with(self, **changed: object) -> None:
        self.targets = replace(self.targets, **changed)  # type: ignore[arg-type]
        self.show_targets(self._system)

    def _ask(self) -> None:
        if all(field.commit_typing() for field in self.fields.values()):
            self.asked.emit(self.targets)
