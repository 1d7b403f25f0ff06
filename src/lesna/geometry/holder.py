"""The outside of a holder between its face and the gauge line: the one shape that is bent, drawn and kept clear of the part."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model.library_records import Holder, Taper, Tool

#: diameter of a holder's body near the flange over the taper's gauge diameter
_BODY_OVER_GAUGE = 0.9
#: a 40 taper, where the machine names none [mm]
_GAUGE, _PROJECTION = 44.45, 80.0
#: a holder's wall is at least this share of the shank
_LEAST_WALL = 0.1


@dataclass(frozen=True)
class HolderShape:
    """A cone from the face to the gauge line.

    Attributes
    ----------
    nose, body : float
        Diameter at the face and near the gauge line [mm].
    projection : float
        From the gauge line to the face [mm].
    """

    nose: float
    body: float
    projection: float

    def diameter_at(self, height: float) -> float:
        """Diameter at a height above the face [mm]."""
        return self.nose + min(height / self.projection, 1.0) * max(self.body - self.nose, 0.0)


def holder_shape(holder: Holder, taper: Taper | None, shank: float) -> HolderShape:
    """The shape of a holder around a shank.

    Parameters
    ----------
    holder : Holder
        Its row.
    taper : Taper or None
        The spindle nose it sits in; a 40 taper where none is known.
    shank : float
        Diameter it holds [mm].
    """
    nose = max(holder.nose_d12_mm + holder.nose_growth * (shank - 12.0), (1 + 2 * _LEAST_WALL) * shank)
    body = _BODY_OVER_GAUGE * (taper.gauge_diameter_mm if taper is not None else _GAUGE)
    return HolderShape(nose, body, taper.projection_mm if taper is not None else _PROJECTION)


def shank_diameter(tool: Tool) -> float:
    """Diameter that the holder holds [mm]; a face mill's body tapers to its arbor."""
    if tool.kind == "face":
        return 0.7 * tool.DC
    return tool.DMM if tool.DMM is not None else tool.DC
