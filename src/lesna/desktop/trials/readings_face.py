"""Every look at edges of the chosen cut's set-up, the newest first."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.trials.answers import Taught, TrialAnswers
from lesna.desktop.widgets.plain_table import add_row, plain_table
from lesna.model import units
from lesna.model.trials import RETIRED, WEAR_KINDS, WEAR_ZONES, Reading

_COLUMNS = ("Edge", "min", "VB", "wear", "edge was", "F", "load")


class ReadingsFace(QWidget):
    """Follows the answer of the step."""

    def __init__(self, session: Session, answers: TrialAnswers) -> None:
        super().__init__()
        self.session, self.answers = session, answers
        self.table = plain_table("Readings of this set-up", _COLUMNS, 3)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.table)
        answers.taught.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Lists them."""
        taught: Taught | None = self.answers.taught.value
        if taught is None:
            return
        self.table.setRowCount(0)
        readings = [one.reading for one in taught.fit.own]
        for one in sorted(readings, key=lambda one: (one.taken_on, one.trial, one.edge, one.minutes), reverse=True):
            self._add(one)

    def _add(self, one: Reading) -> None:
        system = self.session.system
        where = f", {WEAR_ZONES[one.wear_zone]}" if one.wear_zone else ""
        words = (
            one.edge, f"{one.minutes:g}", "" if one.vb_mm is None else units.CHIP.text(one.vb_mm, system),
            f"{WEAR_KINDS[one.wear_kind]}{where}", RETIRED[one.retired].removeprefix("taken out "),
            units.FEED.text(one.vf_mm_min, system) if one.vf_mm_min else "", f"{one.load_pct:.0f} %" if one.load_pct is not None else "",
        )  # fmt: skip
        said = "; ".join(
            part
            for part in (
                one.trial,
                one.taken_on,
                f"S{one.n_rpm:.0f}" if one.n_rpm else "",
                one.sound,
                one.chip_colour,
                one.finish,
                one.note,
                one.who,
            )
            if part
        )
        add_row(
            self.table,
            words,
            (said, *[""] * (len(words) - 1)),
            alarm=4 if one.retired == "worn" or one.is_broken else None,
        )
