"""The engaged sector of a cutter from above, and beside it the share of its flutes in use."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from lesna.desktop.theme import THEME


def paint_engagement(
    painter: QPainter, centre: QPointF, radius: float, *, phi: float, depth_share: float, up: bool, color: QColor
) -> None:
    """Draws it.

    Parameters
    ----------
    painter : QPainter
        Where.
    centre : QPointF
        Of the cutter.
    radius : float
        Of the cutter, in pixels.
    phi : float
        Engagement angle [rad].
    depth_share : float
        Depth over the flute length [-].
    up : bool
        Up milling.
    color : QColor
        Of the sector.
    """
    painter.setPen(QPen(THEME.color("ink"), 1.2))
    painter.setBrush(THEME.color("outside"))
    painter.drawEllipse(centre, radius, radius)
    sector = QPainterPath(centre)
    box = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
    span = math.degrees(phi)
    sector.arcTo(box, 90.0 - span if up else 270.0, span)
    sector.closeSubpath()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.fillPath(sector, color)
    painter.drawEllipse(centre, radius, radius)
    tall = 2.25 * radius
    bar = QRectF(centre.x() + radius + 6, centre.y() - tall / 2, 4, tall)
    painter.fillRect(bar, THEME.color("outside"))
    height = tall * min(depth_share, 1.0)
    painter.fillRect(QRectF(bar.left(), bar.bottom() - height, 4, height), THEME.color("faint"))
