"""The rail: the cuts of the job in machining order, as cards."""

from __future__ import annotations

from PySide6.QtCore import QMimeData, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import (
    QContextMenuEvent,
    QDrag,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QApplication, QHBoxLayout, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.engagement_glyph import paint_engagement
from lesna.desktop.widgets.painting import Canvas, Panel, elided
from lesna.desktop.widgets.rename import NameEdit
from lesna.desktop.widgets.words import Words, tip
from lesna.document import edits
from lesna.model import names, units
from lesna.model.shown import visible
from lesna.planning.cut.result import Result
from lesna.planning.telling.standard import is_below

_MIME = "application/x-lesna-cut"
_STANDING_ROLE = {"fits": "good", "at the limit": "amber", "over": "alarm"}


class CutRail(Panel):
    """Cards of the cuts; add, repeat as a variant, reorder by drag, delete."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Cuts in this job", parent)
        self.session = session
        self.setFixedWidth(212)
        self.body.setContentsMargins(8, 8, 8, 8)
        self.cards: list[CutCard] = []
        self._column = QVBoxLayout()
        self._column.setSpacing(7)
        inside = QWidget()
        outer = QVBoxLayout(inside)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addLayout(self._column)
        outer.addStretch(1)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inside)
        self.body.addWidget(scroll, 1)
        row = QHBoxLayout()
        for text, slot, hint in (
            ("+ &Cut", self.add_cut, "Add a cut behind this one"),
            ("&Variant", self.add_variant, "Repeat this cut under a new name"),
            ("&Delete", self.delete_cut, "Delete this cut; undo brings it back"),
        ):
            button = QPushButton(text)
            button.setObjectName("link")
            button.setToolTip(hint)
            button.clicked.connect(slot)
            row.addWidget(button)
        self.body.addLayout(row)
        self.total = Words()
        self.total.setObjectName("faint")
        self.body.addWidget(self.total)
        session.result_changed.connect(self._refresh)
        session.cut_selected.connect(self._refresh)

    def add_cut(self) -> None:
        """Adds a cut ready to compute."""
        job, _ = edits.with_new_cut(self.session.job, self.session.library, after=self.session.index)
        self.session.attempt(lambda: self.session.edit("Add a cut", job))

    def add_variant(self) -> None:
        """Repeats the chosen cut."""
        job, _ = edits.with_variant(self.session.job, self.session.index)
        self.session.attempt(lambda: self.session.edit("Repeat as a variant", job))

    def rename(self) -> None:
        """Changes the name of the chosen cut on its card."""
        self.cards[self.session.index].rename()

    def delete_cut(self) -> None:
        """Deletes the chosen cut."""
        self.session.attempt(
            lambda: self.session.edit("Delete the cut", edits.without_cut(self.session.job, self.session.index))
        )

    def reorder(self, index: int, to: int) -> None:
        """Moves a cut to another place in the order."""
        if index != to:
            self.session.attempt(
                lambda: self.session.edit("Reorder the cuts", edits.with_cut_moved(self.session.job, index, to))
            )

    def _refresh(self) -> None:
        while len(self.cards) < len(self.session.results):
            card = CutCard(self, len(self.cards))
            self.cards.append(card)
            self._column.addWidget(card)
        while len(self.cards) > len(self.session.results):
            card = self.cards.pop()
            card.hide()
            self._column.removeWidget(card)
            card.deleteLater()
        for card in self.cards:
            card.follow()
        times = [result.part_time for result in self.session.results]
        known = [time for time in times if time is not None]
        missing = f", {len(times) - len(known)} unknown" if len(known) < len(times) else " a part"
        self.total.setText(f"All cuts: {units.clock(sum(known))}{missing}")
        self.total.setToolTip(
            "Time of all cuts with their changes of edges, by program, path or estimate; a cut without the sizes of its feature has none"
        )


class CutCard(Canvas):
    """One cut: its engagement drawn, tool, strategy, time in the cut, and whether it fits."""

    def __init__(self, rail: CutRail, index: int) -> None:
        super().__init__("", rail)
        self.rail, self.index = rail, index
        self.setFixedHeight(76)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self._pressed: QPointF | None = None
        self._shown: tuple[Result, bool] | None = None

    def sizeHint(self) -> QSize:
        return QSize(194, 76)

    @property
    def result(self) -> Result:
        """The cut's Result."""
        return self.rail.session.results[self.index]

    def follow(self) -> None:
        """Follows its Result and the choice; what is already shown is left alone."""
        shown = (self.result, self.index == self.rail.session.index)
        if self._shown is not None and self._shown[0] is shown[0] and self._shown[1] == shown[1]:
            return
        self._shown = shown
        result = self.result
        limited = result.limited_by
        why = f", {limited.rule.name.lower()} {limited.use:.0%}" if limited else ""
        if is_below(result):
            why += ", slower than the shop's standard"
        name = visible(result.name)
        self.setAccessibleName(f"Cut {self.index + 1}: {name}, {result.standing}{why}")
        self.setToolTip(tip(f"{name}: {result.standing}{why}"))
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position()
            self.rail.session.select(self.index)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._pressed = None
        self.rename()

    def rename(self) -> None:
        """Changes the cut's name where it stands."""
        session = self.rail.session

        def take(name: str) -> None:
            session.attempt(lambda: session.edit("Rename the cut", edits.with_cut(session.job, self.index, name=name)))

        NameEdit(self, QRect(56, 5, self.width() - 62, 25), self.result.name, take, "Name of this cut")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        if (event.position() - self._pressed).manhattanLength() >= QApplication.startDragDistance():
            self._pressed = None
            drag = QDrag(self)
            mime = QMimeData()
            mime.setData(_MIME, str(self.index).encode())
            drag.setMimeData(mime)
            drag.setPixmap(self.grab())
            drag.exec(Qt.DropAction.MoveAction)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        index = int(bytes(event.mimeData().data(_MIME).data()).decode())
        event.acceptProposedAction()
        self.rail.reorder(index, self.index)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.rail.session.select(self.index)
        menu = QMenu(self)
        menu.addAction("Rename", self.rename)
        menu.addAction("Repeat as a variant", self.rail.add_variant)
        menu.addAction("Move up", lambda: self.rail.reorder(self.index, max(self.index - 1, 0)))
        menu.addAction(
            "Move down", lambda: self.rail.reorder(self.index, min(self.index + 1, len(self.rail.cards) - 1))
        )
        menu.addAction("Delete", self.rail.delete_cut)
        menu.exec(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        session = self.rail.session
        if step is None:
            if event.key() == Qt.Key.Key_Delete:
                self.rail.delete_cut()
            elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
                session.select(self.index)
            else:
                super().keyPressEvent(event)
            return
        to = min(max(self.index + step, 0), len(self.rail.cards) - 1)
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.rail.reorder(self.index, to)
        session.select(to)
        self.rail.cards[to].setFocus()

    # ------------------------------------------------------------ painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        chosen = self.index == self.rail.session.index
        frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.setPen(QPen(THEME.color("accent" if chosen or self.hasFocus() else "hairline"), 1))
        painter.setBrush(THEME.color("field" if chosen else "panel"))
        painter.drawRoundedRect(frame, 3, 3)
        if chosen:
            painter.fillRect(QRectF(0, 1, 4, self.height() - 2), THEME.color("accent"))
        self._paint_engagement(painter)
        self._paint_words(painter)

    def _paint_engagement(self, painter: QPainter) -> None:
        """The engaged sector of the cutter from above, and beside it the share of the flutes in use."""
        result = self.result
        use = result.limits[0].use if result.limits else 0.0
        parts = result.setup.parts
        paint_engagement(
            painter, QPointF(27, 38), 16.0, phi=result.state.phi_s, depth_share=result.state.ap / parts.tool.APMX,
            up=parts.cut.direction == "up",
            color=THEME.color("alarm") if result.standing == "over" else temper(min(use, 1.0)),
        )  # fmt: skip

    def _paint_words(self, painter: QPainter) -> None:
        result = self.result
        cut, tool = result.setup.parts.cut, result.setup.parts.tool
        left, wide = 61.0, self.width() - 61.0 - 8
        painter.setPen(THEME.color("ink"))
        self._line(painter, left, 8, wide - 18, f"{self.index + 1}  {visible(result.name)}", bold=True)
        painter.setPen(THEME.color("faint"))
        size = units.DIMENSION.full(tool.DC, self.rail.session.system)
        self._line(painter, left, 28, wide, f"{tool.kind.replace('_', ' ')} {size} z{tool.ZEFP}")
        self._line(painter, left, 48, wide - 40, names.STRATEGIES[cut.strategy] if cut.role != "finish" else "finish")
        painter.setPen(THEME.color("ink"))
        painter.setFont(self.face(11))
        painter.drawText(QRectF(left, 48, wide, 18), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                         units.clock(result.part_time))  # fmt: skip
        self._paint_standing(painter, QPointF(self.width() - 15, 17))

    def _line(self, painter: QPainter, left: float, top: float, wide: float, text: str, *, bold: bool = False) -> None:
        face = self.face(12 if bold else 11, bold=bold)
        painter.setFont(face)
        painter.drawText(QRectF(left, top, wide, 18), Qt.AlignmentFlag.AlignVCenter, elided(face, text, int(wide)))

    def _paint_standing(self, painter: QPainter, centre: QPointF) -> None:
        """Disc: fits; ring: at the limit; cross: over. The shape says it without the colour."""
        standing = self.result.standing
        colour = THEME.color(_STANDING_ROLE[standing])
        painter.setPen(QPen(colour, 2.2))
        painter.setBrush(colour if standing == "fits" else Qt.BrushStyle.NoBrush)
        if standing == "over":
            for a, b in (((-4, -4), (4, 4)), ((-4, 4), (4, -4))):
                painter.drawLine(centre + QPointF(*a), centre + QPointF(*b))
        else:
            painter.drawEllipse(centre, 3.4, 3.4)
        if is_below(self.result):
            # an arrow down beside the mark: slower than the shop's standard
            painter.setPen(QPen(THEME.color("amber"), 1.6))
            tip_ = centre + QPointF(-13, 4)
            painter.drawLine(tip_ + QPointF(0, -8), tip_)
            painter.drawPolyline([tip_ + QPointF(-3, -3), tip_, tip_ + QPointF(3, -3)])
