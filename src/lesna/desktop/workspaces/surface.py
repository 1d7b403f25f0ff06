"""Surface: how a part of triangles is finished, decided from the part itself, and the proof of what is left."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.dialogs import ask_anyway, ask_where_to_save
from lesna.desktop.dropped import PROGRAMS
from lesna.desktop.follower import Follower
from lesna.desktop.programs.targets import is_source, write_program
from lesna.desktop.session import Session
from lesna.desktop.surfaces.answers import Checked, Surfaces
from lesna.desktop.surfaces.decision_rows import DecisionRows
from lesna.desktop.surfaces.lean_chart import LeanChart
from lesna.desktop.surfaces.part_view import PartView
from lesna.desktop.surfaces.scene import Scene
from lesna.desktop.surfaces.slope_chart import SlopeChart
from lesna.desktop.surfaces.tool_body import body_at
from lesna.desktop.surfaces.values import COLOURS, ends_of, groups_of, heights_of, values_of
from lesna.desktop.widgets.buttons import button
from lesna.desktop.widgets.faces import FacesPanel
from lesna.desktop.widgets.fields import ChoiceField, NumberField
from lesna.desktop.widgets.painting import Panel, scrolled
from lesna.desktop.widgets.plain_table import add_row, chosen_row, plain_table
from lesna.desktop.widgets.words import Words
from lesna.desktop.workspaces.common import Bound
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.job import Feature, Job
from lesna.physics import Array
from lesna.planning.program.told import clock
from lesna.planning.surface.decide import Decision
from lesna.planning.surface.finish import Finished
from lesna.planning.surface.proof import BEYOND_CUSP, Proof
from lesna.planning.surface.rows import rows_of
from lesna.planning.surface.told import held_by, proof_told, seen, time_told

_SIDE = 372
#: where the tool stands at first, in thousandths of the path
_BEGIN = 420
_WAYS = (("auto", "decided"), ("lines", "lines"), ("rings", "rings"), ("contours", "contours"))
_PART_FILES = "Parts of triangles (*.stl *.STL);;All files (*)"
_PROGRAM_FILES = f"NC programs ({' '.join(f'*{ending}' for ending in PROGRAMS)});;All files (*)"
_EMPTY = "Take the part as triangles (STL), or drop it here: its faces, the lines that suit them, and what each choice leaves."


class SurfaceWorkspace(QWidget):
    """The step Surface of the route."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session = session
        self.surfaces = Surfaces(answers)
        self.view, self.chart, self.rows = PartView(), SlopeChart(session), DecisionRows()
        self._drawn: tuple[Any, ...] = ()
        #: of what the colours are, and they; they stay while the tool is moved
        self._coloured: tuple[Any, Any, Any] = (None, None, None)
        self._values, self._groups = np.zeros((0, 3)), np.zeros(0, np.int64)
        #: what is left on each triangle, where it was traced
        self._heights: Array | None = None
        #: of what the path is, its pieces and all its places
        self._path_of: Finished | None = None
        self._pieces: list[Array] = []
        self._places = np.zeros((0, 3))
        self._assemble()
        for answer in self.surfaces.all:
            answer.changed.connect(self._show)
            answer.progressed.connect(self._tell)
        self.surfaces.changed.connect(self._show)
        self.view.pointed.connect(self._on_pointed)
        self.chart.moved.connect(lambda value: self.surfaces.want(threshold=value))
        Follower(self, session, self._show)

    # ------------------------------------------------------------ assembly

    def _assemble(self) -> None:
        picture, slopes = Panel(""), Panel("")
        for panel, widget in ((picture, self.view), (slopes, self.chart)):
            panel.title.hide()
            panel.body.setContentsMargins(4, 4, 4, 4)
            panel.body.addWidget(widget, 1)
        self.place = QSlider(Qt.Orientation.Horizontal)
        self.place.setAccessibleName("Place along the path")
        self.place.setToolTip("Tool and holder stand where the slider is, to scale")
        self.place.setRange(0, 1000)
        self.place.setValue(_BEGIN)
        self.place.valueChanged.connect(lambda value: self._move_tool())
        picture.body.addWidget(self.place)
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addLayout(self._head())
        column.addWidget(self.words)
        column.addWidget(picture, 5)
        column.addWidget(slopes, 2)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 12, 8)
        row.setSpacing(10)
        row.addLayout(column, 1)
        row.addWidget(self._side())

    def _head(self) -> QHBoxLayout:
        self.open = button("Part ...", self._ask_part)
        self.open.setToolTip("Take the part as triangles (STL)")
        self.make = button("Make the path", self.surfaces.make)
        self.write = button("Write ...", self._ask_where)
        self.prove = button("Prove ...", self._ask_program)
        self.prove.setToolTip("What somebody's program leaves of this part, and where it cuts in")
        self.stop = button("Stop", self._toggle)
        self.colour = ChoiceField("Colour", tuple(COLOURS.items()), label_width=0)
        self.colour.show_value("slope", COLOURS["slope"])
        self.colour.chosen.connect(self._on_colour)
        self.colour.setMinimumWidth(112)
        self.words = Words()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        row = QHBoxLayout()
        for part in (self.open, self.make, self.write, self.prove):
            row.addWidget(part)
        row.addStretch(1)
        row.addWidget(self.stop)
        row.addWidget(self.colour)
        return row

    def _side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(_SIDE)
        area, _ = scrolled(self.rows)
        self.faces = plain_table("Faces of the part", ("face", "area", "slope", "lines", "stepover"), 3)
        self.holders = plain_table("Holders of the shop", ("holder", "stick-out", "tip bends"), 3)
        self.holders.itemSelectionChanged.connect(self._on_holder)
        self.take_holder = button("Hold it so", self._take_holder)
        self.take_holder.setToolTip("The cut takes this holder and its shortest stick-out")
        self.take_cut = button("Take speed and stepover", self._take_cut)
        self.take_cut.setToolTip(
            "The cut takes the stepover, the skin as its depth, and the speed by the diameter that cuts"
        )
        self.asked_by = Words()
        self.asked_by.setObjectName("faint")
        self.asked_by.setWordWrap(True)
        held = QWidget()
        below = QHBoxLayout()
        below.addWidget(self.take_cut)
        below.addStretch(1)
        below.addWidget(self.take_holder)
        inside = QVBoxLayout(held)
        inside.setContentsMargins(0, 0, 0, 0)
        self.leans = LeanChart(self.session)
        inside.addWidget(self.holders, 3)
        inside.addWidget(self.leans, 2)
        inside.addWidget(self.asked_by)
        inside.addLayout(below)
        self.proof = Words()
        self.proof.setWordWrap(True)
        self.left = plain_table("What is left, by slope", ("slope", "area", "half", "95 %", "99 %", "most"), 6)
        proof_area = QWidget()
        told = QVBoxLayout(proof_area)
        told.setContentsMargins(0, 0, 0, 0)
        told.addWidget(self.proof)
        told.addWidget(self.left, 1)
        self.ways = plain_table("Ways over the part", ("way", "path about", "time", "lifts", "turns"), 3)
        self.ways.itemActivated.connect(lambda item: self._take_way())
        self.ways.itemDoubleClicked.connect(lambda item: self._take_way())
        self.ways.itemSelectionChanged.connect(self._on_way)
        self.way_told = Words()
        self.way_told.setObjectName("faint")
        self.way_told.setWordWrap(True)
        ways = QWidget()
        column_of_ways = QVBoxLayout(ways)
        column_of_ways.setContentsMargins(0, 0, 0, 0)
        column_of_ways.addWidget(self.ways, 1)
        column_of_ways.addWidget(self.way_told)
        column_of_ways.addWidget(button("Go this way", self._take_way))
        self._panels = {"Decided": area, "Faces": self.faces, "Ways": ways, "Held": held, "Proof": proof_area}
        self.panel = FacesPanel(self._panels)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self._wishes())
        column.addWidget(self.panel, 1)
        return side

    def _wishes(self) -> QWidget:
        panel = Panel("Wanted")
        self.way = ChoiceField("Way", _WAYS, label_width=66)
        self.way.chosen.connect(lambda value: self.surfaces.want(way=value))
        self.fields = {
            "threshold": NumberField("Threshold", units.ANGLE, self._writes("threshold", 1.0), may_be_empty=True, empty="decided"),
            "lines": NumberField("Line angle", units.ANGLE, self._writes("lines", 1.0), may_be_empty=True, empty="decided"),
            "cusp": NumberField("Cusp", units.SMALL, self._writes("cusp", 0.001), may_be_empty=True, empty="decided"),
            "overlap": NumberField("Overlap", units.LENGTH, self._writes("overlap", 1.0), may_be_empty=True, empty="decided"),
        }  # fmt: skip
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(3)
        grid.addWidget(self.way, 0, 0)
        for number, field in enumerate(self.fields.values()):
            field.label.setFixedWidth(66)
            field.edit.setFixedWidth(84)
            grid.addWidget(field, 1 + number // 2, number % 2)
        self.bound = Bound(self.session, self)
        self.skin = self.bound.of(
            Feature, "stock_mm", lambda: self.session.cut.feature, self._with_feature, lockable=False, may_be_empty=True
        )
        self.skin.label.setFixedWidth(66)
        self.skin.edit.setFixedWidth(84)
        grid.addWidget(self.skin, 0, 1)
        panel.body.addLayout(grid)
        return panel

    def _with_feature(self, values: dict[str, Any]) -> Job:
        """The job with values of the chosen cut's surface changed."""
        session = self.session
        feature = session.cut.feature
        if feature is None:
            raise InputError("belongs to a surface; choose one as the feature")
        cuts = list(session.job.cuts)
        cuts[session.index] = session.cut.with_values(feature=feature.with_values(**values))
        return session.job.with_values(cuts=tuple(cuts))

    def _writes(self, key: str, factor: float) -> Any:
        bounds = {"threshold": (1.0, 89.0), "lines": (0.0, 179.9), "cusp": (0.1, 1000.0), "overlap": (0.0, 50.0)}[key]

        def write(value: float | None) -> None:
            if value is not None and not bounds[0] <= value <= bounds[1]:
                raise InputError(f"must lie between {bounds[0]:g} and {bounds[1]:g}")
            self.surfaces.want(**{key: None if value is None else value * factor})

        return write

    def showEvent(self, event: object) -> None:
        """Asks for the answers while somebody looks."""
        for answer in self.surfaces.all:
            answer.watch(self, True)

    def hideEvent(self, event: object) -> None:
        """Nobody looks: work ends."""
        for answer in self.surfaces.all:
            answer.watch(self, False)

    # ------------------------------------------------------------ what is there

    @property
    def decision(self) -> Decision | None:
        """What was decided, of the path where that is there."""
        value = self.surfaces.decision.value
        if self.done is not None:
            return self.done.made.decision
        return value if isinstance(value, Decision) else None

    @property
    def done(self) -> Finished | None:
        """The path with its proof."""
        value = self.surfaces.finished.value
        return value if isinstance(value, Finished) else None

    @property
    def checked(self) -> Checked | None:
        """Somebody's program that was proved."""
        value = self.surfaces.checked.value
        return value if isinstance(value, Checked) else None

    @property
    def shown_proof(self) -> Proof | None:
        """The proof whose map is shown: of somebody's program first."""
        if self.checked is not None:
            return self.checked.judged.proof
        return None if self.done is None else self.done.made.proof

    # ------------------------------------------------------------ commands

    def _ask_part(self) -> None:
        start = self.session.folder or Path.home()
        name, _ = QFileDialog.getOpenFileName(self, "Take a part", str(start), _PART_FILES)
        if name:
            self.take_part(Path(name))

    def take_part(self, path: Path) -> None:
        """Names the part of the chosen cut's surface, as an edit that can be undone."""
        feature = self.session.cut.feature
        kept = {} if feature is None or feature.kind != "surface" else feature.model_dump(exclude_none=True)
        values = {**kept, "kind": "surface", "stl": self.session.name_of(path)}
        self.session.attempt(lambda: self.session.edit_cut("Take a part", feature=values))

    def _ask_program(self) -> None:
        start = self.session.folder or Path.home()
        name, _ = QFileDialog.getOpenFileName(self, "Prove a program", str(start), _PROGRAM_FILES)
        if name:
            self.check(Path(name))

    def check(self, path: Path) -> None:
        """Proves a program on this part and shows what it leaves."""
        self.colour.show_value("left", COLOURS["left"])
        self.panel.show_face(list(self._panels).index("Proof"))
        self.surfaces.check(path)

    def _ask_where(self) -> None:
        name = "".join(c if c.isalnum() else "-" for c in self.session.cut.name.lower()).strip("-") or "surface"
        chosen = ask_where_to_save(
            self, "Write the path", (self.session.folder or Path.home()) / f"{name}.nc", "NC programs (*.nc)", "nc"
        )
        if chosen is not None:
            self.write_path(chosen)

    def write_path(self, path: Path) -> None:
        """Writes the path that was made; asks first where its proof fails."""
        done = self.done
        if done is None or self.session.is_job_itself(path) or is_source(self.session, path, own=True):
            return
        fails = done.made.proof.fails
        told = f"{path.name} {units.said('; it '.join(fails), self.session.system)}.\n\nWrite it all the same?"
        if fails and not ask_anyway(self, "This path is not proved", told, "Write it all the same"):
            return
        write_program(self.session, path, done.made.content)

    def _toggle(self) -> None:
        for answer in self.surfaces.all:
            if answer.trouble == "stopped":
                answer.again()
            else:
                answer.stop()

    def _move_tool(self) -> None:
        """The tool elsewhere on its path; drawn coarsely while it moves."""
        self._draw()
        self.view.look(self.view.eye)

    def _on_colour(self, value: str) -> None:
        self.colour.show_value(value, COLOURS[value])
        self._draw()

    def _on_way(self) -> None:
        row, decision = chosen_row(self.ways), self.decision
        if decision is not None and row is not None and row < len(decision.choices):
            self.way_told.setText(units.said(_first(decision.choices[row].reason), self.session.system))

    def _take_way(self) -> None:
        row, decision = chosen_row(self.ways), self.decision
        if decision is None or row is None or row >= len(decision.choices):
            return
        choice = decision.choices[row]
        way = "contours" if choice.id == "contours" else "rings" if choice.has_rings else "lines"
        # a way with levels is asked for at the angle that stands, one without them without any
        threshold = decision.threshold
        self.surfaces.want(way=way, threshold=threshold if choice.threshold_counts else None)

    def _on_pointed(self, triangle: int) -> None:
        """Tells of the place under the pointer: slope, spacing and what is left there."""
        decision, system = self.decision, self.session.system
        if decision is None or triangle < 0 or decision.ground_faces.of[triangle] < 0:
            self.view.tell("")
            return
        length = units.LENGTH
        told = [
            f"face {decision.ground_faces.of[triangle] + 1}",
            f"{np.degrees(decision.part.mesh.slopes[triangle]):.0f}°",
        ]
        told += [f"{length.full(float(decision.lines_field.plan[triangle]), system)} from above",
                 f"{length.full(float(decision.lines_field.along[triangle]), system)} along",
                 f"{length.full(float(decision.levels_field.down[triangle]), system)} down"]  # fmt: skip
        if self._heights is not None and np.isfinite(self._heights[triangle]):
            told.append(f"{units.SMALL.full(1000.0 * seen(float(self._heights[triangle])), system)} left")
        self.view.tell(", ".join(told))

    def _on_holder(self) -> None:
        row, done = chosen_row(self.holders), self.done
        if done is not None and row is not None and row < len(done.held):
            self.asked_by.setText(units.said(held_by(done.held[row]), self.session.system))

    def _take_holder(self) -> None:
        done, row = self.done, chosen_row(self.holders)
        if done is None:
            return
        held = done.held[row if row is not None and row < len(done.held) else 0]
        # never shorter than what was asked for, so that clearance stays
        length = float(np.ceil(held.length * 100.0) / 100.0)
        self.session.attempt(lambda: self.session.edit_cut("Hold it so", holder=held.holder.id, stick_out_mm=length))

    def _take_cut(self) -> None:
        done = self.done
        if done is None:
            return
        cutting, decision = done.made.cutting, done.made.decision
        values: dict[str, Any] = {"vc_m_min": None, "life_min_wanted": None, "n_rpm": float(np.floor(cutting.rpm)),
                  "ae_mm": round(decision.stepover, 4), "ap_mm": decision.skin}  # fmt: skip
        self.session.attempt(lambda: self.session.edit_cut("Take speed and stepover", **values))

    # ------------------------------------------------------------ showing

    def _show(self) -> None:
        if not self.isVisible():
            return
        system, decision, done = self.session.system, self.decision, self.done
        self._tell()
        wanted = self.surfaces.wanted
        self.way.show_value(wanted.way, dict(_WAYS)[wanted.way])
        shown = {"threshold": wanted.threshold, "lines": wanted.lines, "overlap": wanted.overlap,
                 "cusp": None if wanted.cusp is None else 1000.0 * wanted.cusp}  # fmt: skip
        for key, field in self.fields.items():
            field.show_value(shown[key], system)
        self.chart.show_decision(decision)
        self.rows.show_rows([] if decision is None else rows_of(decision, done), system)
        self._show_faces(decision, system)
        self._show_ways(decision, system)
        self._show_holders(done, system)
        self.leans.show_leans(() if done is None else done.leans)
        self._show_proof(system)
        self.write.setEnabled(done is not None)
        self.take_holder.setEnabled(done is not None)
        self.take_cut.setEnabled(done is not None)
        self.make.setEnabled(decision is not None and not self.surfaces.makes)
        self._draw()

    def _tell(self) -> None:
        """What is under way, what stands in the way, or nothing."""
        feature = self.session.cut.feature
        asked = [answer for answer in self.surfaces.all if answer.is_asked]
        troubles = [answer.trouble for answer in self.surfaces.all if answer.trouble]
        stopped = bool(troubles) and all(text == "stopped" for text in troubles)
        self.stop.setVisible(bool(asked) or stopped)
        self.stop.setText("Go on" if stopped and not asked else "Stop")
        words = ""
        if feature is None or feature.stl is None:
            words = _EMPTY
        elif troubles and not asked:
            words = _first(troubles[0])
        elif asked:
            words = _first(f"{asked[0].progress or 'Looking at the part'} ...")
        self.words.setText(units.said(words, self.session.system))
        self.words.setVisible(bool(words))
        self.words.mark("wrong" if troubles and not asked and not stopped and words != _EMPTY else "faint")

    def _show_faces(self, decision: Decision | None, system: units.System) -> None:
        table = self.faces
        table.setRowCount(0)
        for number, face in enumerate(() if decision is None else decision.faces, start=1):
            least, middle, most = face.slopes
            keeps = 100 * face.stepover / max(decision.flat, 1e-9) if decision is not None else 0.0
            add_row(
                table,
                (f"{number}{', in two' if face.is_split else ''}", units.AREA.full(face.area, system),
                 f"{least:.0f} to {most:.0f}°", f"{face.angle:g}°", units.LENGTH.full(face.stepover, system)),
                ("the threshold cuts it in two" if face.is_split else "", "", f"half of it under {middle:.0f}°",
                 f"the worst angle allows {units.LENGTH.full(face.worst, system)}",
                 f"{keeps:.0f} % of flat ground; {units.LENGTH.full(face.any_way, system)} whichever way the feed runs"),
            )  # fmt: skip

    def _show_ways(self, decision: Decision | None, system: units.System) -> None:
        self.ways.blockSignals(True)
        self.ways.setRowCount(0)
        for number, choice in enumerate(() if decision is None else decision.choices):
            length = units.ROUGH_LENGTH.full(choice.length, system) if np.isfinite(choice.length) else "does not suit"
            made = self.surfaces.made.get(choice.id)
            real = (
                ("", "", "")
                if made is None
                else (clock(made.timed.seconds), str(made.path.lifts), str(made.path.turns))
            )
            told = "make it to know" if made is None else "lifts, links and sharp turns may be seen on the part"
            title = f"{choice.title}{', taken' if number == 0 else ''}"
            add_row(self.ways, (title, length, *real), (_first(choice.reason), "", told, told, told))
        if decision is not None:
            self.ways.selectRow(0)
        self.ways.blockSignals(False)
        self._on_way()

    def _show_holders(self, done: Finished | None, system: units.System) -> None:
        table = self.holders
        chosen = chosen_row(table)
        table.blockSignals(True)
        table.setRowCount(0)
        for held in () if done is None else done.held:
            bends = "too long" if held.deflection is None else units.SMALL.full(held.deflection, system)
            needed = units.LENGTH.full(held.needed, system)
            add_row(
                table,
                (held.holder.name or held.holder.id, units.LENGTH.full(held.reach.length, system), bends),
                (
                    units.said(held_by(held), system),
                    f"set to {units.LENGTH.full(held.length, system)}",
                    f"takes a tool of {needed} at least",
                ),
                2 if held.deflection is None else None,
            )
        if done is not None:
            table.selectRow(chosen if chosen is not None and chosen < len(done.held) else 0)
        table.blockSignals(False)
        self._on_holder()

    def _show_proof(self, system: units.System) -> None:
        proof, checked = self.shown_proof, self.checked
        self.left.setRowCount(0)
        self.left.setVisible(proof is not None)
        if proof is None:
            self.proof.setText("Make the path, or prove a program: what it leaves by slope, and where it cuts in.")
            self.proof.mark("faint")
            return
        timed = checked.judged.timed if checked is not None else self.done.made.timed if self.done is not None else None
        name = f"{checked.name}: " if checked is not None else ""
        told = [*proof_told(proof), *([] if timed is None else [time_told(timed)])]
        self.proof.setText(name + "\n".join(units.said(text, system) for text in told))
        self.proof.mark("" if proof.passes else "wrong")
        for c in proof.classes:
            heights = [units.SMALL.text(1000.0 * seen(value), system) for value in (c.p50, c.p95, c.p99, c.most)]
            over = 5 if c.most > BEYOND_CUSP * proof.cusp else None
            add_row(
                self.left, (f"{c.low:g} to {c.high:g}°", units.AREA.full(c.area, system), *heights), ("",) * 6, over
            )
        unit = units.SMALL.unit(system)
        self.left.setHorizontalHeaderLabels(["slope", "area", f"half, {unit}", "95 %", "99 %", "most"])

    def _draw(self) -> None:
        decision, done = self.decision, self.done
        if decision is None:
            self.view.show_scene(None, "", ("", ""), "" if self.words.isVisible() else _EMPTY)
            self.place.setEnabled(False)
            return
        colour = str(self.colour.combo.currentData() or "slope")
        proof = self.shown_proof
        if colour == "left" and proof is None:
            colour = "slope"
        self.place.setEnabled(done is not None)
        key = (
            id(decision),
            id(done),
            id(proof),
            colour,
            self.place.value(),
            self.session.result.setup.parts.cut.stick_out_mm,
        )
        if key == self._drawn and self.view.scene is not None:
            return
        self._drawn = key
        lines: tuple[Array, ...] = ()
        tool = np.zeros((0, 3, 3))
        if done is not None:
            if self._path_of is not done:
                # while the tool is moved along it the path stays
                self._path_of, self._pieces = done, [piece.places for piece in done.made.path.pieces]
                self._places = np.concatenate(self._pieces)
            pieces, places = self._pieces, self._places
            at = round(self.place.value() / 1000.0 * (len(places) - 1))
            tip = places[at]
            # on what it leaves the path would hide the colours; elsewhere it is drawn as far as the tool has come
            lines = () if colour == "left" else _up_to(pieces, at)
            parts = self.session.result.setup.parts
            tool = body_at(parts, decision.shape, parts.cut.stick_out_mm, tip)
        coloured = (decision, proof, colour)
        known = self._coloured
        if decision is not known[0] or proof is not known[1] or colour != known[2]:
            self._coloured = coloured
            self._values, self._groups = values_of(decision, colour, proof), groups_of(decision)
            self._heights = None if proof is None else heights_of(decision, proof)
        scene = Scene(decision.part.mesh, self._values, self._groups, lines, decision.stepover, tool)
        self.view.show_scene(scene, COLOURS[colour], ends_of(colour))


def _first(text: str) -> str:
    """A sentence with its first letter large."""
    return text[:1].upper() + text[1:]


def _up_to(pieces: list[Array], at: int) -> tuple[Array, ...]:
    """Pieces of a path as far as a place of it, counted through all of them."""
    out: list[Array] = []
    for piece in pieces:
        if at <= 0:
            break
        out.append(piece[: at + 1])
        at -= len(piece)
    return tuple(out)
