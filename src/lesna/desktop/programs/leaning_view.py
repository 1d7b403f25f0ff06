"""The part of a program of five axes from an eye that is turned: stock at the cursor, path by colour, the tool as it leans."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from lesna.desktop.programs.leaning_scene import LeaningScene, PathLines, leaning_body, lines_of
from lesna.desktop.programs.series import series_named
from lesna.desktop.programs.standing import Standing
from lesna.desktop.session import Session
from lesna.desktop.surfaces.eye import Eye
from lesna.desktop.surfaces.part_view import PartView
from lesna.desktop.theme import THEME
from lesna.physics.compiled import OF_BRICKS
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.places import Finding
from lesna.planning.program.run import Run

#: how far a click may be from the path, and from where it was pressed [px]
_NEAR, _STILL = 8, 4.0
#: pause between two pieces of the stock that are cut [ms]
_GOES_ON = 15
#: a path whose middle lies so near to that of the stock has no side, over the size of it [-]
_ASIDE = 0.05
#: places that are marked
_MARKED = 40


def _facing(geometry: Leaning) -> Eye:
    """Looks at the side of the part on which the program cuts."""
    low, high = (np.array(corner) for corner in (geometry.work.stock.low, geometry.work.stock.high))
    x, y, _ = geometry.steps.end[geometry.contact].mean(axis=0) - 0.5 * (low + high)
    if np.hypot(x, y) < _ASIDE * np.linalg.norm(high - low):
        return Eye()
    return Eye().turned(float(np.degrees(np.arctan2(x, -y))), 0.0)


class LeaningView(PartView):
    """A program in five axes."""

    #: a step was clicked
    chosen = Signal(int)
    KERNELS = OF_BRICKS

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.run: Run | None = None
        self.series, self.here = "force", 0
        self.findings: tuple[Finding, ...] = ()
        self._standing: Standing | None = None
        self._path: PathLines | None = None
        self._most = 0.0
        self._pressed: QPointF | None = None
        self.setMinimumSize(260, 180)
        self._goes_on = QTimer(self)
        self._goes_on.setSingleShot(True)
        self._goes_on.setInterval(_GOES_ON)
        self._goes_on.timeout.connect(self._cut_on)

    def sizeHint(self) -> QSize:
        return QSize(620, 360)

    def show_run(self, run: Run | None, findings: tuple[Finding, ...], others: Sequence[Run] = ()) -> None:
        """Draws a program; None while there is none that leans."""
        self.run, self.findings = run, findings
        geometry = None if run is None else run.geometry
        self._standing = Standing(geometry) if isinstance(geometry, Leaning) else None
        self.here = 0 if run is None else len(run.geometry.steps) - 1
        if isinstance(geometry, Leaning):
            self.home = self.eye = _facing(geometry)
        self._trace()
        self._draw()

    def show_series(self, id: str) -> None:
        """Colours the path by another quantity."""
        self.series = id
        self._trace()
        self._draw()

    def show_level(self, level: float | None) -> None:
        """A path that leans has no levels to choose from."""

    def show_step(self, step: int) -> None:
        """Moves the cutter, and the stock with it."""
        if step != self.here:
            self.here = step
            self._cut_on()

    def _cut_on(self) -> None:
        standing = self._standing
        if standing is not None and not standing.toward(self.here + 1):
            self._goes_on.start()
        self._draw()

    def _trace(self) -> None:
        """Finds the lines of the path and their colours, which stay while the cursor moves."""
        run, standing = self.run, self._standing
        if run is None or standing is None:
            self._path = None
            return
        values = series_named(run, self.series).of(run)
        self._path = lines_of(standing.geometry, values)
        self._most = float(values[standing.geometry.judged].max(initial=0.0))

    def _draw(self) -> None:
        run, standing, path = self.run, self._standing, self._path
        if run is None or standing is None or path is None:
            self.show_scene(None, "", ("", ""))
            return
        geometry, series, system = standing.geometry, series_named(run, self.series), self.session.system
        tip, axis = geometry.steps.end[self.here], geometry.steps.axis_end[self.here]
        low, high = np.array(geometry.work.stock.low), np.array(geometry.work.stock.high)
        scene = LeaningScene(standing.bricks, low, high, *path, leaning_body(geometry.work, tip, axis))
        self.show_scene(
            scene,
            f"{geometry.work.parts.cut.name}: {series.name.lower()}",
            ("0", series.quantity.full(self._most, system)),
        )

    # ------------------------------------------------------------ the mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        self._pressed = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        pressed, self._pressed = self._pressed, None
        if pressed is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if (event.position() - pressed).manhattanLength() <= _STILL:
            step = self._step_near(event.position())
            if step >= 0:
                self.chosen.emit(step)

    def _step_near(self, place: QPointF) -> int:
        """The step of the path nearest to a place of the widget, -1 where none is near."""
        if self._seen is None:
            return -1
        which = self._seen.which
        rows, columns = which.shape
        r, c = int(place.y() / max(self.height(), 1) * rows), int(place.x() / max(self.width(), 1) * columns)
        near = max(round(_NEAR * columns / max(self.width(), 1)), 1)
        top, left = max(r - near, 0), max(c - near, 0)
        window = which[top : r + near + 1, left : c + near + 1]
        found = np.argwhere(window >= 0)
        if not len(found):
            return -1
        best = found[np.hypot(found[:, 0] + top - r, found[:, 1] + left - c).argmin()]
        return int(window[tuple(best)])

    # ------------------------------------------------------------ painting

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        scene = self.scene
        if isinstance(scene, LeaningScene) and self.findings and self._seen is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._marks(painter, scene)
            painter.end()

    def _marks(self, painter: QPainter, scene: LeaningScene) -> None:
        painter.setFont(self.face(10, bold=True))
        places = np.array([finding.place for finding in self.findings[:_MARKED]])
        on = self.eye.project(places, scene.low, scene.high, self.width(), self.height())
        for number, (x, y, _) in enumerate(on.tolist(), start=1):
            painter.setPen(QPen(THEME.color("alarm"), 1.3))
            painter.setBrush(THEME.color("panel"))
            painter.drawEllipse(QPointF(x, y), 8, 8)
            painter.drawText(QRectF(x - 8, y - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, str(number))
