"""What was read from the drawing of a feature: outlines in millimetres, or why there are none."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

from lesna.model.base import Number

Point: TypeAlias = tuple[Number, Number]
Outline: TypeAlias = tuple[Point, ...]


@dataclass(frozen=True)
class Drawn:
    """The outlines of a feature as its drawing has them now.

    Attributes
    ----------
    outline : tuple of tuple of float
        Floor that is cleared (x, y) [mm]; empty where the drawing gives none.
    islands : tuple of tuple
        What stays standing in it [mm].
    stock : tuple of tuple
        Outlines of the material; empty where it is everywhere [mm].
    keep_out : tuple of tuple
        Where the cutter never goes, such as clamps [mm].
    layers : tuple of str
        Layers of the drawing that hold outlines.
    told : str
        What was read, in a sentence.
    trouble : str
        Why there is no outline; empty where there is one.
    """

    outline: Outline = ()
    islands: tuple[Outline, ...] = ()
    stock: tuple[Outline, ...] = ()
    keep_out: tuple[Outline, ...] = ()
    layers: tuple[str, ...] = ()
    told: str = ""
    trouble: str = ""
