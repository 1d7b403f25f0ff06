"""How a level is to be cut: what every generator is given besides the floor."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from lesna.physics import Array

#: loops of a trochoid: half of each through the material and a lifted way back, or round circles
LoopShape = Literal["half", "round"]


@dataclass(frozen=True)
class Standing:
    """What stands on a level before it is cut, cell by cell.

    Attributes
    ----------
    away : array (rows, columns)
        Distance of the cells' middles from what stands, negative in it [mm].
    origin : tuple of float
        Place of the first cell's middle (x, y) [mm].
    cell : float
        Edge of a cell [mm].
    """

    away: Array
    origin: tuple[float, float]
    cell: float


@dataclass(frozen=True)
class Demand:
    """How a level is to be cut.

    Attributes
    ----------
    radius : float
        Of the cutter [mm].
    stepover : float
        That is held [mm].
    wall : float
        Stock that stays on the walls [mm].
    top, floor : float
        Heights of the material and of the tip [mm].
    clear : float
        Height over everything [mm].
    lift : float
        Lift of a link within the cleared floor [mm].
    ramp_deg : float
        Angle of the helix [deg].
    zigzag : bool
        Whether every other pass may cut up, with the material on the left: shorter links.
    spring : bool
        Whether a closing pass goes round once more.
    plunges : bool
        Whether the tool cuts to its centre.
    loop : str
        Shape of a trochoid's loops.
    fine : float
        Cells across the radius of what is marched through.
    standing : Standing or None
        What stands; everything but the air where None.
    cut : tuple of array (n, 2)
        Ways of the middle that this cutter has already gone on this level [mm].
    """

    radius: float
    stepover: float
    wall: float = 0.0
    top: float = 0.0
    floor: float = -10.0
    clear: float = 5.0
    lift: float = 0.4
    ramp_deg: float = 3.0
    zigzag: bool = False
    spring: bool = False
    plunges: bool = True
    loop: LoopShape = "half"
    fine: float = 36.0
    standing: Standing | None = None
    cut: tuple[Array, ...] = ()


#: a stepover that was rounded to be typed still divides its floor [-]
_ROUNDING = 1e-4


def even_passes(span: float, stepover: float) -> int:
    """Rings or rows that come out even over a span, none more than a stepover apart.

    Examples
    --------
    >>> even_passes(10.0, 3.3333), even_passes(10.0, 3.3)
    (3, 4)
    """
    return max(math.ceil(span / stepover * (1.0 - _ROUNDING)), 1)
