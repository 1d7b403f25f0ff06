"""What a row of the library says as a curve: power over speed, specific force over chip thickness, edge life over speed."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from lesna.model import units
from lesna.model.base import Record
from lesna.model.library_records import CuttingData, Machine, Material
from lesna.physics.life.edge_life import LifeLaw
from lesna.planning.cut.setup import law_of_material

_POINTS = 80
#: chips that the force is drawn over [mm]; finishing of small tools to high feed
_CHIPS = (0.01, 0.5)
#: helix and edge radius to which the coefficients of a material belong
_HELIX, _EDGE_RADIUS = math.radians(30.0), 10.0
#: speeds that the life is drawn over, by the ends of the usual span
_BELOW, _ABOVE = 0.8, 1.25


@dataclass(frozen=True)
class Line:
    """One curve: its points (across, up) in the units of the document."""

    name: str
    points: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Chart:
    """Curves over one axis, or the words that say why there are none.

    Attributes
    ----------
    across, up : tuple
        Name and quantity of the axes.
    lines : tuple of Line
        The first is drawn strong.
    marks : tuple
        Names and places along the lower axis.
    instead : str
        Why nothing can be drawn.
    """

    across: tuple[str, units.Quantity]
    up: tuple[str, units.Quantity]
    lines: tuple[Line, ...] = ()
    marks: tuple[tuple[str, float], ...] = ()
    instead: str = ""


def chart_of(record: Record) -> Chart | None:
    """The chart of a row; None for rows that are drawn otherwise."""
    if isinstance(record, Machine):
        return power_over_speed(record)
    if isinstance(record, Material):
        return force_over_chip(record)
    if isinstance(record, CuttingData):
        return life_over_speed(record)
    return None


def power_over_speed(machine: Machine) -> Chart:
    """Power of a machine over its speed, by duty class [1/min, kW]."""
    lines = () if machine.curve is None else tuple(
        Line(name, tuple((point.speed_rpm, point.power) for point in duty.points))
        for name, duty in machine.curve.duty.items()
    )  # fmt: skip
    return Chart(("n", units.SPINDLE_SPEED), ("power", units.POWER), lines,
                 instead="" if lines else "no curve: power S1 and base speed count")  # fmt: skip


def force_over_chip(material: Material) -> Chart:
    """Specific cutting force over chip thickness at the material's own rake and hardness [mm, N/mm2]."""
    h = np.geomspace(*_CHIPS, _POINTS)
    law = law_of_material(material, np.ones(3), _HELIX, _EDGE_RADIUS)
    named = zip(("tangential", "radial", "axial"), law.directions(h) / h, strict=True)
    lines = tuple(Line(name, tuple(zip(h.tolist(), values.tolist(), strict=True))) for name, values in named)
    return Chart(("h", units.CHIP), ("kc", units.STRESS), lines)


def life_over_speed(row: CuttingData) -> Chart:
    """Median edge life over surface speed at the row's own engagement and typical chip [m/min, min]."""
    axes = ("vc", units.SURFACE_SPEED), ("edge life", units.LONG_MINUTES)
    low, typical, high = row.vc_low_m_min, row.vc_typ_m_min, row.vc_high_m_min
    chip, n, life = row.hex_typ_d10_mm, row.taylor_n, row.ref_life_min
    if low is None or typical is None or high is None or chip is None or n is None or life is None:
        return Chart(*axes, instead="no life: it needs the three speeds, the typical chip, n of Taylor and its life")
    ends = row.life_end_over_ref or LifeLaw.ends
    law = LifeLaw(typical, chip, row.hex_min_rubbing_mm or 0.0, life, n, row.taylor_feed_exp or 0.0, ends=ends)
    vc = np.linspace(_BELOW * low, _ABOVE * high, _POINTS)
    points = tuple(zip(vc.tolist(), law.median(vc, chip, 1.0).tolist(), strict=True))
    return Chart(*axes, (Line("median", points),), (("low", low), ("typ", typical), ("high", high)))
