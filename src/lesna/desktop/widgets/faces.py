"""Several faces in one place, one shown at a time."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from lesna.desktop.widgets.painting import Panel


class Faces(QWidget):
    """Several faces, one shown at a time; a row of their names chooses."""

    def __init__(self, faces: dict[str, QWidget]) -> None:
        super().__init__()
        self.stack = QStackedWidget()
        self.buttons: list[QPushButton] = []
        row = QHBoxLayout()
        row.setSpacing(12)
        for place, (name, face) in enumerate(faces.items()):
            button = QPushButton(name)
            button.setObjectName("face")
            button.setCheckable(True)
            button.clicked.connect(lambda checked=False, place=place: self.show_face(place))
            row.addWidget(button)
            self.buttons.append(button)
            self.stack.addWidget(face)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(row)
        column.addWidget(self.stack, 1)
        self.show_face(0)

    def show_face(self, place: int) -> None:
        """Shows one of the faces."""
        self.stack.setCurrentIndex(place)
        for number, button in enumerate(self.buttons):
            button.setChecked(number == place)


class FacesPanel(Panel):
    """A panel with several faces; its title is the row of their names."""

    def __init__(self, faces: dict[str, QWidget]) -> None:
        super().__init__("")
        self.title.hide()
        self.faces = Faces(faces)
        self.body.addWidget(self.faces, 1)

    def show_face(self, place: int) -> None:
        """Shows one of the faces."""
        self.faces.show_face(place)
