"""The part as it is seen: turned by drag and arrow keys, drawn closer by the wheel, with the path and the tool on it."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)

from lesna.desktop.surfaces.eye import Eye
from lesna.desktop.surfaces.scene import Colours, Drawable, Picture
from lesna.desktop.theme import TEMPER, THEME, temper
from lesna.desktop.widgets.chart import SMALL, Chart
from lesna.desktop.widgets.painting import elided, label_plate, text_width
from lesna.physics import Array, engine
from lesna.physics.compiled import OF_PICTURES

#: degrees of a key, and of a pixel that is dragged
_KEY, _PIXEL = 10.0, 0.4
#: while it moves the part is drawn with so much fewer pixels
_COARSE = 2
#: after the last move it is drawn finely [ms]
_SETTLES = 120
_SCALE = 251


def _rgb(color: QColor) -> Array:
    return np.array((color.red(), color.green(), color.blue()), dtype=float)


def colours() -> Colours:
    """The colours of the theme."""
    role = THEME.color
    return Colours(
        _rgb(role("panel")), _rgb(role("stock")), _rgb(role("ink")), _rgb(role("accent")), _rgb(role("alarm")), _rgb(role("faint")),
        np.array([_rgb(temper(k / (_SCALE - 1))) for k in range(_SCALE)]),
    )  # fmt: skip


class PartView(Chart):
    """A drawing of a part of triangles."""

    #: the pointer rests on a triangle, -1: on none
    pointed = Signal(int)
    #: without these nothing can be drawn
    KERNELS: tuple[str, ...] = OF_PICTURES

    def __init__(self) -> None:
        super().__init__("The part")
        self.setMinimumSize(300, 180)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(
            "A drag or the arrow keys turn it, the wheel looks closer, a drag with the right button moves it, H goes home"
        )
        self.scene: Drawable | None = None
        self.words, self.ends, self.title = "", ("", ""), ""
        self.home = self.eye = Eye()
        self.told = ""
        self.setMouseTracking(True)
        self._held: QPointF | None = None
        self._seen: Picture | None = None
        self._image: QImage | None = None
        self._key: tuple[Any, ...] = ()
        self._is_moving = False
        self._settles = QTimer(self)
        self._settles.setSingleShot(True)
        self._settles.setInterval(_SETTLES)
        self._settles.timeout.connect(self._settle)

    def show_scene(self, scene: Drawable | None, title: str, ends: tuple[str, str], words: str = "") -> None:
        """What is drawn, what its colours tell, and a sentence where there is nothing."""
        self.scene, self.title, self.ends, self.words = scene, title, ends, words
        self._key = ()
        self.update()

    # ------------------------------------------------------------ moving

    def look(self, eye: Eye) -> None:
        """Looks from somewhere else."""
        self.eye = eye
        self._is_moving = True
        self._settles.start()
        self.update()

    def _settle(self) -> None:
        self._is_moving = False
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None or self.scene is None:
            self.pointed.emit(self._under(event.position()))
            return
        moved = event.position() - self._held
        self._held = event.position()
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.look(self.eye.turned(-_PIXEL * moved.x(), _PIXEL * moved.y()))
        elif event.buttons():
            side = max(min(self.width(), self.height()), 1)
            self.look(self.eye.moved(moved.x() / side, moved.y() / side))

    def _under(self, place: QPointF) -> int:
        """The triangle under a place of the widget, -1 where there is none."""
        if self._seen is None or self.scene is None:
            return -1
        rows, columns = self._seen.which.shape
        r, c = int(place.y() / max(self.height(), 1) * rows), int(place.x() / max(self.width(), 1) * columns)
        return int(self._seen.which[r, c]) if 0 <= r < rows and 0 <= c < columns else -1

    def tell(self, text: str) -> None:
        """What stands over the part about the place under the pointer."""
        if text != self.told:
            self.told = text
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.look(self.home)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.look(self.eye.closer(1.2 ** (event.angleDelta().y() / 120)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        turns = {
            Qt.Key.Key_Left: (-_KEY, 0.0), Qt.Key.Key_Right: (_KEY, 0.0), Qt.Key.Key_Up: (0.0, _KEY), Qt.Key.Key_Down: (0.0, -_KEY),
        }  # fmt: skip
        if key in turns:
            self.look(self.eye.turned(*turns[key]))
        elif key in (Qt.Key.Key_H, Qt.Key.Key_Home):
            self.look(self.home)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.look(self.eye.closer(1.2))
        elif key == Qt.Key.Key_Minus:
            self.look(self.eye.closer(1 / 1.2))
        else:
            super().keyPressEvent(event)

    # ------------------------------------------------------------ drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.scene is None or any(engine.kernel_if_loaded(name) is None for name in self.KERNELS):
            self.say(painter, self.words)
            return
        painter.drawImage(QRectF(self.rect()), self._picture(self.scene))
        self._legend(painter)

    def _picture(self, scene: Drawable) -> QImage:
        ratio = self.devicePixelRatioF() / (_COARSE if self._is_moving else 1)
        width, height = max(round(self.width() * ratio), 8), max(round(self.height() * ratio), 8)
        key = (id(scene), self.eye, width, height, THEME.palette.name)
        if self._image is None or key != self._key:
            self._seen = scene.picture(self.eye, width, height, colours())
            self._image = QImage(
                self._seen.pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGB32
            ).copy()
            self._key = key
        return self._image

    def _legend(self, painter: QPainter) -> None:
        """The scale of the colours, with what its ends mean."""
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("faint"))
        low, high = self.ends
        if not low:
            return
        width, x = 110.0, 12.0
        y = self.height() - 14.0
        bar = QRectF(x + text_width(painter.font(), low) + 8, y - 8, width, 8)
        gradient = QLinearGradient(bar.topLeft(), bar.topRight())
        for k in range(len(TEMPER)):
            gradient.setColorAt(k / (len(TEMPER) - 1), temper(k / (len(TEMPER) - 1)))
        painter.drawText(QPointF(x, y), low)
        painter.drawText(QPointF(bar.right() + 8, y), high)
        face = self.face(SMALL)
        words = elided(face, f"{self.title}: {self.told}" if self.told else self.title, self.width() - 24)
        plate = QRectF(6, 4, text_width(face, words) + 12, 18)
        label_plate(
            painter, plate, words, face, ink=THEME.color("ink" if self.told else "faint"), plate=THEME.color("panel")
        )
        painter.setPen(THEME.color("faint"))
        painter.setBrush(gradient)
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawRect(bar)
