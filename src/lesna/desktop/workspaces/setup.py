"""Setup: tool, holder, machine, material and part, and whether they are ready."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from lesna.data.search import Match
from lesna.desktop.follower import Follower
from lesna.desktop.records.alone import AloneLink
from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.desktop.widgets.cautions_list import CautionsList
from lesna.desktop.widgets.drawing_form import DrawingForm
from lesna.desktop.widgets.elevation_view import ElevationView
from lesna.desktop.widgets.fields import LABEL_WIDTH, ChoiceField, NumberField
from lesna.desktop.widgets.painting import Panel, scrolled
from lesna.desktop.widgets.readiness_list import ReadinessList
from lesna.desktop.widgets.search_box import SearchBox
from lesna.desktop.widgets.spindle_chart import SpindleChart
from lesna.desktop.widgets.words import Words
from lesna.desktop.workspaces.common import Bound
from lesna.document import edits
from lesna.model import names, units
from lesna.model.facts import fact_of
from lesna.model.job import Batch, Cut, Feature, Job, Workpiece
from lesna.model.library_records import Material, Tool
from lesna.planning.cut.suits import suitability

FEATURES = (("", "not given"), *names.FEATURES.items())
_TENDENCY = ("none", "slight", "marked", "strong")


def material_notes(material: Material) -> str:
    """How a material behaves, in a few lines."""
    designations = ", ".join(text for text in (material.en, material.aisi_uns) if text)
    hardness = ""
    if material.hardness_hb_min and material.hardness_hb_max:
        hardness = f"{material.hardness_hb_min:.0f} to {material.hardness_hb_max:.0f} HB"
    force = (
        f"kc1.1 {material.kc11_n_mm2:.0f} N/mm², mc {material.mc:.2f}" if material.kc11_n_mm2 and material.mc is not None
        else "linear force law"
    )  # fmt: skip
    lines = [
        designations,
        ", ".join(text for text in (material.condition, hardness) if text),
        f"{force} (confidence {material.confidence or 'not given'})",
        f"{material.chip_form} chips; built-up edge {_TENDENCY[material.built_up_edge_tendency]}, "
        f"hardens {_TENDENCY[material.work_hardening_tendency]}, abrasive {_TENDENCY[material.abrasiveness]}",
    ]
    return "\n".join(line for line in lines if line)


def _widget_at(column: QVBoxLayout, place: int) -> QWidget | None:
    item = column.itemAt(place)
    return None if item is None else item.widget()


class SetupWorkspace(QWidget):
    """The step Setup of the route."""

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__()
        self.session = session
        self.drawing = DrawingForm(session, runner)
        self.bound = Bound(session, self)
        self.elevation = ElevationView(session)
        drawing = Panel("Tool in its holder, to scale")
        drawing.body.addWidget(self.elevation, 1)
        hint = Words("Drag the holder face or the depth")
        hint.setObjectName("faint")
        drawing.body.addWidget(hint)
        spindle = Panel("What the spindle gives")
        spindle.body.addWidget(SpindleChart(session), 1)
        ready = Panel("Is it ready?")
        self.readiness = ReadinessList(session)
        cautions = Words("Cautions")
        cautions.setObjectName("title")
        area, column = scrolled(self.readiness, cautions, CautionsList(session))
        column.addStretch(1)
        ready.body.addWidget(area, 1)
        middle = QVBoxLayout()
        middle.addWidget(spindle, 2)
        middle.addWidget(ready, 3)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 12, 8)
        row.setSpacing(10)
        row.addWidget(drawing, 2)
        row.addLayout(middle, 3)
        fields = self._fields()
        fields.setFixedWidth(325)
        row.addWidget(fields)
        Follower(self, session, self._refresh)

    # ------------------------------------------------------------ fields

    def _fields(self) -> Panel:
        panel = Panel("What stands on the machine")
        library = self.session.library
        self.material = SearchBox("Material, by any designation", library.find_materials)
        self.material.setToolTip("Type a number, a name or a condition: 1.7225, 42CrMo4, 4140, prehard")
        self.material.chosen.connect(self._on_material)
        self.notes = Words()
        self.notes.setObjectName("faint")
        self.notes.setWordWrap(True)
        self.tool = SearchBox("Tool, by words and sizes", self._find_tools)
        self.tool.setToolTip("Type words and sizes: ball ø10, square d12 z4, 0.5in, corner d12 r1")
        self.tool.chosen.connect(self._on_tool)
        self.tool_notes = Words()
        self.tool_notes.setObjectName("faint")
        self.tool_notes.setWordWrap(True)
        self.machine = ChoiceField("Machine", (), label_width=0)
        self.machine.chosen.connect(self._on_machine)
        self.holder = ChoiceField("Holder", (), label_width=0)
        self._list_rows()
        self.session.library_changed.connect(self._list_rows)
        self.holder.chosen.connect(self._on_holder)
        self.feature = ChoiceField("Feature", FEATURES)
        self.feature.chosen.connect(self._on_feature_kind)
        area, column = scrolled(
            _heading("Material"), self.material, AloneLink(self.session, "materials"), self.notes, *self._piece_fields(),
            _heading("Tool and holder"), self.tool, AloneLink(self.session, "tools"), self.tool_notes, self.holder,
            AloneLink(self.session, "holders"), *self._tool_fields(),
            _heading("Machine and batch"), self.machine, AloneLink(self.session, "machines"), *self._batch_fields(),
            _heading("What this cut makes"), self.feature, self.drawing, *self._feature_fields(),
        )  # fmt: skip
        column.addStretch(1)
        panel.body.addWidget(area, 1)
        self.area = area
        self._order(column)
        return panel

    def _order(self, column: QVBoxLayout) -> None:
        """The keyboard goes through what is filled in first, and through the links to further fields after it."""
        parts = [widget for place in range(column.count()) if (widget := _widget_at(column, place)) is not None]
        links = [part for part in parts if isinstance(part, AloneLink)]
        chain: list[QWidget] = []
        for part in (*(part for part in parts if part not in links), *links):
            inside = [part, *part.findChildren(QWidget)]
            # lists that drop down are windows of their own
            chain += [
                one for one in inside if one.focusPolicy() & Qt.FocusPolicy.TabFocus and one.window() is part.window()
            ]
        for one, after in pairwise(chain):
            QWidget.setTabOrder(one, after)

    def begin(self) -> None:
        """A job is begun with its material: the keyboard is there, and what is typed replaces it."""
        self.material.setFocus(Qt.FocusReason.TabFocusReason)
        self.material.selectAll()

    def scroll_to(self, widget: QWidget) -> None:
        """Brings a field into view."""
        self.area.ensureWidgetVisible(widget, 0, widget.height())

    def _find_tools(self, text: str) -> list[Match]:
        """Tools that answer, those that suit material and feature first."""
        parts = self.session.result.setup.parts
        shelf = self.session.shelf
        return self.session.library.find_tools(
            text, lambda tool: suitability(tool, parts.material, parts.cut.feature, shelf)
        )

    def _piece_fields(self) -> list[NumberField]:
        s = self.session
        return [
            self.bound.of(Workpiece, key, lambda: s.job.workpiece, lambda values: edits.with_workpiece(s.job, **values),
                          may_be_empty=True)
            for key in ("hardness_hrc", "hardness_hb", "mass_kg", "clamp_force_n")
        ]  # fmt: skip

    def _tool_fields(self) -> list[NumberField]:
        def stick_out_hint() -> str:
            return f"{self.session.cut.stick_out_mm / self.session.result.setup.shape.DC:.1f} × D"

        s = self.session
        return [
            self.bound.of(Cut, "stick_out_mm", lambda: s.cut, lambda values: edits.with_cut(s.job, s.index, **values),
                          hint=stick_out_hint),
            self.bound.number(
                "runout_um", fact_of(Tool, "runout_um").label, units.SMALL, lambda: self.session.result.setup.parts.tool.runout_um,
                self._set_runout, may_be_empty=True, hint=self._runout_hint,
            ),
        ]  # fmt: skip

    def _runout_hint(self) -> str:
        runout = self.session.result.setup.parts.tool.runout_um
        if runout is None:
            return "unknown"
        return f"{runout / 1000 / self.session.result.state.hex:.0%} hex"

    def _set_runout(self, value: float | None) -> None:
        tool = {key: kept for key, kept in self.session.cut.tool.written().items() if key != "runout_um"}
        if value is not None:
            tool["runout_um"] = value
        self.session.edit_cut("Change the runout", tool=tool)

    def _batch_fields(self) -> list[NumberField]:
        s = self.session
        return [
            self.bound.of(Batch, key, lambda: s.job.batch, lambda values: edits.with_batch(s.job, **values),
                          quantity=units.COUNT if key == "parts" else None, may_be_empty=key != "parts",
                          hint=self._rate_hint if key == "machine_rate_per_h" else None)
            for key in ("parts", "machine_rate_per_h", "tool_change_min")
        ]  # fmt: skip

    def _rate_hint(self) -> str:
        """Whose rate counts."""
        own, batch = self.session.result.setup.parts.machine.hourly_rate_cu, self.session.job.batch.machine_rate_per_h
        if batch is None:
            return "no rate known" if own is None else f"machine's: {units.MONEY.text(own, self.session.system)}"
        return "this batch's" if own is None else f"machine's {units.MONEY.text(own, self.session.system)} set aside"

    def _feature_fields(self) -> list[NumberField]:
        s = self.session

        def change(values: dict[str, Any]) -> Job:
            # what is left on walls and floor is nothing where it is cleared
            kept = {key: 0.0 if value is None and key.startswith("stock") else value for key, value in values.items()}
            return edits.with_feature(s.job, s.index, **kept)

        keys = ("length_mm", "width_mm", "depth_mm", "corner_radius_mm", "stock_wall_mm", "stock_floor_mm")
        return [
            self.bound.of(Feature, key, lambda: s.cut.feature, change, quantity=units.LENGTH, name=f"feature.{key}",
                          may_be_empty=True)
            for key in keys
        ]  # fmt: skip

    def _list_rows(self) -> None:
        """The machines and holders there are now."""
        library = self.session.library
        for field, table in ((self.machine, library.machines), (self.holder, library.holders)):
            field.show_items([(key, str(table.raw(key).get("name") or key)) for key in table])
        if self.session.results:
            self._show_choices()

    # ------------------------------------------------------------ edits

    def _on_material(self, id: str) -> None:
        s = self.session
        job = edits.with_workpiece(s.job, material=id, hardness_hrc=None, hardness_hb=None)
        if s.attempt(lambda: s.edit("Change the material", job)):
            number = s.job_number
            s.offer(
                f"{s.result.setup.parts.material.name} is cut with other speeds and chips; the cuts keep theirs until you say so",
                "Take its starting values", lambda: self._start_anew(number),
            )  # fmt: skip

    def _start_anew(self, job_number: int) -> None:
        """Every cut of which the tables know a proposal starts with it; held values stay."""
        s = self.session
        if job_number != s.job_number:
            return
        job, left_out = edits.with_starting_values_everywhere(s.job, s.library)
        if s.attempt(lambda: s.edit("Take starting values", job)) and left_out:
            s.say("note", f"no starting values for {', '.join(left_out)}: its speeds stay")

    def _on_tool(self, id: str) -> None:
        s = self.session
        s.attempt(lambda: s.edit("Change the tool", edits.with_tool(s.job, s.index, id, s.library)))

    def _on_machine(self, id: str) -> None:
        s = self.session
        s.attempt(lambda: s.edit("Change the machine", s.job.with_values(machine=id)))

    def _on_holder(self, id: str) -> None:
        self.session.attempt(lambda: self.session.edit_cut("Change the holder", holder=id))

    def _on_feature_kind(self, kind: str) -> None:
        s = self.session
        if kind == "profile" and (s.cut.feature is None or s.cut.feature.dxf is None):
            # the kind follows the drawing that is chosen
            self.feature.show_value(s.cut.feature.kind if s.cut.feature else "")
            self.drawing.ask()
        elif kind:
            s.attempt(lambda: s.edit("Change the feature", edits.with_feature(s.job, s.index, kind=kind)))
        else:
            s.attempt(lambda: s.edit_cut("Remove the feature", feature=None))

    # ------------------------------------------------------------ following

    def _show_choices(self) -> None:
        parts = self.session.result.setup.parts
        self.machine.show_value(parts.machine.id, parts.machine.name or "machine of this job")
        self.holder.show_value(parts.holder.id, parts.holder.name or "holder of this cut")

    def _refresh(self) -> None:
        parts = self.session.result.setup.parts
        tool, material, cut = parts.tool, parts.material, parts.cut
        self.material.show_value(material.name or "material of this job")
        self.notes.setText(material_notes(material))
        self.tool.show_value(tool.name or f"{tool.kind.replace('_', ' ')}, written in this job")
        system = self.session.system
        self.tool_notes.setText(
            f"DC {units.DIMENSION.full(tool.DC, system)}, RE {units.DIMENSION.full(tool.corner, system)}, z {tool.ZEFP}, "
            f"helix {tool.FHA:g}°, APMX {units.DIMENSION.full(tool.APMX, system)}, "
            f"{tool.substrate.replace('_', '-')} {'uncoated' if tool.coating == 'none' else tool.coating}"
        )
        self._show_choices()
        self.feature.show_value(cut.feature.kind if cut.feature else "")
        self.drawing.show_feature(cut.feature)
        is_drawn = cut.feature is not None and cut.feature.kind == "profile"
        for key in ("length_mm", "width_mm", "corner_radius_mm"):
            self.bound.fields[f"feature.{key}"].setVisible(not is_drawn)


def _heading(text: str) -> QLabel:
    label = Words(text)
    label.setObjectName("title")
    label.setAlignment(Qt.AlignmentFlag.AlignLeft)
    label.setContentsMargins(0, 6, 0, 0)
    label.setMinimumWidth(LABEL_WIDTH)
    return label
