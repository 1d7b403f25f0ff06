"""Axes of every chart: values to places on the widget and back, round steps for their ticks, and a view that is moved and zoomed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPolygonF

from lesna.physics import Array

#: closest look at a chart
_CLOSEST = 40.0


@dataclass(frozen=True)
class Scale:
    """What one axis spans; `is_log` where equal ratios lie equally far apart."""

    low: float
    high: float
    is_log: bool = False

    def share(self, value: float) -> float:
        """Where a value lies between both ends, 0 to 1."""
        if self.is_log:
            return math.log(value / self.low) / math.log(self.high / self.low)
        return (value - self.low) / (self.high - self.low)

    def value(self, share: float) -> float:
        """The value at a share; the inverse."""
        if self.is_log:
            return float(self.low * (self.high / self.low) ** share)
        return self.low + share * (self.high - self.low)


@dataclass
class View:
    """The part of a chart that is shown: zoom and the lower left corner, in shares of the whole. It never leaves the chart."""

    zoom: float = 1.0
    left: float = 0.0
    bottom: float = 0.0

    def zoom_at(self, across: float, up: float, factor: float) -> None:
        """Zooms so that the place under the pointer (shares of the part shown) stays where it is."""
        former, self.zoom = self.zoom, min(max(self.zoom * factor, 1.0), _CLOSEST)
        self.left += across * (1 / former - 1 / self.zoom)
        self.bottom += up * (1 / former - 1 / self.zoom)
        self._keep_inside()

    def move(self, across: float, up: float) -> None:
        """Moves what is shown by shares of the part shown."""
        self.left -= across / self.zoom
        self.bottom -= up / self.zoom
        self._keep_inside()

    def reset(self) -> None:
        """Shows the whole chart."""
        self.zoom, self.left, self.bottom = 1.0, 0.0, 0.0

    def _keep_inside(self) -> None:
        self.left = min(max(self.left, 0.0), 1 - 1 / self.zoom)
        self.bottom = min(max(self.bottom, 0.0), 1 - 1 / self.zoom)

    def shown(self, share: float, start: float) -> float:
        """Share of the part shown at which a share of the whole lies; `start` is where the part begins."""
        return (share - start) * self.zoom

    def whole(self, share: float, start: float) -> float:
        """The inverse of `shown`."""
        return start + share / self.zoom

    @property
    def key(self) -> tuple[float, float, float]:
        """Tells whether a picture of it is still right."""
        return self.zoom, self.left, self.bottom


@dataclass(frozen=True)
class Axes:
    """Two scales on a rectangle of a widget."""

    plot: QRectF
    across: Scale
    up: Scale
    view: View = field(default_factory=View)

    def x(self, value: float) -> float:
        """Place of a value along the lower axis."""
        return self.plot.left() + self.plot.width() * self.view.shown(self.across.share(value), self.view.left)

    def y(self, value: float) -> float:
        """Height of a value along the upright axis."""
        return self.plot.bottom() - self.plot.height() * self.view.shown(self.up.share(value), self.view.bottom)

    def at(self, across: float, up: float) -> QPointF:
        """Where a point is."""
        return QPointF(self.x(across), self.y(up))

    def values_at(self, place: QPointF) -> tuple[float, float]:
        """Values under a place on the widget; outside the plot they go on."""
        across, up = self.shares_at(place)
        view = self.view
        return self.across.value(view.whole(across, view.left)), self.up.value(view.whole(up, view.bottom))

    def shares_at(self, place: QPointF) -> tuple[float, float]:
        """Shares of the plot's width and height at a place."""
        return (
            (place.x() - self.plot.left()) / self.plot.width(), (self.plot.bottom() - place.y()) / self.plot.height(),
        )  # fmt: skip

    def polygon(self, points: Array) -> QPolygonF:
        """Points (n, 2) on the widget."""
        if self.across.is_log or self.up.is_log:
            return QPolygonF([self.at(float(a), float(b)) for a, b in points])
        x0, y0 = self.x(self.across.low), self.y(self.up.low)
        per_x = (self.x(self.across.high) - x0) / (self.across.high - self.across.low)
        per_y = (self.y(self.up.high) - y0) / (self.up.high - self.up.low)
        x = (x0 + per_x * (points[:, 0] - self.across.low)).tolist()
        y = (y0 + per_y * (points[:, 1] - self.up.low)).tolist()
        return QPolygonF([QPointF(a, b) for a, b in zip(x, y, strict=True)])

    def shown_across(self) -> tuple[float, float]:
        """Values at both ends of the part of the lower axis that is shown."""
        view = self.view
        return self.across.value(view.left), self.across.value(view.whole(1.0, view.left))

    def shown_up(self) -> tuple[float, float]:
        """Values at both ends of the part of the upright axis that is shown."""
        view = self.view
        return self.up.value(view.bottom), self.up.value(view.whole(1.0, view.bottom))


def round_step(span: float, about: float, *, steps: Sequence[float] = (1, 2, 2.5, 5, 10)) -> float:
    """The least of 1, 2, 2.5 or 5 times a power of ten that makes at most about so many steps of a span."""
    raw = span / about
    size = 10.0 ** math.floor(math.log10(raw))
    return next(step * size for step in steps if step * size >= raw * 0.8)


def round_values(low: float, high: float, about: float) -> list[float]:
    """Round numbers between two ends, about so many."""
    step = round_step(high - low, about)
    first = math.ceil(low / step - 1e-9)
    return [k * step for k in range(first, math.floor(high / step + 1e-9) + 1)]


def round_below(value: float) -> float:
    """The largest of 1, 2 or 5 times a power of ten that is not above a value."""
    size = 10.0 ** math.floor(math.log10(value))
    return next(step * size for step in (5, 2, 1) if step * size <= value * (1 + 1e-9))
