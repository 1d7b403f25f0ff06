"""The coach's card: what the last look says, the one change, why, and a button that makes it the next step."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.trials.answers import Taught, TrialAnswers
from lesna.desktop.widgets.painting import Panel, scrolled
from lesna.desktop.widgets.words import Words
from lesna.learning.calm import DepthScale
from lesna.learning.coach import Advice, with_change
from lesna.learning.fit import Band, Fit
from lesna.learning.force import ForceScale
from lesna.learning.recipes import recipe_of
from lesna.learning.told import change_words, from_edges
from lesna.model import units

if TYPE_CHECKING:
    from lesna.bank.store import Bank


def _words(name: str = "", *, wraps: bool = True) -> Words:
    out = Words()
    if name:
        out.setObjectName(name)
    out.setWordWrap(wraps)
    return out


class CoachCard(Panel):
    """Follows the answer of the step; its button sets the change in the cut."""

    def __init__(self, session: Session, answers: TrialAnswers) -> None:
        super().__init__("Coach")
        self.session, self.answers = session, answers
        self.seen, self.change = _words("faint"), _words("title")
        self.why, self.look_for, self.source = _words(), _words(), _words("faint")
        self.warn = _words("wrong")
        self.take = QPushButton("Make it the next step")
        self.take.clicked.connect(lambda checked=False: self._take())
        area, column = scrolled(self.seen, self.change, self.warn, self.why, self.look_for, self.source)
        column.addStretch(1)
        self.body.addWidget(area, 1)
        row = QHBoxLayout()
        row.addWidget(self.take)
        row.addStretch(1)
        self.body.addLayout(row)
        answers.taught.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Shows the advice, or why there is none."""
        taught: Taught | None = self.answers.taught.value
        advice = None if taught is None else taught.advice
        if taught is None or advice is None:
            self._show("", self.answers.taught.trouble or (taught.no_advice if taught else ""), "", "", "", "")
            self.take.setEnabled(False)
            return
        system = self.session.system
        seen = f"{advice.reading}: {'; '.join(text for _, text in advice.says)}" if advice.reading else "No look yet"
        warn = [f"Signs that conflict: {text}" for text in advice.conflicts]
        if advice.beyond_model:
            warn.append("That lies beyond the range of the tables; go there in smaller steps.")
        look = f"Look for {advice.look_for}, after {advice.after_min:.0f} min in the cut."
        source = f"Source: {advice.source}" if advice.source else ""
        self._show(seen, change_words(advice, system), "\n".join(warn), _sentence(advice.why), look, source)
        self.take.setEnabled(bool(with_change(self.session.result.setup.parts, advice.change)))

    def _show(self, *texts: str) -> None:
        for words, text in zip(
            (self.seen, self.change, self.warn, self.why, self.look_for, self.source), texts, strict=True
        ):
            words.setText(units.said(text, self.session.system))
            words.setVisible(bool(text))

    def _take(self) -> None:
        taught: Taught | None = self.answers.taught.value
        advice: Advice | None = None if taught is None else taught.advice
        if advice is None:
            return
        values = with_change(self.session.result.setup.parts, advice.change)
        if values:
            self.session.attempt(lambda: self.session.edit_cut("Next step of the trial", **values))


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")


class TaughtFace(QWidget):
    """What trials made of life, force and chatter, and what somebody has to know before believing it."""

    def __init__(self, session: Session, answers: TrialAnswers) -> None:
        super().__init__()
        self.session, self.answers = session, answers
        self.lines = _words()
        self.says = _words("faint")
        area, inner = scrolled(self.lines, self.says)
        inner.addStretch(1)
        self.keep = QPushButton("Keep as a recipe")
        self.keep.setToolTip("The cut as it stands, with the edges that prove it")
        self.keep.clicked.connect(lambda checked=False: self._keep())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(area, 1)
        column.addWidget(self.keep, 0, Qt.AlignmentFlag.AlignLeft)
        answers.taught.changed.connect(self.refresh)

    def _keep(self) -> None:
        """Keeps the chosen cut as a recipe under its job's and its own name; one that is there already is brought up to date."""
        taught: Taught | None = self.answers.taught.value
        if taught is None:
            return
        session, title = self.session, self.session.job.title
        name = ", ".join(part for part in (title, session.cut.name) if part)[:200]
        data = {**recipe_of(session.result, taught.fit), "job": title}

        def work(bank: Bank) -> None:
            from lesna.bank.store import Source

            bank.keep("recipes", name, data, Source(job=title), bank.record("recipes", name))

        proof = from_edges(taught.fit) if taught.fit.edges else "with no edge that proves it yet"
        self.answers.bank.write("recipe", work, lambda _: session.say("note", f"{name} is kept as a recipe, {proof}"),
                                lambda text: session.say("wrong", text))  # fmt: skip

    def refresh(self) -> None:
        """Shows the figures."""
        taught: Taught | None = self.answers.taught.value
        if taught is None:
            return
        self.lines.setText("\n".join(_figures(taught.fit)))
        self.says.setText("\n".join(_says(taught.fit)))
        self.says.setVisible(bool(self.says.text()))


def _figures(fit: Fit) -> list[str]:
    held, inside = fit.held_out
    known = from_edges(fit)
    lines = [f"{known[:1].upper()}{known[1:]}.", f"Edge life  {_band(fit.at_cut)}", f"Tables alone  {_band(fit.prior_at_cut)}",
             f"95 % outlive  {fit.safe_min:.0f} min"]  # fmt: skip
    if fit.force.setups:
        lines.append(f"Force  {_scale(fit.force)} of the model's")
    if fit.depth.looks:
        lines.append(f"Chatter depth  {_scale(fit.depth)} of the estimate")
    lines.append(
        f"Check  {inside} of {held} edges of known life lie in the band that the others give"
        if held
        else "Check  no life is known to its end yet"
    )
    return lines


def _band(band: Band) -> str:
    return f"{band.median:.0f} min, {band.low:.0f} to {band.high:.0f}"


def _scale(scale: ForceScale | DepthScale) -> str:
    return f"{scale.median:.2f}, {scale.low:.2f} to {scale.high:.2f}"


def _says(fit: Fit) -> list[str]:
    out = [sentence[:1].upper() + sentence[1:] + "." for sentence in fit.says]
    out += [f"{one.name} {one.why} ({100 * one.value:.0f} %); it stays in." for one in fit.flagged]
    movers = sorted(fit.influence, key=lambda one: -abs(one.value))[:3]
    if movers and abs(movers[0].value) > 0.005:
        out.append(
            "Moved the life most: "
            + ", ".join(f"{one.name} {100 * math.expm1(one.value):+.0f} %" for one in movers)
            + "."
        )
    return out + [f"Left out: {one.name}, {one.why}." for one in fit.left_out]
