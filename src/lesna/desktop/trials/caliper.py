"""A caliper on a picture of an edge: a known length sets the scale, two clicks measure the land, its borders can be found."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QImageReader, QMouseEvent, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.fields import NumberField
from lesna.desktop.widgets.painting import Canvas
from lesna.desktop.widgets.words import Words
from lesna.devices.edge_camera import SCALE_BAR, simulated_edge
from lesna.model import units
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import read_bytes
from lesna.physics import Array

#: largest picture that is taken [bytes], and its largest side [px]
_LARGEST, _SIDE = 20_000_000, 12_000
#: how far from a click a border is looked for [px of the picture], and over how many it is smoothed
_REACH, _SMOOTH = 14.0, 5
#: name of a simulated picture, and lands that the camera sees one after the other [mm]
_SIMULATED = "simulated edge.png"
_LANDS = (0.08, 0.15, 0.24)


def picture_of(content: bytes) -> QImage:
    """The picture in a file (InputError says why it is none)."""
    buffer = QBuffer()
    buffer.setData(QByteArray(content))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    size = reader.size()
    if size.isValid() and max(size.width(), size.height()) > _SIDE:
        raise InputError(f"is {size.width()} x {size.height()} pixels; at most {_SIDE} a side can be measured in")
    image = reader.read()
    if image.isNull():
        raise InputError("is no picture that can be read; PNG or JPEG is needed")
    return image


def grey(image: QImage) -> Array:
    """Brightness of every pixel (rows, columns)."""
    plain = image.convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(plain.constBits(), dtype=np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return np.asarray(rows[:, : plain.width()], dtype=float)


def border_near(brightness: Array, at: QPointF, toward: QPointF) -> QPointF:
    """The sharpest change of brightness near a click along the measured line [px of the picture]."""
    along = np.arange(-_REACH, _REACH + 0.25, 0.25)
    x = np.clip(at.x() + along * toward.x(), 0, brightness.shape[1] - 1.001)
    y = np.clip(at.y() + along * toward.y(), 0, brightness.shape[0] - 1.001)
    left, top = x.astype(int), y.astype(int)
    u, v = x - left, y - top
    line = (brightness[top, left] * (1 - u) * (1 - v) + brightness[top, left + 1] * u * (1 - v)
            + brightness[top + 1, left] * (1 - u) * v + brightness[top + 1, left + 1] * u * v)  # fmt: skip
    smooth = np.convolve(line, np.ones(4 * _SMOOTH // 2) / (4 * _SMOOTH // 2), mode="same")
    change = np.abs(np.gradient(smooth))
    change[: 2 * _SMOOTH] = change[-2 * _SMOOTH :] = 0.0
    place = along[int(np.argmax(change))]
    return QPointF(at.x() + place * toward.x(), at.y() + place * toward.y())


class _Plate(Canvas):
    """The picture with the two lines; a click sets the next end of the line that is set."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__("Picture of the edge")
        self.image = QImage()
        #: ends of the line of known length, and of the measured one [px of the picture]
        self.lines: dict[str, list[QPointF]] = {"scale": [], "land": []}
        self.setting = "scale"
        self.setMinimumSize(420, 300)
        self.setCursor(Qt.CursorShape.CrossCursor)

    def _place(self) -> tuple[QRectF, float]:
        if self.image.isNull():
            return QRectF(self.rect()), 1.0
        scale = min(self.width() / self.image.width(), self.height() / self.image.height())
        wide, high = self.image.width() * scale, self.image.height() * scale
        return QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high), scale

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        place, scale = self._place()
        painter.drawImage(place, self.image)
        for name, role in (("scale", "amber"), ("land", "accent")):
            ends = [place.topLeft() + end * scale for end in self.lines[name]]
            for ground, width in (("paper", 3.5), (role, 1.6)):
                painter.setPen(QPen(THEME.color(ground), width))
                if len(ends) == 2:
                    painter.drawLine(ends[0], ends[1])
                for end in ends:
                    painter.drawLine(end + QPointF(-6, 0), end + QPointF(6, 0))
                    painter.drawLine(end + QPointF(0, -6), end + QPointF(0, 6))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place, scale = self._place()
        if self.image.isNull() or not place.contains(event.position()):
            return
        ends = self.lines[self.setting]
        if len(ends) == 2:
            ends.clear()
        ends.append((event.position() - place.topLeft()) / scale)
        self.update()
        self.changed.emit()

    def length(self, name: str) -> float | None:
        """Length of a line [px of the picture], None while it has no two ends."""
        ends = self.lines[name]
        return math.hypot((ends[1] - ends[0]).x(), (ends[1] - ends[0]).y()) if len(ends) == 2 else None

    def find_borders(self) -> bool:
        """Moves both ends of the measured line to the borders near them."""
        length = self.length("land")
        if not length:
            return False
        first, last = self.lines["land"]
        toward = (last - first) / length
        brightness = grey(self.image)
        self.lines["land"] = [border_near(brightness, end, toward) for end in (first, last)]
        self.update()
        self.changed.emit()
        return True


class CaliperDialog(QDialog):
    """`measured` brings the land [mm] and the picture's name, `kept` the picture itself with its scale."""

    measured = Signal(float, str)
    kept = Signal(str, bytes, float)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Measure the wear in a picture")
        self.setObjectName("page")
        self.resize(760, 560)
        self.plate = _Plate()
        self.plate.changed.connect(self._refresh)
        self.known = 1.0
        self.name, self.content = "", b""
        self.length = NumberField("Known length", units.LENGTH, self._set_known)
        self.file = QPushButton("Open a picture ...")
        self.file.clicked.connect(lambda checked=False: self.open_file())
        self.camera = QPushButton("Simulated camera")
        self.camera.clicked.connect(lambda checked=False: self.take_simulated())
        self._taken = 0
        self.scale_button, self.land_button = QPushButton("Set the scale"), QPushButton("Measure the land")
        for button, name in ((self.scale_button, "scale"), (self.land_button, "land")):
            button.setCheckable(True)
            button.clicked.connect(lambda checked=False, name=name: self._setting(name))
        self.borders = QPushButton("Find its borders")
        self.borders.clicked.connect(lambda checked=False: self.plate.find_borders())
        self.use = QPushButton("Use as VB")
        self.use.clicked.connect(lambda checked=False: self._use())
        self.words = Words()
        self.words.setWordWrap(True)
        for button in (self.file, self.camera, self.scale_button, self.land_button, self.borders, self.use):
            button.setAutoDefault(False)  # Enter in the field takes the length, no more
        source = QHBoxLayout()
        source.addWidget(self.file)
        source.addWidget(self.camera)
        source.addStretch(1)
        top = QHBoxLayout()
        for widget in (self.scale_button, self.length, self.land_button, self.borders):
            top.addWidget(widget)
        top.addStretch(1)
        foot = QHBoxLayout()
        foot.addWidget(self.words, 1)
        foot.addWidget(self.use)
        column = QVBoxLayout(self)
        column.addLayout(source)
        column.addLayout(top)
        column.addWidget(self.plate, 1)
        column.addLayout(foot)
        self._setting("scale")

    def open_file(self) -> None:
        """Asks for a picture and shows it; one that cannot be used is said in the banner."""
        name, _ = QFileDialog.getOpenFileName(self, "Picture of the edge", str(self.session.folder or Path.home()),
                                              "Pictures (*.png *.jpg *.jpeg *.bmp *.webp)")  # fmt: skip
        if name:
            self.show_picture(Path(name))

    def show_picture(self, path: Path) -> None:
        """Shows a picture."""
        try:
            self.content = read_bytes(path, largest=_LARGEST)
            self.plate.image = picture_of(self.content)
        except (FileProblem, InputError) as error:
            self.session.say("wrong", f"{path.name}: {error}")
            return
        self._take(path.name)
        self.open()

    def take_simulated(self) -> None:
        """Shows what a camera that is not there sees: a land that has grown since the last picture, over a bar of known length."""
        found = simulated_edge(_LANDS[self._taken % len(_LANDS)], seed=self._taken)
        self._taken += 1
        self.content, self.plate.image = found.content, picture_of(found.content)
        self.known = SCALE_BAR
        self._take(_SIMULATED)

    def _take(self, name: str) -> None:
        self.name = name
        for ends in self.plate.lines.values():
            ends.clear()
        self.plate.update()
        self._refresh()

    def _setting(self, name: str) -> None:
        self.plate.setting = name
        self.scale_button.setChecked(name == "scale")
        self.land_button.setChecked(name == "land")
        self._refresh()

    def _set_known(self, value: float | None) -> None:
        if value is None or value <= 0:
            raise InputError("must be above 0")
        self.known = value
        self._refresh()

    @property
    def mm_per_pixel(self) -> float | None:
        """The scale, None while it is not set."""
        length = self.plate.length("scale")
        return self.known / length if length else None

    @property
    def land(self) -> float | None:
        """The measured land [mm]."""
        length, scale = self.plate.length("land"), self.mm_per_pixel
        return length * scale if length and scale else None

    def _refresh(self) -> None:
        system = self.session.system
        self.length.show_value(self.known, system)
        self.borders.setEnabled(self.plate.length("land") is not None)
        self.use.setEnabled(self.land is not None)
        if self.plate.image.isNull():
            self.words.setText("Open a picture of the edge, or take one with the simulated camera.")
        elif self.mm_per_pixel is None and self.name == _SIMULATED:
            self.words.setText(
                f"Click both ends of the white bar, which is {units.LENGTH.full(SCALE_BAR, system)} long."
            )
        elif self.mm_per_pixel is None:
            self.words.setText(
                "Click both ends of a length that you know: the cutting diameter, a line of a scale, the depth of cut."
            )
        elif self.land is None:
            self.words.setText("Now click both borders of the land, across the edge.")
        else:
            pixel = units.CHIP.full(self.mm_per_pixel, system)
            self.words.setText(f"The land is {units.CHIP.full(self.land, system)} wide; one pixel is {pixel}.")

    def _use(self) -> None:
        land, scale = self.land, self.mm_per_pixel
        if land is None or scale is None:
            return
        self.measured.emit(round(land, 4), self.name)
        self.kept.emit(self.name, self.content, scale)
        self.accept()
