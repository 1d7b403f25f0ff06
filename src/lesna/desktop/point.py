"""The point of the map: what moves stepover and depth of the chosen cut, whoever asks for it."""

from __future__ import annotations

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.session import Session
from lesna.model.errors import InputError
from lesna.planning.cut.levels import typed_depth


class Point:
    """Moves the chosen cut; what stands in the way is said in the banner."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        self._session, self._answers = session, answers

    def move_to(self, ae: float, ap: float, *, label: str = "Move the cut") -> None:
        """Sets stepover and depth as part of the running gesture; held ones stay [mm]."""
        cut = self._session.cut
        wanted = {"ae_mm": round(ae, 4), "ap_mm": typed_depth(ap)}
        values = {key: value for key, value in wanted.items() if key not in cut.locks}
        if not values:
            self._session.say("note", "stepover and depth are both held; free one to move the cut")
            return
        try:
            self._session.edit_cut(label, gesture=True, **values)
        except InputError as error:
            self._session.say("note", error.message)

    def go_to_best(self) -> None:
        """Goes to the highest removal inside every limit and within the cut's school, once its own map is there."""
        answer = self._answers.map
        if answer.value is None:
            self._session.say("note", "computing the map of this cut; then it goes to the best point")
        answer.when_there(self._go)

    def _go(self) -> None:
        best = self._answers.map.value.map.best_in_school
        if best is None:
            self._session.say("note", "no point of this school is inside every limit; ease speed, chip or set-up first")
            return
        self._session.begin_gesture()
        self.move_to(best.ae, best.ap, label="Go to the best point")
