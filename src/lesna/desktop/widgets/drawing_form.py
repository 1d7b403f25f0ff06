"""The drawing of a feature: which file, which of its layers are what, which sides are open, and what was read."""

from __future__ import annotations

from pathlib import Path
from typing import get_args

from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.desktop.widgets.fields import ChoiceField
from lesna.desktop.widgets.words import Words, tip
from lesna.document import edits
from lesna.document.drawings import LAYERS
from lesna.model.job import Feature
from lesna.model.names import Side

#: what a layer is, what stands where none is, and names that layers of the kind often have
_ROLES = {
    "part_layer": ("Floor", "the only one", ("PART", "FLOOR")), "stock_layer": ("Stock", "everywhere", ("STOCK",)),
    "island_layer": ("Islands", "none", ("ISLAND", "ISLANDS")),
    "keep_out_layer": ("Keep out", "nothing", ("KEEP_OUT", "KEEP-OUT", "CLAMP", "CLAMPS")),
}  # fmt: skip
_SIDES = {"x-": "X−", "x+": "X+", "y-": "Y−", "y+": "Y+"}
#: depth of a feature that had none before [mm]
_DEPTH = 10.0


class DrawingForm(QWidget):
    """Shown for features from a drawing."""

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__()
        self.session, self._runner = session, runner
        self._listed: tuple[str, ...] | None = None
        self.open = QPushButton("Drawing ...")
        self.open.clicked.connect(lambda checked=False: self.ask())
        self.name = Words()
        self.told = Words()
        self.told.setWordWrap(True)
        row = QHBoxLayout()
        row.addWidget(self.open)
        row.addWidget(self.name, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addLayout(row)
        self.layers: dict[str, ChoiceField] = {}
        for key in LAYERS:
            field = ChoiceField(_ROLES[key][0], [("", _ROLES[key][1])])
            field.chosen.connect(
                lambda layer, key=key: self._with(f"Change {_ROLES[key][0].lower()}", **{key: layer or None})
            )
            self.layers[key] = field
            column.addWidget(field)
        sides = QHBoxLayout()
        sides.setSpacing(12)
        sides.addWidget(Words("Open sides"))
        self.sides: dict[str, QCheckBox] = {}
        for side in get_args(Side):
            box = QCheckBox(_SIDES[side])
            box.setToolTip("Beyond this side of the outline there is air")
            box.clicked.connect(lambda checked=False: self._on_sides())
            self.sides[side] = box
            sides.addWidget(box)
        sides.addStretch(1)
        column.addLayout(sides)
        column.addWidget(self.told)
        self.hide()

    def ask(self) -> None:
        """Asks for a drawing."""
        start = self.session.folder or Path.home()
        name, _ = QFileDialog.getOpenFileName(self, "Take a drawing", str(start), "Drawings (*.dxf);;All files (*)")
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Reads a drawing behind the window and makes it the chosen cut's feature."""
        from lesna.geometry.drawn import layers_of

        self.told.setText(f"Reading {path.name} ...")
        cut = self.session.cut.id
        self._runner.run(
            "drawing", lambda pulse: layers_of(self.session.drawings.read(path)),
            lambda layers: self._taken(path, layers, cut),
            lambda sentence: self._refused(path, sentence), queue="long",
        )  # fmt: skip

    def _refused(self, path: Path, sentence: str) -> None:
        self.session.say("wrong", f"{path.name}: {sentence}")
        self.show_feature(self.session.cut.feature)

    def _taken(self, path: Path, layers: tuple[str, ...], cut: str) -> None:
        session = self.session
        place = session.job.place_of(cut)
        if place is None:
            return
        found = {}
        for key, (_, _, names) in _ROLES.items():
            found[key] = next((layer for layer in layers if layer.upper() in names), None)
        found["part_layer"] = found["part_layer"] or (layers[0] if layers else None)
        feature = session.job.cuts[place].feature
        depth = feature.depth_mm if feature is not None and feature.depth_mm else _DEPTH
        name = session.take_drawing(path)
        values = {
            "kind": "profile",
            "dxf": name,
            "depth_mm": depth,
            "length_mm": None,
            "width_mm": None,
            "open_sides": (),
            **found,
        }
        session.attempt(lambda: session.edit("Take a drawing", edits.with_feature(session.job, place, **values)))
        session.say_troubles()

    def _with(self, label: str, **values: object) -> None:
        session = self.session
        session.attempt(lambda: session.edit(label, edits.with_feature(session.job, session.index, **values)))

    def _on_sides(self) -> None:
        self._with(
            "Change the open sides", open_sides=tuple(side for side, box in self.sides.items() if box.isChecked())
        )

    def show_feature(self, feature: Feature | None) -> None:
        """Shows what a feature says of its drawing; hidden where it has none."""
        self.setVisible(feature is not None and feature.dxf is not None)
        if feature is None or feature.dxf is None:
            return
        self.name.setText(Path(feature.dxf).name)
        self.name.setToolTip(tip(feature.dxf))
        listed = () if feature.drawn is None else feature.drawn.layers
        for key, field in self.layers.items():
            if listed != self._listed:
                field.show_items([("", _ROLES[key][1]), *((layer, layer) for layer in listed)])
            field.show_value(getattr(feature, key) or "")
        self._listed = listed
        for side, box in self.sides.items():
            box.setChecked(side in feature.open_sides)
        drawn = feature.drawn
        trouble = drawn is None or bool(drawn.trouble)
        self.told.setObjectName("wrong" if trouble else "faint")
        self.told.style().polish(self.told)
        self.told.setText("" if drawn is None else drawn.trouble or f"Read {drawn.told}")
