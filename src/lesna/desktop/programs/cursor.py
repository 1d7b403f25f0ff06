"""The cursor of the step Path: one place in picture, strips, text and list alike, played or gone to."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QListWidgetItem,
    QWidget,
)

from lesna.desktop.programs.answers import Simulated
from lesna.desktop.programs.leaning_view import LeaningView
from lesna.desktop.programs.picture import PathPicture
from lesna.desktop.programs.player import Player
from lesna.desktop.programs.program_text import ProgramText
from lesna.desktop.programs.series import read_of
from lesna.desktop.programs.strip_chart import StripChart
from lesna.desktop.session import Session
from lesna.model import units
from lesna.planning.program.geometry import Geometry
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.run import Run


def _angles(geometry: Geometry, step: int) -> str:
    """Where the rotary axes stand."""
    if not isinstance(geometry, Leaning):
        return ""
    angles = geometry.steps.turned_end[step].tolist()
    return "".join(f" {letter}{angle:.3f}" for letter, angle in zip(geometry.kinematics.letters, angles, strict=True))


def _pushed(run: Run, step: int, system: units.System) -> str:
    """The force of the tool on the part at its peak, in program coordinates: what bends a thin blade."""
    geometry = run.geometry
    if not isinstance(geometry, Leaning) or not geometry.contact[step]:
        return ""
    parts = [
        f"{axis} {units.FORCE.text(value, system)}" for axis, value in zip("XYZ", run.push[step].tolist(), strict=True)
    ]
    return f"; on the part {' '.join(parts)} {units.FORCE.unit(system)}"


def _whole(number: str) -> str:
    """A number that a line break does not part from its unit, nor the unit at its stroke."""
    return number.replace(" ", "\u00a0").replace("/", "/\u2060")


class Cursor(QWidget):
    """The part of the page that moves through what is found."""

    session: Session
    views: tuple[PathPicture | LeaningView, ...]
    strips: StripChart
    text: ProgramText
    player: Player
    found: Simulated | None

    @property
    def run(self) -> Run | None:
        """The run at which the cursor stands: the program's own."""
        return self.found.run if self.found is not None else None

    def go_to_step(self, step: int) -> None:
        """Moves every cursor to a step."""
        if self.run is None or step < 0:
            return
        self._go(step, float(self.run.end_time[step]))

    def go_to_time(self, time: float) -> None:
        """Moves every cursor to a time of the program [s]."""
        if self.run is not None:
            step = min(int(np.searchsorted(self.run.end_time, time)), len(self.run.geometry.steps) - 1)
            self._go(step, time)

    def go_to_line(self, line: int) -> None:
        """Moves every cursor to the first step of a line, or of the next one that moves."""
        if self.run is not None:
            lines = self.run.geometry.program.moves.line[self.run.geometry.steps.move]
            later = np.flatnonzero(lines >= line)
            if len(later):
                self.go_to_step(int(later[0]))

    def _go(self, step: int, time: float) -> None:
        run = self.run
        assert run is not None  # asked by whoever calls
        for view in self.views:
            view.show_step(step)
        self.strips.show_time(time)
        self.text.show_line(int(run.geometry.program.moves.line[run.geometry.steps.move[step]]))
        self._tell(step)

    @property
    def _here(self) -> int:
        """Step at which the cursor stands."""
        return max(view.here for view in self.views if view.run is self.run)

    def _tell(self, step: int) -> None:
        """What stands at the cursor, in the units of the view."""
        run = self.run
        assert run is not None  # asked by whoever calls
        line = int(run.geometry.program.moves.line[run.geometry.steps.move[step]])
        system = self.session.system
        x, y, z = (units.DIMENSION.text(value, system) for value in run.geometry.steps.end[step].tolist())
        met = ", ".join(_whole(series.quantity.full(float(series.of(run)[step]), system)) for series in read_of(run))
        turned = _angles(run.geometry, step)
        self.player.here.setText(f"line {line}   X{x} Y{y} Z{z}{turned}   {met}{_pushed(run, step, system)}")

    def _play(self) -> None:
        if self.player.is_playing:
            self.player.stop()
        elif self.run is not None:
            if self.strips.time >= float(self.run.end_time[-1]) - 1e-6:
                self.go_to_time(0.0)
            self.player.start()

    def _go_on(self, seconds: float) -> None:
        if self.run is None:
            return
        whole = float(self.run.end_time[-1])
        self.go_to_time(min(self.strips.time + seconds, whole))
        if self.strips.time >= whole:
            self.player.stop()

    def _colour(self, id: str) -> None:
        for view in self.views:
            view.show_series(id)

    def _level(self, z: float | None) -> None:
        for view in self.views:
            view.show_level(z)
        self.player.level.show_value("" if z is None else f"{z:g}")

    def _on_place(self, item: QListWidgetItem) -> None:
        self.go_to_step(int(item.data(Qt.ItemDataRole.UserRole)))
