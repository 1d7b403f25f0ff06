"""Does the machine really run the feed? A distance and the seconds it took, against what was set."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.widgets.value_edit import ValueEdit
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.model.errors import InputError
from lesna.physics.speeds import stopwatch_difference

#: nearer than this share nobody stops a watch
_SAME = 0.01


class Stopwatch(QWidget):
    """Two lines to type into and what they say; nothing of it belongs to the job."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.distance, self.seconds = ValueEdit(), ValueEdit()
        for edit, name, hint in (
            (self.distance, "Distance that was timed", "mm"),
            (self.seconds, "Seconds it took", "s"),
        ):
            edit.setAccessibleName(name)
            edit.setPlaceholderText(hint)
            edit.setFixedWidth(62)
            edit.textChanged.connect(self.refresh)
        self.verdict = Words()
        self.verdict.setObjectName("faint")
        self.verdict.setWordWrap(True)
        label = Words("Stopwatch")
        label.setToolTip("Time a straight move at full feed; corners and short moves run slower")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        for part in (label, self.distance, Words("in"), self.seconds):
            row.addWidget(part)
        row.addWidget(self.verdict, 1)
        Follower(self, session, self.refresh, rests_in_drag=True)

    def refresh(self) -> None:
        """Says how far the timed feed is from the one that is set."""
        self.distance.setPlaceholderText(units.LENGTH.unit(self.session.system))
        self.verdict.setText(self._words())

    def _words(self) -> str:
        system = self.session.system
        if not (self.distance.text().strip() and self.seconds.text().strip()):
            return f"times {units.FEED.full(self.session.result.state.vf, system)}"
        try:
            length = units.parse(self.distance.text(), units.LENGTH, system)
            minutes = units.parse(f"{self.seconds.text().rstrip('s ')} s", units.MINUTES, system)
        except InputError:
            return "a length and seconds, such as 300 and 15"
        if length <= 0 or minutes <= 0:
            return "a length and seconds above 0"
        feed = length / minutes
        off = stopwatch_difference(length, 60.0 * minutes, self.session.result.state.vf)
        told = "as set" if abs(off) < _SAME else f"{abs(off):.0%} {'below' if off < 0 else 'above'}"
        return f"{units.FEED.full(feed, system)}, {told}"
